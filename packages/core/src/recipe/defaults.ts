import { defaultOf } from "../schema/defaults.ts";
import { recipeSchema, type Recipe } from "./schema.ts";

/** A fresh recipe: plain luminance, straight curve, nothing else. */
export function defaultRecipe(): Recipe {
  return defaultOf(recipeSchema) as Recipe;
}
