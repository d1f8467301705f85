import { useSyncExternalStore } from "react";

export const THEMES = ["night", "day"] as const;
export type Theme = (typeof THEMES)[number];
export const SURROUNDS = ["black", "grey", "paper"] as const;
export type Surround = (typeof SURROUNDS)[number];
/** Colours of the surround; middle grey is L* 50. */
export const SURROUND_COLOUR: Readonly<Record<Surround, string>> = {
  black: "#0c0c0c",
  grey: "#777777",
  paper: "#e9e9e9",
};

/** How the bench looks. */
export interface Look {
  readonly theme: Theme;
  readonly surround: Surround | "bench";
}

const KEY = "yelm-look";
const listeners = new Set<() => void>();
let look: Look = read();

export const currentLook = (): Look => look;

/** How the bench looks: remembered on this machine, the same in every window. */
export function useLook(): Look {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => look,
  );
}

export function changeLook(change: Partial<Look>): void {
  look = { ...look, ...change };
  localStorage.setItem(KEY, JSON.stringify(look));
  apply();
  for (const listener of listeners) listener();
}

export function toggleTheme(): void {
  changeLook({ theme: look.theme === "night" ? "day" : "night" });
}

/** Steps through bench, black, middle grey and paper. */
export function nextSurround(): void {
  const all = ["bench", ...SURROUNDS] as const;
  changeLook({ surround: all[(all.indexOf(look.surround) + 1) % all.length] });
}

export function surroundColour({ theme, surround }: Look): string {
  if (surround !== "bench") return SURROUND_COLOUR[surround];
  return theme === "night" ? "#353535" : "#a8a8a8";
}

export function apply(): void {
  document.documentElement.dataset.theme = look.theme;
}

function read(): Look {
  const standard: Look = { theme: "night", surround: "bench" };
  try {
    const stored = JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Look>;
    const theme = THEMES.find((t) => t === stored.theme) ?? standard.theme;
    return { theme, surround: SURROUNDS.find((s) => s === stored.surround) ?? standard.surround };
  } catch {
    return standard;
  }
}
