import type { Histograms, Recipe } from "@yelm/core";
import { useEdit } from "../data/use-session.ts";
import { useAnswer } from "../workers/use-answer.ts";

const REST_MS = 220;
const names = new WeakMap<Recipe, string>();
let last = 0;

/** A name for a recipe as it stands: two of one object share it. */
export function recipeKey(recipe: Recipe): string {
  let name = names.get(recipe);
  if (!name) names.set(recipe, (name = `recipe ${++last}`));
  return name;
}

/** The tones of the print on the bench; they follow the edits at a short distance. */
export function useHistograms(): {
  readonly histograms: Histograms | null;
  readonly answer: ReturnType<typeof useAnswer<"measure">>;
} {
  const recipe = useEdit((state) => state.recipe);
  const answer = useAnswer("measure", { recipe }, { key: recipeKey(recipe), restMs: REST_MS });
  return { histograms: answer.data ?? null, answer };
}
