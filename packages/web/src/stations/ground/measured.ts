import { useEdit } from "../../data/use-session.ts";
import { useAnswer } from "../../workers/use-answer.ts";

const REST_MS = 240;

/** What Ground shows of the picture; it follows the edits at a short distance. Tone and light moves change nothing of it. */
export function useGroundMeasured() {
  const recipe = useEdit((state) => state.recipe);
  const key = JSON.stringify([recipe.ground, recipe.weigh]);
  return useAnswer("ground", { recipe }, { key, restMs: REST_MS });
}
