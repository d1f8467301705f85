import type { Recipe } from "@yelm/core";
import { nameOf } from "./use-histograms.ts";

/** A name for everything of a recipe that comes before the tone curve: what is measured there changes with it alone. */
export function beforeCurve({ ground, weigh, shape, light, finish }: Recipe): string {
  const { localContrast, detail, scatter, sharpening, openShadows, holdHighlights, haze } = shape;
  const objects = [ground, weigh, localContrast, detail, scatter, sharpening, light, finish.edgeBurn].map(nameOf);
  return [...objects, openShadows, holdHighlights, haze].join();
}
