import type { CaptureInfo } from "../raw/capture-info.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Family } from "../parts/weigh/schema.ts";
import type { Recipe } from "../recipe/schema.ts";
import type { Engine } from "../render/engine.ts";
import type { PreparedPrint } from "../render/prepare.ts";
import { wholeView, type View } from "../tiles/view.ts";
import type { Size } from "../maths/rect.ts";
import { FamilyProbe } from "../parts/weigh/family-probe.ts";
import { colourCells, findFamilies, type ColourCells, type ColourPicture } from "../parts/weigh/find-families.ts";
import { mapFamilies, type FamilyMap } from "../parts/weigh/picture-colours.ts";

/** Long edge at which a picture's colours are looked at, pixels. */
export const COLOUR_EDGE = 600;

/** A picture's colours as shot, and the families that it shows by itself. */
export interface PictureLook {
  readonly picture: ColourPicture;
  readonly cells: ColourCells;
  readonly found: readonly Family[];
}

/** The view that {@link lookAtColours} renders: the recipe's frame, its light and white as shot. */
export function colourView(engine: Engine, { ground }: Recipe, size: Size): { print: PreparedPrint; view: View } {
  const plain = defaultRecipe();
  const { whiteBalance, exposureEv } = plain.ground;
  const print = engine.prepare({ ...plain, ground: { ...ground, whiteBalance, exposureEv } });
  return { print, view: wholeView(print.frame, size, COLOUR_EDGE) };
}

/** Counts a picture's colours and finds its families. The view's tiles have to be at hand. */
export function lookAtColours(engine: Engine, { print, view }: ReturnType<typeof colourView>): PictureLook {
  const picture = { planes: engine.renderWorking(print, view), width: view.width, height: view.height };
  const cells = colourCells(picture);
  return { picture, cells, found: findFamilies(cells) };
}

/** A picture seen through a recipe's families, or through those found in it while the recipe has none. */
export interface PictureReading {
  /** The recipe with these families in it. */
  readonly recipe: Recipe;
  readonly map: FamilyMap;
  readonly probe: FamilyProbe;
}

export function readPicture(
  { picture, cells, found }: PictureLook,
  capture: CaptureInfo,
  recipe: Recipe,
): PictureReading {
  const families = recipe.weigh.families.length > 0 ? recipe.weigh.families : [...found];
  const full = { ...recipe, weigh: { ...recipe.weigh, families } };
  const map = mapFamilies(full.weigh, picture, cells);
  return { recipe: full, map, probe: new FamilyProbe(capture, full, map.facts) };
}
