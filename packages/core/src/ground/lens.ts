import type { Lens, LightMove, Recipe } from "../recipe/schema.ts";
import type { Size } from "./geometry.ts";

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

/** Changes the lens corrections of a recipe; its light moves stay on what they were drawn on. */
export function withLens(recipe: Recipe, negative: Size, lens: Lens): Recipe {
  const before = lensMap(negative, recipe.ground.lens);
  const after = lensMap(negative, lens);
  const edge = Math.max(negative.width, negative.height);
  const carry = (x: number, y: number): [number, number] => {
    const [nx, ny] = before ? before.toNegative(x * edge, y * edge) : [x * edge, y * edge];
    const [fx, fy] = after ? after.toFlat(nx, ny) : [nx, ny];
    return [fx / edge, fy / edge];
  };
  const moves = before || after ? recipe.light.moves.map((move) => carryMove(move, carry)) : recipe.light.moves;
  return { ...recipe, ground: { ...recipe.ground, lens }, light: { ...recipe.light, moves } };
}

function carryMove(move: LightMove, carry: (x: number, y: number) => [number, number]): LightMove {
  const { shape } = move;
  const inside = (v: number) => Math.min(2, Math.max(-1, v));
  if (shape.kind === "ellipse") {
    const [x, y] = carry(shape.x, shape.y);
    return { ...move, shape: { ...shape, x: inside(x), y: inside(y) } };
  }
  const strokes = shape.strokes.map((stroke) => ({
    ...stroke,
    points: stroke.points.map(([x, y, pressure]): [number, number, number] => {
      const [nx, ny] = carry(x, y);
      return [inside(nx), inside(ny), pressure];
    }),
  }));
  return { ...move, shape: { ...shape, strokes } };
}
