import type { Vector3 } from "../colour/matrix.ts";
import { applyAffine, invertAffine } from "../maths/affine.ts";
import { histograms, type Histograms } from "../measure/histogram.ts";
import { squint, type Squint } from "../measure/pulls.ts";
import { tonesOf, type PrintTones } from "../measure/print-tones.ts";
import { toneEnds, type ToneEnds } from "../measure/tone-ends.ts";
import type { Size } from "../maths/rect.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import { shareAt } from "../judge/eye.ts";
import type { PlanMark } from "../notes/schema.ts";
import { wholeView, type View } from "../tiles/view.ts";
import { markedAs } from "./plan-areas.ts";
import { wholeLight, withoutGrain, type AboutPrint, type Question } from "./reader.ts";

const MEASURE_EDGE = 480;
const SQUINT_EDGE = 260;
/** Long edge at which a picture's ends are looked at: specks are small. */
const ENDS_EDGE = 1600;
const MARKS_EDGE = 400;
/** Light that is near no end. */
const MIDDLE_LIGHT = 0.1;
/** How many times what must keep detail counts toward the ends. */
const KEPT_WEIGHT = 10;
const PROBE_PIXELS = 5;
const PICK_PIXELS = 15;
const AS_SHOT = defaultRecipe().ground.whiteBalance;

/** The light and grey at one spot. */
export interface Probe {
  /** Scene light after weighing and light moves, 1.0 = sensor white. */
  readonly light: number;
  readonly reflectance: number;
}

/** The same of a pinned spot, and where it lies in the frame, 0–1. */
export interface SpotProbe extends Probe {
  readonly at: { readonly x: number; readonly y: number };
}

/** A place of the frame, full-size pixels. */
export interface AtSpot extends AboutPrint {
  readonly x: number;
  readonly y: number;
}

/** A small picture, RGBA. */
export interface Sketch extends Size {
  readonly memory: ArrayBuffer;
}

