import {
  clippingStops,
  formatSigned,
  histograms,
  lightToStops,
  readCharacteristic,
  readKey,
  shapeQuestions,
  sharesBeyond,
  toneEnds,
  wholeView,
  type Recipe,
} from "@yelm/core";
import { AppError } from "../errors.ts";
import { writeWholeBytes } from "../files/whole-file.ts";
import { openEngine } from "./open-engine.ts";
import { readRecipe } from "./read-recipe.ts";

export interface ShapeOptions {
  readonly recipe: string;
  readonly opening?: string;
  readonly measureBlur?: boolean;
  readonly out?: string;
  readonly json?: boolean;
}

const LONG_EDGE = 1600;

/** Tells the key, the ends and the characteristic of a capture under a recipe; begins with an opening, measures its blur. */
export async function shape(file: string, options: ShapeOptions): Promise<void> {
  let recipe: Recipe = await readRecipe(options.recipe);
  const { engine, info, size } = await openEngine(file);
  // Every tile lies in memory.
  const reader = { engine, size, capture: info, fetch: () => Promise.resolve() };
  if (options.opening !== undefined) {
    const found = await shapeQuestions.openings(reader, { recipe });
    const chosen = found.find(({ id }) => id === options.opening);
    if (!chosen)
      throw new AppError("bad_request", `Expected --opening to be one of ${found.map(({ id }) => id).join(", ")}.`);
    recipe = { ...recipe, shape: chosen.shape };
  }
  const blur = options.measureBlur ? await shapeQuestions.edgeBlur(reader, { recipe }) : undefined;
  if (blur) {
    const { sharpening } = recipe.shape;
    const radius = blur;
    recipe = {
      ...recipe,
      shape: { ...recipe.shape, sharpening: { ...sharpening, radius, amount: sharpening.amount || 1 } },
    };
  }
  if (options.out) await writeWholeBytes(options.out, Buffer.from(`${JSON.stringify(recipe, null, 2)}\n`));
  const print = engine.prepare(recipe);
  const view = wholeView(print.frame, size, LONG_EDGE);
  const light = engine.renderLight(print, view);
  const ends = toneEnds(light, view.width, view.height);
  const { key, dark, middle, light: lights } = readKey(histograms(light, engine.renderReflectance(print, view)));
  const clipping = clippingStops(recipe.shape);
  const told = {
    key,
    zones: { dark: round(dark), middle: round(middle), light: round(lights) },
    beyond: sharesBeyond(ends, recipe.shape),
    clipping: { black: finite(clipping.black), white: finite(clipping.white) },
    medianStops: round(lightToStops(light.slice().sort()[light.length >> 1])),
    characteristic: readCharacteristic(recipe.shape),
    blurPx: blur,
  };
  console.log(options.json ? JSON.stringify(told) : asText(told));
}

interface Told {
  readonly key: string;
  readonly zones: { readonly dark: number; readonly middle: number; readonly light: number };
  readonly beyond: { readonly black: number; readonly white: number };
  readonly characteristic: { readonly gamma: number; readonly dMin: number; readonly dMax: number };
  readonly medianStops: number;
  readonly blurPx: number | null | undefined;
}

function asText({ key, zones, beyond, characteristic, medianStops, blurPx }: Told): string {
  const percent = (share: number) => `${(100 * share).toFixed(2)} %`;
  const { gamma, dMin, dMax } = characteristic;
  const lines = [
    `${key} key: middle on Zone ${zones.middle}, nine tenths between ${zones.dark} and ${zones.light}`,
    `middle of the light ${formatSigned(medianStops, 1)} stops about V; as black as it gets ${percent(beyond.black)}, as white ${percent(beyond.white)}`,
    `gamma ${gamma.toFixed(2)}, density ${dMin.toFixed(2)} to ${dMax.toFixed(2)}`,
  ];
  if (blurPx !== undefined)
    lines.push(
      blurPx === null ? "too few clear edges to tell the capture's blur" : `the capture's blur: ${blurPx} pixels`,
    );
  return lines.join("\n");
}

const round = (value: number): number => Math.round(100 * value) / 100;
const finite = (value: number): number | null => (Number.isFinite(value) ? round(value) : null);
