import type { CleanSpot, Recipe } from "@yelm/core";

const MOST_POINTS = 400;

/** A fresh spot; its source is found afterwards. */
export function newSpot(
  kind: CleanSpot["kind"],
  points: readonly (readonly [number, number])[],
  radius: number,
): CleanSpot {
  const inside = (v: number) => Math.min(1.1, Math.max(-0.1, v));
  return {
    id: crypto.randomUUID().slice(0, 8),
    kind,
    on: true,
    points: thinned(points).map(([x, y]): [number, number] => [inside(x), inside(y)]),
    radius: Math.min(0.2, Math.max(0.0005, radius)),
    softness: 0.4,
    sourceX: Math.min(1.2, 3 * radius),
    sourceY: 0,
  };
}

export function withSpot(recipe: Recipe, spot: CleanSpot): Recipe {
  const there = recipe.ground.clean.some(({ id }) => id === spot.id);
  const clean = there
    ? recipe.ground.clean.map((one) => (one.id === spot.id ? spot : one))
    : [...recipe.ground.clean, spot];
  return { ...recipe, ground: { ...recipe.ground, clean } };
}

export function withoutSpot(recipe: Recipe, id: string): Recipe {
  return { ...recipe, ground: { ...recipe.ground, clean: recipe.ground.clean.filter((spot) => spot.id !== id) } };
}

/** Every other point, again and again, until a stroke is short enough to be kept; the last stays. */
function thinned(points: readonly (readonly [number, number])[]): readonly (readonly [number, number])[] {
  if (points.length <= MOST_POINTS) return points;
  return thinned(points.filter((_, i) => i % 2 === 0 || i === points.length - 1));
}
