import { luminanceNoise } from "../parts/ground/grey-noise.ts";
import type { FamilyMap } from "../parts/weigh/picture-colours.ts";
import { innerPlaces, MOST_ROUGHNESS, roughnessOf, type InnerPlace } from "../parts/weigh/roughness.ts";
import type { Weigh } from "../parts/weigh/schema.ts";
import { moveFamilies } from "../parts/weigh/solve.ts";
import type { Recipe } from "../recipe/schema.ts";
import { scaledSize } from "../tiles/view.ts";
import type { PictureReader } from "./reader.ts";
import { PATCH, patchView, weighedAlone } from "./weighed-piece.ts";

/** How rough moved families make the inside of a colour where they do it most, L*. */
export interface Roughness extends InnerPlace {
  readonly roughness: number;
}

/**
 * Places inside colours that moved families may have made rough; none where none are moved, nor of a capture whose sensor's noise is known,
 * which tells more truly what is noise and what is leaves.
 */
export function placesInside({ engine, capture, expect }: PictureReader, recipe: Recipe, map: FamilyMap): InnerPlace[] {
  if (luminanceNoise(capture) || recipe.weigh.families.every(({ stops }) => stops === 0)) return [];
  const print = engine.prepare(weighedAlone(recipe));
  const { width, height } = scaledSize(print.frame, 1);
  const places = innerPlaces(map, Math.ceil((PATCH / 2) * Math.max(map.width / width, map.height / height)));
  expect?.(places.flatMap(({ x, y }) => engine.tilesFor(print, patchView(print, x, y))));
  return places;
}

/** What a place shows under a recipe's families that it does not with none moved. */
export async function roughnessAt(
  { engine, fetch }: PictureReader,
  recipe: Recipe,
  { x, y }: InnerPlace,
): Promise<number> {
  const { weigh } = recipe;
  const still = moveFamilies(weigh, weigh.families.map(() => 0)); // prettier-ignore
  const [moved, plain] = [weigh, still].map((of) => engine.prepare(weighedAlone({ ...recipe, weigh: of })));
  const view = patchView(moved, x, y);
  await fetch(engine.tilesFor(moved, view));
  const print = engine.renderReflectance(moved, view).slice();
  return roughnessOf(print, engine.renderReflectance(plain, view), view.width);
}

/** The roughest place inside a colour; null where no family is moved. */
async function roughest(reader: PictureReader, recipe: Recipe, map: FamilyMap): Promise<Roughness | null> {
  let worst: Roughness | null = null;
  for (const place of placesInside(reader, recipe, map)) {
    const roughness = await roughnessAt(reader, recipe, place);
    if (!worst || roughness > worst.roughness) worst = { ...place, roughness };
  }
  return worst;
}

/** Shares of a move's way that are tried, the farthest first. */
const SHORTER = [0.75, 0.55, 0.4, 0.25, 0.12] as const;

/**
 * A Weigh whose moved families go from a recipe's own only as far as the inside of every colour bears, and which would not; null when all the
 * way does no harm. What is rough already may stay so.
 */
export async function bearable(reader: PictureReader, recipe: Recipe, map: FamilyMap, weigh: Weigh) {
  const first = await roughest(reader, { ...recipe, weigh }, map);
  if (!first || first.roughness <= MOST_ROUGHNESS) return null;
  const most = Math.max(MOST_ROUGHNESS, (await roughest(reader, recipe, map))?.roughness ?? 0);
  if (first.roughness <= most) return null;
  for (const share of SHORTER) {
    const shorter = towards(recipe.weigh, weigh, share);
    const rough = await roughest(reader, { ...recipe, weigh: shorter }, map);
    if (!rough || rough.roughness <= most) return { weigh: shorter, group: first.group };
  }
  return { weigh: towards(recipe.weigh, weigh, 0), group: first.group };
}

/** A Weigh whose families have gone only a share of their way from another's. */
function towards({ families }: Weigh, weigh: Weigh, share: number): Weigh {
  const stops = weigh.families.map((family, k) => {
    const from = families[k].stops;
    return Math.round(100 * (from + share * (family.stops - from))) / 100;
  });
  return moveFamilies(weigh, stops);
}
