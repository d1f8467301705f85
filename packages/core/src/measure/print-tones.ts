import { lightToStops, printZone, stopsToLight } from "../colour/stops.ts";
import type { Shape } from "../parts/shape/schema.ts";
import { toneCurve } from "../parts/shape/tone-curve.ts";

/** How a print's tones lie, by the light that its curve is given. */
export interface PrintTones {
  /** Scene stops below which each of {@link TONE_SHARES} of the picture lies. */
  readonly stops: readonly number[];
}

/** Shares of the picture by which tones are told. */
export const TONE_SHARES: readonly number[] = [0.02, 0.05, 0.1, 0.25, 0.5, 0.75, 0.9, 0.95, 0.98];
const [DARK, MIDDLE, LIGHT] = [0.1, 0.5, 0.9].map((share) => TONE_SHARES.indexOf(share));
const LEAST_LIGHT = 1e-6;

/** Tones of a light, width·height values, 1.0 = sensor white. */
export function tonesOf(light: Float32Array): PrintTones {
  const sorted = light.slice().sort();
  const at = (share: number) => sorted[Math.round(share * (sorted.length - 1))];
  return { stops: TONE_SHARES.map((share) => lightToStops(Math.max(LEAST_LIGHT, at(share)))) };
}

/** What a print's tones are as a whole, zones. */
export interface TonesRead {
  /** The tone that a tenth, half, and nine tenths of the print lie below. */
  readonly dark: number;
  readonly middle: number;
  readonly light: number;
  /** From dark to light. */
  readonly span: number;
}

/** Print zones of tones under a shape, with more exposure (stops). */
export function readTones({ stops }: PrintTones, shape: Shape, exposure = 0): TonesRead {
  const curve = toneCurve(shape);
  const zone = (i: number) => printZone(curve(stopsToLight(stops[i] + exposure)));
  const [dark, middle, light] = [DARK, MIDDLE, LIGHT].map(zone);
  return { dark, middle, light, span: light - dark };
}
