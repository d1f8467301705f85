import { useEffect, useLayoutEffect, useRef } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";
import type { ActFacts } from "./act-facts.ts";
import { matches } from "./combo.ts";
import { keysOf, ownKeys } from "./key-settings.ts";

/** Something the user can do, by key, by the palette, or by its button. */
export interface Act extends Omit<ActFacts, "held"> {
  readonly run: () => void;
  readonly enabled?: boolean;
  /** Runs when a held key is let go; makes the act a held one. */
  readonly release?: () => void;
}

/** Acts that the present screen offers, in the order in which they were made. */
export const actRegistry = createStore<ReadonlyMap<string, Act>>(() => new Map());

/** Offers an act while the component is there: bound to its keys, listed and found. */
export function useAct(act: Act): void {
  const { id, label, group, enabled = true, release } = act;
  const keys = useStore(ownKeys, ({ keys: own }) => keysOf(act, own));
  const latest = useRef(act);
  // With the commit, not after it: a key pressed on what is seen must not do what was there before.
  useLayoutEffect(() => {
    latest.current = act;
  });
  const held = release !== undefined;
  // A held key is known by its place once it is down: the character may change when Shift is let go first.
  const down = useRef<string | null>(null);
  useHotkeys(
    "*",
    (event) => {
      if (event.type === "keyup") {
        down.current = null;
        latest.current.release?.();
      } else if (!(event.repeat && held)) {
        if (held) down.current = event.code;
        latest.current.run();
      }
    },
    {
      enabled: enabled && keys !== "",
      preventDefault: true,
      keyup: held,
      keydown: true,
      enableOnFormTags: true,
      ignoreEventWhen: (event) =>
        event.type === "keyup" ? event.code !== down.current : isTyping(event) || !matches(event, keys, isTaken),
    },
    [held, keys],
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

/** Whether a character is itself the key of an act that can be done at present. */
function isTaken(character: string): boolean {
  return [...actRegistry.getState().values()].some(({ keys }) => keys.split(" ").includes(character));
}

/** True while keys belong to something else: a text being typed, or a sheet that lies over the screen. */
function isTyping({ target }: KeyboardEvent): boolean {
  if (document.querySelector("dialog[open], [cmdk-dialog]")) return true;
  if (!(target instanceof HTMLElement)) return false;
  if (target.isContentEditable || target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement)
    return true;
  return target instanceof HTMLInputElement && !["range", "checkbox", "radio", "button"].includes(target.type);
}
