import type { CaptureInfo } from "../raw/capture-info.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Family } from "../parts/weigh/schema.ts";
import type { Recipe } from "../recipe/schema.ts";
import { wholeView } from "../tiles/view.ts";
import { FamilyProbe } from "../parts/weigh/family-probe.ts";
import { colourCells, type ColourCells, type ColourPicture } from "../parts/weigh/colour-cells.ts";
import { findFamilies } from "../parts/weigh/find-families.ts";
import { mapFamilies, type FamilyMap } from "../parts/weigh/picture-colours.ts";
import type { PictureReader } from "./reader.ts";

/** Long edge at which a picture's colours are looked at, pixels. */
export const COLOUR_EDGE = 600;

/** A picture's colours as shot, and the families that it shows by itself. */
export interface PictureLook {
  readonly picture: ColourPicture;
  readonly cells: ColourCells;
  readonly found: readonly Family[];
}

/** A crop that keeps this share of the frame is of the same picture: its families are those of the whole. */
const SAME_PICTURE = 0.5;
/** Families of the whole that hold less than this share of what is left of it are not among those. */
const LEAST_SHARE = 0.001;

/** Counts a picture's colours under a recipe's frame, its light and white as shot, and finds its families. */
export async function lookAtColours(reader: LookingReader, { ground }: Recipe): Promise<PictureLook> {
  const { picture, area } = await pictureOf(reader, ground);
  const cells = colourCells(picture);
  if (ground.crop === null) return { picture, cells, found: findFamilies(cells) };
  const whole = await pictureOf(reader, { ...ground, crop: null });
  if (area < SAME_PICTURE * whole.area) return { picture, cells, found: findFamilies(cells) };
  const families = findFamilies(colourCells(whole.picture));
  const { facts } = mapFamilies({ ...defaultRecipe().weigh, families }, picture, cells);
  return { picture, cells, found: families.filter((_, k) => facts[k].share >= LEAST_SHARE) };
}

type LookingReader = Pick<PictureReader, "engine" | "size" | "fetch">;

/** A frame's colours as shot, and its area in squared pixels of the negative. */
async function pictureOf({ engine, size, fetch }: LookingReader, ground: Recipe["ground"]) {
  const plain = defaultRecipe();
  const { whiteBalance, exposureEv } = plain.ground;
  const print = engine.prepare({ ...plain, ground: { ...ground, whiteBalance, exposureEv } });
  const view = wholeView(print.frame, size, COLOUR_EDGE);
  await fetch(engine.tilesForColour(print, view));
  const picture: ColourPicture = { planes: engine.renderWorking(print, view), width: view.width, height: view.height };
  return { picture, area: print.frame.width * print.frame.height };
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
