import type { Ground } from "./schema.ts";
import { applyAffine, invertAffine } from "../../maths/affine.ts";
import { frameOf } from "./geometry.ts";
import type { Size } from "../../maths/rect.ts";
import { lensMap } from "./lens.ts";

/** A line drawn on the negative, full-size pixels. */
export type Line = readonly [x0: number, y0: number, x1: number, y1: number];

const STEPS = 12;
const MOST_DEGREES = 45;
const MOST_KEYSTONE = 0.6;

/** A line between two frame places → the same line on the negative. */
export function lineOnNegative(negative: Size, ground: Ground, [x0, y0, x1, y1]: Line): Line {
  const { toFlat, lens } = frameOf(negative, ground);
  const map = (x: number, y: number) => {
    const flat = applyAffine(toFlat, x, y);
    return lens ? lens.toNegative(...flat) : flat;
  };
  return [...map(x0, y0), ...map(x1, y1)];
}

/** The slant at which a line lies level, or upright when it is steep. */
export function straightenBy(negative: Size, ground: Ground, line: Line): number {
  const angle = slant(negative, { ...ground, angleDegrees: 0, crop: null }, line);
  const off = angle - 90 * Math.round(angle / 90);
  return Math.min(MOST_DEGREES, Math.max(-MOST_DEGREES, -off));
}

/** What makes two uprights parallel and upright. */
export interface Uprights {
  readonly keystoneVertical: number;
  readonly angleDegrees: number;
}

/**
 * Keystone and slant that make two lines upright: two unknowns, two equations, solved by Newton's method.
 * @returns null when no correction within the limits does it.
 */
export function makeUpright(negative: Size, ground: Ground, lines: readonly [Line, Line]): Uprights | null {
  const error = (keystoneVertical: number, angleDegrees: number) =>
    lines.map((line) => {
      const lens = { ...ground.lens, keystoneVertical };
      const angle = slant(negative, { ...ground, lens, angleDegrees, crop: null }, line);
      return angle - 90 - 180 * Math.round((angle - 90) / 180);
    });
  let k = ground.lens.keystoneVertical;
  let a = ground.angleDegrees;
  for (let i = 0; i < STEPS; i++) {
    const [e0, e1] = error(k, a);
    if (Math.hypot(e0, e1) < 1e-6) break;
    const h = 1e-4;
    const [k0, k1] = error(k + h, a).map((v, j) => (v - [e0, e1][j]) / h);
    const [a0, a1] = error(k, a + h).map((v, j) => (v - [e0, e1][j]) / h);
    const det = k0 * a1 - a0 * k1;
    if (Math.abs(det) < 1e-9) return null;
    k -= (e0 * a1 - a0 * e1) / det;
    a -= (k0 * e1 - e0 * k1) / det;
  }
  const [e0, e1] = error(k, a);
  const fits = Math.hypot(e0, e1) < 0.05 && Math.abs(k) <= MOST_KEYSTONE && Math.abs(a) <= MOST_DEGREES;
  return fits ? { keystoneVertical: k, angleDegrees: a } : null;
}

/** Angle of a line of the negative as it lies in the frame, degrees. */
function slant(negative: Size, ground: Ground, [x0, y0, x1, y1]: Line): number {
  const { toFlat } = frameOf(negative, ground);
  const lens = lensMap(negative, ground.lens);
  const toFrame = invertAffine(toFlat);
  const map = (x: number, y: number) => applyAffine(toFrame, ...(lens ? lens.toFlat(x, y) : ([x, y] as const)));
  const [ax, ay] = map(x0, y0);
  const [bx, by] = map(x1, y1);
  return (Math.atan2(by - ay, bx - ax) * 180) / Math.PI;
}
