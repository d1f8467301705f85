import type { Histograms } from "./histogram.ts";

export const KEYS = ["low", "normal", "high"] as const;
export type Key = (typeof KEYS)[number];

/** What the print's tones are as a whole. */
export interface KeyReading {
  readonly key: Key;
  /** Zones below which a twentieth, half, and nineteen twentieths of the print lie. */
  readonly dark: number;
  readonly middle: number;
  readonly light: number;
}

/** Middles between which a print is of normal key, zones. */
const NORMAL = [3.5, 6.5] as const;

/** Reads the key of a print from how often its zones occur. */
export function readKey({ print }: Pick<Histograms, "print">): KeyReading {
  const [dark, middle, light] = [0.05, 0.5, 0.95].map((share) => zoneBelow(print, share));
  const key = middle < NORMAL[0] ? "low" : middle > NORMAL[1] ? "high" : "normal";
  return { key, dark, middle, light };
}

/** The zone below which a share of the print lies; straight within a bin. */
function zoneBelow(counts: readonly number[], share: number): number {
  let passed = 0;
  for (let i = 0; i < counts.length; i++) {
    if (counts[i] > 0 && passed + counts[i] >= share) return (10 * (i + (share - passed) / counts[i])) / counts.length;
    passed += counts[i];
  }
  return 10;
}
