import { luminanceToLightness } from "../../colour/lab.ts";
import { shareAt, type Area } from "../../judge/eye.ts";
import type { Finding } from "../../judge/finding.ts";
import type { MarkKind, Plan } from "../../notes/schema.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { wholeView, type View } from "../../tiles/view.ts";
import { markedAs } from "../plan-areas.ts";
import { withoutGrain, type PictureReader } from "../reader.ts";

/** Long edges at which a print is looked at, and at which its ends are counted, pixels. */
export const JUDGE_EDGE = 700;
const ENDS_EDGE = 1600;

/** A print being looked at a second time; what several looks need is rendered once. */
export interface LookedPrint {
  readonly reader: PictureReader;
  readonly recipe: Recipe;
  readonly plan: Plan;
  readonly view: View;
  /** Without grain, L*. */
  readonly lightness: Float32Array;
  /** Larger: reflectance of the print and light of the scene. */
  readonly ends: { readonly view: View; readonly reflectance: Float32Array; readonly light: Float32Array };
  readonly marks: ReadonlyMap<MarkKind, Area>;
  /** How much of a mark lies at a place of the frame, 0–1. */
  markAt(kind: MarkKind, x: number, y: number): number;
  /** Another recipe's print in the same view, L*. */
  lightnessOf(recipe: Recipe): Promise<Float32Array>;
}

export async function openLookedPrint(reader: PictureReader, recipe: Recipe, plan: Plan): Promise<LookedPrint> {
  const { engine, size, fetch } = reader;
  const print = engine.prepare(withoutGrain(recipe));
  const view = wholeView(print.frame, size, JUDGE_EDGE);
  const lightnessOf = async (of: Recipe) => {
    const other = engine.prepare(withoutGrain(of));
    await fetch(engine.tilesFor(other, view));
    return toLightness(engine.renderReflectance(other, view));
  };
  const lightness = await lightnessOf(recipe);
  const large = wholeView(print.frame, size, ENDS_EDGE);
  await fetch(engine.tilesFor(print, large));
  const ends = {
    view: large,
    reflectance: engine.renderReflectance(print, large).slice(),
    light: engine.renderLight(print, large).slice(),
  };
  const marks = new Map<MarkKind, Area>();
  for (const kind of ["subject", "keep detail", "may go black", "may go white"] as const) {
    const area = await markedAs(reader, recipe, plan.marks, kind, JUDGE_EDGE);
    if (area) marks.set(kind, area);
  }
  return {
    reader,
    recipe,
    plan,
    view,
    lightness,
    ends,
    marks,
    markAt: (kind, x, y) => shareAt(marks.get(kind), x, y),
    lightnessOf,
  };
}

/** An act that mends, with the print that it makes. */
export function mended(recipe: Recipe, label: string, change: (recipe: Recipe) => Recipe): Finding["mend"] {
  return { label, recipe: change(recipe) };
}

export function toLightness(reflectance: ArrayLike<number>): Float32Array {
  return Float32Array.from(reflectance, (r) => luminanceToLightness(Math.min(1, Math.max(0, r))));
}
