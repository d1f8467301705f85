import { withLens, wholeCrop, type Negative, type Recipe } from "@yelm/core";
import { fitCrop } from "./crop-edits.ts";

/** Changes what shapes the frame; the crop stays inside what is shown, and light moves on what they were drawn on. */
export function changeFrame(
  recipe: Recipe,
  negative: Negative,
  { lens, ...change }: Partial<Pick<Recipe["ground"], "angleDegrees" | "lens">>,
): Recipe {
  const bent = lens ? withLens(recipe, negative, lens) : recipe;
  const ground = { ...bent.ground, ...change };
  const crop = ground.crop && fitCrop(ground.crop, wholeCrop(negative, ground));
  return { ...bent, ground: { ...ground, crop } };
}
