import type { Finding } from "../judge/finding.ts";
import type { Recipe } from "../recipe/schema.ts";
import { wholeView } from "../tiles/view.ts";
import { captureReading, type CaptureSentence } from "./capture-reading.ts";
import { mendEye, seenByEye, subjectOf, type AboutPlan, type EyeMend, type SeenByEye } from "./eye-way.ts";
import { withoutGrain, type AboutPrint, type Question } from "./reader.ts";
import { lookFor, type LookedFor } from "./second-look/second-look.ts";

/** How a print differs from another, in stops of what it reflects. */
export interface Difference {
  readonly width: number;
  readonly height: number;
  readonly stops: Float32Array;
  readonly most: number;
  readonly least: number;
  readonly mean: number;
}

const DIFFERENCE_EDGE = 420;
/** Darker than this is one black. */
const LEAST_LIGHT = 0.003;

export const judgeQuestions = {
  /** The print by squinting eyes, with the subject's place among the pulls. */
  eye: (async (reader, { recipe, plan }) =>
    seenByEye(reader, recipe, await subjectOf(reader, recipe, plan))) satisfies Question<AboutPlan, SeenByEye>,

  /** The smallest moves that bring the subject first; null when it is first, is not marked, or two and a half stops do not do it. */
  eyeMend: mendEye satisfies Question<AboutPlan, EyeMend | null>,

  /** What one look at a print finds; all of them one after the other are a second look. */
  lookFor: lookFor satisfies Question<AboutPlan & { readonly look: LookedFor }, Finding[]>,

  /** By how many stops a print is lighter (+) or darker (−) than another, place by place. */
  difference: (async ({ engine, size, fetch }, { recipe, other }) => {
    const [mine, its] = [recipe, other].map((one) => engine.prepare(withoutGrain(one)));
    const view = wholeView(mine.frame, size, DIFFERENCE_EDGE);
    await fetch(engine.tilesFor(mine, view));
    const here = engine.renderReflectance(mine, view).slice();
    await fetch(engine.tilesFor(its, view));
    const there = engine.renderReflectance(its, view);
    if (there.length !== here.length) throw new Error("Expected prints of one frame.");
    let [most, least, sum] = [0, 0, 0];
    const stops = here.map((v, i) => {
      const d = Math.log2(Math.max(LEAST_LIGHT, v) / Math.max(LEAST_LIGHT, there[i]));
      most = Math.max(most, d);
      least = Math.min(least, d);
      sum += d;
      return d;
    });
    return { width: view.width, height: view.height, stops, most, least, mean: sum / stops.length };
  }) satisfies Question<AboutPrint & { readonly other: Recipe }, Difference>,

  /** What the capture itself says, in a few sentences, before anything is done. */
  captureReading: ((reader, { recipe }) => captureReading(reader, recipe)) satisfies Question<
    AboutPrint,
    CaptureSentence[]
  >,
};
