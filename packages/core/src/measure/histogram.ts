import { lightToStops, printZone } from "../colour/stops.ts";
import { BARE, DEEPEST } from "./tone-ends.ts";

/** Scene stops that the ladder spans, about Zone V. */
export const LADDER_STOPS = { lowest: -9, highest: 4 } as const;
const BINS_PER_STOP = 8;
const BINS_PER_ZONE = 8;

/** How often each tone occurs; each list sums to 1 (or is all 0 for no pixels). */
export interface Histograms {
  /** Eighths of a stop from {@link LADDER_STOPS}.lowest up; lighter and darker light counts in the end bins. */
  readonly scene: number[];
  /** Eighths of a print zone from 0 to X. */
  readonly print: number[];
  /** Share of pixels that print as pure black and as pure white. */
  readonly black: number;
  readonly white: number;
}

/**
 * Counts tones.
 * @param light - scene light, 1.0 = sensor white.
 * @param reflectance - print reflectance 0–1, any length.
 */
export function histograms(light: Float32Array, reflectance: Float32Array): Histograms {
  const scene = new Array<number>((LADDER_STOPS.highest - LADDER_STOPS.lowest) * BINS_PER_STOP).fill(0);
  const print = new Array<number>(10 * BINS_PER_ZONE).fill(0);
  let black = 0;
  let white = 0;
  for (const e of light) scene[bin((lightToStops(e) - LADDER_STOPS.lowest) * BINS_PER_STOP, scene.length)]++;
  for (const r of reflectance) {
    print[bin(printZone(r) * BINS_PER_ZONE, print.length)]++;
    if (r < DEEPEST) black++;
    else if (r > BARE) white++;
  }
  const n = Math.max(1, reflectance.length);
  const share = (counts: number[], total: number) => counts.map((count) => count / Math.max(1, total));
  return { scene: share(scene, light.length), print: share(print, n), black: black / n, white: white / n };
}

function bin(position: number, bins: number): number {
  return position > 0 ? Math.min(bins - 1, Math.floor(position)) : 0;
}
