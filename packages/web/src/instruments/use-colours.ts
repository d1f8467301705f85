import { NEUTRAL_LABEL, type Family, type PictureColours, type Recipe } from "@yelm/core";
import { useEdit } from "../data/use-session.ts";
import { useAnswer } from "../workers/use-answer.ts";

const REST_MS = 120;

/** The picture's colours, seen anew when the frame or the families change. */
export function useColours(enabled = true) {
  const recipe = useEdit((state) => state.recipe);
  const { families, softness, passage } = recipe.weigh;
  const key = JSON.stringify([frameKey(recipe), familyKey(families), softness, passage]);
  return useAnswer("colours", { recipe }, { key, restMs: REST_MS, enabled });
}

/** The name of the family of a place, 0–1 of the frame; "neutral" where no family claims it. */
export function familyNameAt({ map, families }: PictureColours, x: number, y: number): string {
  const label = map.labels[Math.floor(y * map.height) * map.width + Math.floor(x * map.width)];
  return label === NEUTRAL_LABEL ? "neutral" : (families[label]?.name ?? "");
}

/** What of families decides which colours are theirs. */
export function familyKey(families: readonly Family[]): string {
  return JSON.stringify(
    families.map(({ id, hueDegrees, saturation, lightness, reach }) => [id, hueDegrees, saturation, lightness, reach]),
  );
}

/** What of a recipe decides which colours are in the picture. */
function frameKey({ ground: { angleDegrees, quarterTurns, crop, lens } }: Recipe): string {
  return JSON.stringify([angleDegrees, quarterTurns, crop, lens]);
}
