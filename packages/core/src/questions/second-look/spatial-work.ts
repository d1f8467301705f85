import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";

/** A recipe without what works by neighbourhood. */
export function withoutSpatial(recipe: Recipe): Recipe {
  const { localContrast, detail, scatter, haze, openShadows, holdHighlights, sharpening } = defaultRecipe().shape;
  const moves = recipe.light.moves.map((move) => ({
    ...move,
    effects: { ...move.effects, local: 0, fine: 0, softness: 0, haze: 0 },
  }));
  return {
    ...recipe,
    shape: {
      ...recipe.shape,
      localContrast,
      detail,
      scatter,
      haze,
      openShadows,
      holdHighlights,
      sharpening: { ...sharpening, amount: 0 },
    },
    light: { ...recipe.light, moves },
  };
}

/** Half of every gain of detail that raises it. */
export function softened(recipe: Recipe): Recipe {
  const half = <T extends Record<string, number>>(gains: T) =>
    Object.fromEntries(
      Object.entries(gains).map(([name, gain]) => [name, gain > 0 ? Math.round(50 * gain) / 100 : gain]),
    ) as T;
  const { shape } = recipe;
  return {
    ...recipe,
    shape: {
      ...shape,
      localContrast: half(shape.localContrast),
      detail: half(shape.detail),
      haze: shape.haze > 0 ? shape.haze / 2 : shape.haze,
    },
  };
}