export const pictureQuestions = {
  /** How often each tone occurs, in scene and print. */
  measure: (async ({ engine, size, fetch }, { recipe }) => {
    const print = engine.prepare(recipe);
    const view = wholeView(print.frame, size, MEASURE_EDGE);
    await fetch(engine.tilesFor(print, view));
    return histograms(engine.renderLight(print, view), engine.renderReflectance(print, view));
  }) satisfies Question<AboutPrint, Histograms>,

  /** The print as squinting eyes see it from so many diagonals away, and where it draws them. */
  squint: (async ({ size, engine, fetch }, { recipe, distance }) => {
    const print = engine.prepare(withoutGrain(recipe));
    const view = wholeView(print.frame, size, SQUINT_EDGE);
    await fetch(engine.tilesFor(print, view));
    return squint(engine.renderReflectance(print, view), view, distance);
  }) satisfies Question<AboutPrint & { readonly distance: number }, Squint>,

  /** How the print's tones lie, by the light that its curve is given. */
  tones: (async (reader, { recipe }) => tonesOf(await wholeLight(reader, recipe, MEASURE_EDGE))) satisfies Question<
    AboutPrint,
    PrintTones
  >,

  /**
   * The picture's light toward black and white. What the plan lets go white or black does not count there; what must keep detail counts
   * ten times.
   */
  ends: (async (reader, { recipe, marks = [] }) => {
    const { size, engine, fetch } = reader;
    const [keep, black, white] = [
      await markedAs(reader, recipe, marks, "keep detail", MARKS_EDGE),
      await markedAs(reader, recipe, marks, "may go black", MARKS_EDGE),
      await markedAs(reader, recipe, marks, "may go white", MARKS_EDGE),
    ];
    const print = engine.prepare(recipe);
    const view = wholeView(print.frame, size, ENDS_EDGE);
    await fetch(engine.tilesFor(print, view));
    const light = engine.renderLight(print, view);
    await reader.pause?.();
    if (!keep && !black && !white) return toneEnds(light, view.width, view.height);
    const weights = new Float32Array(light.length);
    for (let i = 0; i < light.length; i++) {
      const [x, y] = [((i % view.width) + 0.5) / view.width, (Math.floor(i / view.width) + 0.5) / view.height];
      if (shareAt(white, x, y) > 0.5) light[i] = Math.min(light[i], MIDDLE_LIGHT);
      if (shareAt(black, x, y) > 0.5) light[i] = Math.max(light[i], MIDDLE_LIGHT);
      weights[i] = shareAt(keep, x, y) > 0.5 ? KEPT_WEIGHT : 1;
    }
    return toneEnds(light, view.width, view.height, weights);
  }) satisfies Question<AboutPrint & { readonly marks?: readonly PlanMark[] }, ToneEnds>,

  /** Light and grey of places on the flat picture, long edges; null where the frame does not show it. */
  spots: (async (reader, { recipe, places }) => {
    const { size, engine } = reader;
    const { frame } = engine.prepare(withoutGrain(recipe));
    const toFrame = invertAffine(frame.toFlat);
    const longEdge = Math.max(size.width, size.height);
    const found: (SpotProbe | null)[] = [];
    for (const [px, py] of places) {
      const [x, y] = applyAffine(toFrame, px * longEdge, py * longEdge);
      const inside = x >= 0 && y >= 0 && x < frame.width && y < frame.height;
      const at = { x: x / frame.width, y: y / frame.height };
      found.push(inside ? { ...(await pictureQuestions.probe(reader, { recipe, x, y })), at } : null);
    }
    return found;
  }) satisfies Question<AboutPrint & { readonly places: readonly (readonly [number, number])[] }, (SpotProbe | null)[]>,

  /** Light and grey at a spot. */
  probe: (async ({ engine, fetch }, { recipe, ...at }) => {
    const print = engine.prepare(withoutGrain(recipe));
    const view = spotView(print.frame, at, PROBE_PIXELS);
    await fetch(engine.tilesFor(print, view));
    return { light: mean(engine.renderLight(print, view)), reflectance: mean(engine.renderReflectance(print, view)) };
  }) satisfies Question<AtSpot, Probe>,

  /** The colour of a spot as shot, before white balance and exposure. */
  pick: (async ({ engine, fetch }, { recipe, ...at }) => {
    const plain = { ...defaultRecipe(), ground: { ...recipe.ground, exposureEv: 0, whiteBalance: AS_SHOT } };
    const print = engine.prepare(plain);
    const view = spotView(print.frame, at, PICK_PIXELS);
    await fetch(engine.tilesForColour(print, view));
    const [red, green, blue] = engine.renderWorking(print, view).map(mean);
    return [red, green, blue] as const;
  }) satisfies Question<AtSpot, Vector3>,

  /** The whole print, small and without grain. */
  sketch: (async ({ engine, size, fetch }, { recipe, longEdge }) => {
    const print = engine.prepare(withoutGrain(recipe));
    const view = wholeView(print.frame, size, longEdge);
    await fetch(engine.tilesFor(print, view));
    const memory = new ArrayBuffer(4 * view.width * view.height);
    engine.renderRgba(print, view, new Uint8Array(memory));
    return { width: view.width, height: view.height, memory };
  }) satisfies Question<AboutPrint & { readonly longEdge: number }, Sketch>,
};

/** Some pixels about a place, within the frame. */
function spotView(frame: Size, { x, y }: { readonly x: number; readonly y: number }, pixels: number): View {
  const within = (at: number, length: number) => Math.max(0, Math.min(length - pixels, Math.floor(at) - (pixels >> 1)));
  return {
    x: within(x, frame.width),
    y: within(y, frame.height),
    width: Math.min(pixels, frame.width),
    height: Math.min(pixels, frame.height),
    scale: 1,
    level: 0,
  };
}

function mean(values: Float32Array): number {
  return values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);
}
