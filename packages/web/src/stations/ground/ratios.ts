import { SAME_RATIO, STANDARD_RATIOS, type Ratio } from "@yelm/core";
import { createStore } from "zustand/vanilla";

const KEY = "yelm-ratios";
const WIDEST = 5;

/** The user's own list of ratios, kept on this machine. */
export const ratios = createStore<readonly Ratio[]>(read);

/** "7:3", "2.39" or "2,39"; null for what is none. The longer side comes first in the answer. */
export function parseRatio(text: string): Ratio | null {
  const parts = text
    .trim()
    .replaceAll(",", ".")
    .split(/[:/x×]/)
    .map(Number);
  const [a, b = 1] = parts;
  if (parts.length > 2 || !(a > 0) || !(b > 0)) return null;
  const value = Math.max(a, b) / Math.min(a, b);
  if (!(value <= WIDEST)) return null;
  const [long, short] = a >= b ? [a, b] : [b, a];
  return { value, text: `${Number(long.toFixed(3))}:${Number(short.toFixed(3))}` };
}

export function addRatio(ratio: Ratio): void {
  keep([...ratios.getState().filter(({ value }) => Math.abs(value - ratio.value) > SAME_RATIO), ratio]);
}

export function dropRatio(value: number): void {
  keep(ratios.getState().filter((ratio) => ratio.value !== value));
}

function keep(list: readonly Ratio[]): void {
  const sorted = [...list].sort((a, b) => a.value - b.value);
  ratios.setState(sorted, true);
  localStorage.setItem(KEY, JSON.stringify(sorted.map(({ text }) => text)));
}

function read(): readonly Ratio[] {
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(KEY) ?? "null");
    if (!Array.isArray(stored)) return STANDARD_RATIOS;
    return stored.map((text) => parseRatio(String(text))).filter((ratio) => ratio !== null);
  } catch {
    return STANDARD_RATIOS;
  }
}
