import type { Carry } from "../../shapes/shape.ts";
import type { Lens } from "./schema.ts";
import type { Size } from "../../maths/rect.ts";

/** The flat picture ↔ the negative, both in continuous full-size pixels. */
export interface LensMap {
  toNegative(x: number, y: number): [number, number];
  toFlat(x: number, y: number): [number, number];
  /** For the kernel: centre, half diagonal, distortion, and the two terms of perspective. */
  readonly centreX: number;
  readonly centreY: number;
  readonly radius: number;
  readonly distortion: number;
  readonly perspectiveX: number;
  readonly perspectiveY: number;
}

const NEWTON_STEPS = 6;

/**
 * What a recipe's lens corrections do to places; null when there are none. A place of the flat picture is first moved by
 * the perspective, (u, v) / (1 + px·u + py·v), then bent as the lens bends: scene radius = r·(1 + k·r²) for a radius r on
 * the negative (the first term of Brown's model). Lengths are in half diagonals.
 */
export function lensMap(
  { width, height }: Size,
  { distortion, keystoneVertical, keystoneHorizontal }: Omit<Lens, "fallOffStops">,
): LensMap | null {
  if (distortion === 0 && keystoneVertical === 0 && keystoneHorizontal === 0) return null;
  const centreX = width / 2;
  const centreY = height / 2;
  const radius = Math.hypot(width, height) / 2;
  const perspectiveX = keystoneHorizontal;
  const perspectiveY = -keystoneVertical;
  return {
    centreX, centreY, radius, distortion, perspectiveX, perspectiveY,
    toNegative(x, y) {
      const u = (x - centreX) / radius;
      const v = (y - centreY) / radius;
      const q = 1 / (1 + perspectiveX * u + perspectiveY * v);
      const s = bend(distortion * q * q * (u * u + v * v)) * q * radius;
      return [centreX + s * u, centreY + s * v];
    },
    toFlat(x, y) {
      const u = (x - centreX) / radius;
      const v = (y - centreY) / radius;
      const s = 1 + distortion * (u * u + v * v);
      // The perspective's inverse is a perspective with the signs turned.
      const q = s / (1 - s * (perspectiveX * u + perspectiveY * v));
      return [centreX + q * u * radius, centreY + q * v * radius];
    },
  }; // prettier-ignore
}

/** Solves s·(1 + q·s²) = 1 for s: how much nearer to the centre a place lies on the negative than in the scene. */
function bend(q: number): number {
  let s = 1 / (1 + q);
  for (let i = 0; i < NEWTON_STEPS; i++) s -= (s + q * s * s * s - 1) / (1 + 3 * q * s * s);
  return s;
}

/**
 * Where a place of the flat picture goes when lens corrections change, in long edges; null when nothing moves.
 */
export function carryBetween(negative: Size, from: Lens, to: Lens): Carry | null {
  const before = lensMap(negative, from);
  const after = lensMap(negative, to);
  if (!before && !after) return null;
  const edge = Math.max(negative.width, negative.height);
  return (x, y) => {
    const [nx, ny] = before ? before.toNegative(x * edge, y * edge) : [x * edge, y * edge];
    const [fx, fy] = after ? after.toFlat(nx, ny) : [nx, ny];
    return [fx / edge, fy / edge];
  };
}
