import type { Size } from "../maths/rect.ts";
import { fitCrop } from "../parts/ground/crop.ts";
import { wholeCrop } from "../parts/ground/geometry.ts";
import { carryBetween } from "../parts/ground/lens.ts";
import type { Ground, Lens } from "../parts/ground/schema.ts";
import { PARTS } from "./parts.ts";
import type { Recipe } from "./schema.ts";

/** Changes the lens corrections of a recipe; what was drawn on the picture stays on what it was drawn on. */
export function withLens(recipe: Recipe, negative: Size, lens: Lens): Recipe {
  const bent = { ...recipe, ground: { ...recipe.ground, lens } };
  const carry = carryBetween(negative, recipe.ground.lens, lens);
  if (!carry) return bent;
  const parts = PARTS.map((part) => [part.name, part.carry(bent[part.name], carry)]);
  return { ...bent, ...(Object.fromEntries(parts) as Partial<Recipe>) };
}

/** Changes what shapes the frame: the crop stays inside what is shown, and what was drawn goes along with the lens. */
export function changeFrame(
  recipe: Recipe,
  negative: Size,
  { lens, ...change }: Partial<Pick<Ground, "angleDegrees" | "lens">>,
): Recipe {
  const bent = lens ? withLens(recipe, negative, lens) : recipe;
  const ground = { ...bent.ground, ...change };
  const crop = ground.crop && fitCrop(ground.crop, wholeCrop(negative, ground));
  return { ...bent, ground: { ...ground, crop } };
}
