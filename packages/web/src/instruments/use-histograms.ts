import type { Histograms } from "@yelm/core";
import { useEdit } from "../data/use-session.ts";
import { useAnswer } from "../workers/use-answer.ts";

const REST_MS = 220;
const names = new WeakMap<object, string>();
let last = 0;

/** A name for a recipe, or a part of one, as it stands: two of one object share it. */
export function nameOf(value: object): string {
  let name = names.get(value);
  if (!name) names.set(value, (name = `recipe ${++last}`));
  return name;
}

/** The tones of the print on the bench; they follow the edits at a short distance. */
export function useHistograms(): {
  readonly histograms: Histograms | null;
  readonly answer: ReturnType<typeof useAnswer<"measure">>;
} {
  const recipe = useEdit((state) => state.recipe);
  const answer = useAnswer("measure", { recipe }, { key: nameOf(recipe), restMs: REST_MS });
  return { histograms: answer.data ?? null, answer };
}
