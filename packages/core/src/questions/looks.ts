import { lightToStops } from "../colour/stops.ts";
import { applyLook, fitOf, type Look, type Looked, type LookedAt } from "../looks/look.ts";
import { stopsBelow, type PointsFit } from "../parts/shape/openings.ts";
import type { Recipe } from "../recipe/schema.ts";
import { lookAtColours } from "./look-at-colours.ts";
import { wholeLight, type AboutPrint, type PictureReader, type Question } from "./reader.ts";

/** Long edge at which a picture's light is looked at. */
const LOOK_EDGE = 320;
const LEAST_LIGHT = 1e-6;

/** What is to be laid on a print. */
export interface LookWish extends AboutPrint {
  readonly look: Look;
}

async function lightOf(reader: PictureReader, recipe: Recipe) {
  const light = await wholeLight(reader, recipe, LOOK_EDGE);
  return stopsBelow(light.map((v) => lightToStops(Math.max(LEAST_LIGHT, v))));
}

/** What looks find in a picture. */
export async function lookedAt(reader: PictureReader, recipe: Recipe, isNeeded: boolean): Promise<LookedAt> {
  const light = (of: Recipe) => lightOf(reader, of);
  if (!isNeeded) return { families: [], light };
  return { families: (await lookAtColours(reader, recipe)).found, light };
}

export const lookQuestions = {
  /** A look laid on the print, fitted to the picture, and what was fitted. */
  looked: (async (reader, { recipe, look }) => {
    const moves = look.recipe.weigh.families.some(({ stops }) => stops !== 0);
    return applyLook(look, recipe, await lookedAt(reader, recipe, moves && recipe.weigh.families.length === 0));
  }) satisfies Question<LookWish, Looked>,

  /** Where the print's light lies on its scale, for a look that is made of it. */
  fit: (async (reader, { recipe }) => fitOf(recipe.shape, await lightOf(reader, recipe))) satisfies Question<
    AboutPrint,
    PointsFit
  >,
};
