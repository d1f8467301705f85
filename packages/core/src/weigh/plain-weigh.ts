import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";

/** The same Weigh with plain luminance and unmoved families: what it is compared with. */
export function plainWeigh(weigh: Recipe["weigh"]): Recipe["weigh"] {
  const { by, red, green, blue } = defaultRecipe().weigh;
  return { ...weigh, families: weigh.families.map((family) => ({ ...family, stops: 0 })), by, red, green, blue };
}
