import { groundSchema } from "../parts/ground/schema.ts";
import { shapeSchema, type Shape } from "../parts/shape/schema.ts";
import { rangeOf } from "../schema/defaults.ts";
import { copyParts } from "../recipe/copied-parts.ts";
import type { Recipe } from "../recipe/schema.ts";
import { readTones, type PrintTones } from "./print-tones.ts";

/** What can be matched to a pattern. */
export const MATCHED_PARTS = ["exposure", "grade", "toning", "grain"] as const;
export type MatchedPart = (typeof MATCHED_PARTS)[number];

/** A print with how its tones lie. */
export interface TonedPrint {
  readonly recipe: Recipe;
  readonly tones: PrintTones;
}

const HALVINGS = 30;
const EXPOSURE = rangeOf(groundSchema, "exposureEv");
const GRADE = rangeOf(shapeSchema, "grade");

/**
 * A print made like a pattern: exposure so that its middle lies on the pattern's zone, grade so that its tones span as much, tone and
 * grain taken over. The print's own points, curve and moves stay.
 */
export function matchPrint(print: TonedPrint, pattern: TonedPrint, parts: readonly MatchedPart[]): Recipe {
  const { recipe, tones } = print;
  const wanted = readTones(pattern.tones, pattern.recipe.shape);
  const { exposureEv } = recipe.ground;
  const shapeAt = (grade: number): Shape => ({ ...recipe.shape, grade });
  /** More exposure that brings the middle to the pattern's, under a grade. */
  const exposureAt = (grade: number) => {
    if (!parts.includes("exposure")) return 0;
    const [low, high] = [EXPOSURE.minimum - exposureEv, EXPOSURE.maximum - exposureEv];
    return rising((more) => readTones(tones, shapeAt(grade), more).middle - wanted.middle, low, high);
  };
  const grade = parts.includes("grade")
    ? rising((at) => readTones(tones, shapeAt(at), exposureAt(at)).span - wanted.span, GRADE.minimum, GRADE.maximum)
    : recipe.shape.grade;
  const round = (v: number) => Math.round(100 * v) / 100;
  const toned = {
    ...recipe,
    ground: { ...recipe.ground, exposureEv: round(exposureEv + exposureAt(grade)) },
    shape: { ...recipe.shape, grade: round(grade) },
  };
  return copyParts(
    pattern.recipe,
    toned,
    parts.filter((part) => part === "toning" || part === "grain"),
  );
}

/** Where a rising function is nought within a range, or the end nearest to that. */
function rising(of: (at: number) => number, minimum: number, maximum: number): number {
  let [low, high] = [minimum, maximum];
  for (let i = 0; i < HALVINGS; i++) {
    const middle = (low + high) / 2;
    if (of(middle) < 0) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}
