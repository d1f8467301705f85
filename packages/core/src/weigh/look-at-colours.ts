import { defaultRecipe } from "../recipe/defaults.ts";
import type { Family, Recipe } from "../recipe/schema.ts";
import type { Engine } from "../render/engine.ts";
import type { PreparedPrint } from "../render/prepare.ts";
import { wholeView, type View } from "../render/view.ts";
import type { Size } from "../ground/geometry.ts";
import { colourCells, findFamilies, type ColourCells, type ColourPicture } from "./find-families.ts";

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
  return { picture, cells, found: findFamilies(cells.cells) };
}
