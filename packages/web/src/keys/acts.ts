import { useEffect, useRef } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { createStore } from "zustand/vanilla";

/** Where an act is listed. */
export type ActGroup = "Go" | "Picture" | "Print" | "Stations" | "Light" | "Bench" | "Roll";

/** Something the user can do, by key, by the palette, or by its button. */
export interface Act {
  readonly id: string;
  readonly label: string;
  readonly group: ActGroup;
  /** As react-hotkeys-hook writes them; several are separated by commas. Empty: only in the palette. */
  readonly keys: string;
  readonly run: () => void;
  readonly enabled?: boolean;
  /** Runs when a held key is let go; makes the act a held one. */
  readonly release?: () => void;
}

/** Acts that the present screen offers, in the order in which they were made. */
export const actRegistry = createStore<ReadonlyMap<string, Act>>(() => new Map());

/** Offers an act while the component is there: bound to its keys, listed on `?` and in the palette. */
export function useAct(act: Act): void {
  const { id, label, group, keys, enabled = true, release } = act;
  const latest = useRef(act);
  useEffect(() => {
    latest.current = act;
  });
  const held = release !== undefined;
  useHotkeys(
    keys || "f24",
    (event) => {
      if (event.repeat && held) return;
      if (event.type === "keyup") latest.current.release?.();
      else latest.current.run();
    },
    {
      enabled: enabled && keys !== "",
      preventDefault: true,
      keyup: held,
      keydown: true,
      enableOnFormTags: true,
      ignoreEventWhen: isTyping,
    },
    [held],
  );
  useEffect(() => {
    if (!enabled) return;
    const listed: Act = { id, label, group, keys, run: () => latest.current.run() };
    actRegistry.setState(
      (acts) => new Map(acts).set(id, held ? { ...listed, release: () => undefined } : listed),
      true,
    );
    return () => {
      actRegistry.setState((acts) => {
        const left = new Map(acts);
        left.delete(id);
        return left;
      }, true);
    };
  }, [id, label, group, keys, enabled, held]);
}

/** True while keys belong to something else: a text being typed, or a sheet that lies over the screen. */
function isTyping({ target, type }: KeyboardEvent): boolean {
  if (type === "keyup") return false;
  if (document.querySelector("dialog[open], [cmdk-dialog]")) return true;
  if (!(target instanceof HTMLElement)) return false;
  if (target.isContentEditable || target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement)
    return true;
  return target instanceof HTMLInputElement && !["range", "checkbox", "radio", "button"].includes(target.type);
}

const KEY_WORDS: Readonly<Record<string, string>> = {
  mod: "Ctrl",
  shift: "Shift",
  alt: "Alt",
  slash: "/",
  bracketleft: "[",
  bracketright: "]",
  minus: "−",
  equal: "+",
  left: "←",
  right: "→",
  delete: "Del",
  escape: "Esc",
  comma: ",",
  period: ".",
};

/** The first of an act's keys as it is printed on a keyboard: "Ctrl Z", "[". */
export function keyText(keys: string): string {
  if (keys === "shift+slash") return "?";
  return keys
    .split(",")[0]
    .split("+")
    .map((key) => KEY_WORDS[key] ?? key.toUpperCase())
    .join(" ");
}
