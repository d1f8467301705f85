import { monotoneCubic } from "./monotone-cubic.ts";

/** Points of a free curve: lightness in, lightness out, both 0–1, the first rising. */
export type CurvePoints = [number, number][];

/** The free curve that changes nothing. */
export const STRAIGHT_CURVE: CurvePoints = [
  [0, 0],
  [1, 1],
];

/** A free curve from lightness to lightness, both 0–1; null when it changes nothing. */
export function curveThrough(points: CurvePoints): ((lightness: number) => number) | null {
  if (points.every(([x, y]) => x === y) && points[0][0] === 0 && points.at(-1)![0] === 1) return null;
  return monotoneCubic(points);
}
