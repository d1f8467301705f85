import type { ToneEnds } from "@yelm/core";
import { beforeCurve } from "./before-curve.ts";
import { useNotes } from "../data/notes/use-notes.ts";
import { useEdit } from "../data/use-session.ts";
import { useAnswer } from "../workers/use-answer.ts";

/** The picture's light toward black and white, as the plan has it: of all that comes before the tone curve, so that moving points asks nothing. */
export function useEnds(enabled = true): { readonly ends: ToneEnds | null } {
  const recipe = useEdit((state) => state.recipe);
  const marks = useNotes(({ plan }) => plan.marks);
  const key = `${beforeCurve(recipe)} ${JSON.stringify(marks)}`;
  const answer = useAnswer("ends", { recipe, marks }, { key, restMs: enabled ? 200 : 0, enabled });
  return { ends: answer.data ?? null };
}
