import { scaledSize, type View } from "../tiles/view.ts";
import { clippingCost, type ClippingCost } from "../parts/weigh/clipping.ts";
import { edgeDamage, type EdgeDamage } from "../parts/weigh/edge-damage.ts";
import { edgePlaces, type EdgePlace } from "../parts/weigh/edge-places.ts";
import { bakeFilm, type FilmResponse } from "../parts/weigh/film.ts";
import type { ColourCell, ColourCells } from "../parts/weigh/colour-cells.ts";
import type { FamilyMap } from "../parts/weigh/picture-colours.ts";
import { BY_LIGHT, mixesByLight, plainWeigh } from "../parts/weigh/plain-weigh.ts";
import { areaRecipe } from "../parts/weigh/print.ts";
import type { Family, Weigh } from "../parts/weigh/schema.ts";
import { findSeam, type Seam } from "../parts/weigh/seams.ts";
import { partByWeights, type WeightSolution } from "../parts/weigh/solve-weights.ts";
import { solve, type Goal, type Solution } from "../parts/weigh/solve.ts";
import { startingPoints, throwDice, type StartingPoint } from "../parts/weigh/starting-points.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import type { PreparedPrint } from "../render/prepare.ts";
import { COLOUR_EDGE, lookAtColours, readPicture, type PictureLook, type PictureReading } from "./look-at-colours.ts";
import { wholePrint, type AboutPrint, type PictureReader, type Question } from "./reader.ts";

const MOST_CELLS = 700;
/** Edges that are looked at in full size, and the size of the piece about each. */
const EDGES = 14;
const PATCH = 25;

/** What a picture is made of. */
export interface PictureColours {
  readonly families: readonly Family[];
  readonly map: FamilyMap;
  /** The commonest colours. */
  readonly cells: readonly ColourCell[];
}

export const weighQuestions = {
  /** The picture's colours, seen through the recipe's families or through those found in it. */
  colours: (async (reader, { recipe }) => {
    const { cells, map, recipe: full } = await weighReading(reader, recipe);
    const largest = [...cells.cells].sort((p, q) => q.share - p.share).slice(0, MOST_CELLS);
    return { families: full.weigh.families, map, cells: largest };
  }) satisfies Question<AboutPrint, PictureColours>,

  /** What the recipe's film sees of every colour. */
  film: ((_reader, { recipe }) => Promise.resolve(bakeFilm(recipe.weigh.film))) satisfies Question<
    AboutPrint,
    FilmResponse
  >,

  /** The smallest change of the families that reaches a goal. */
  solve: (async (reader, { recipe, goal }) => {
    const { probe, map } = await weighReading(reader, recipe);
    return solve(probe, map.boundaries, goal);
  }) satisfies Question<AboutPrint & { readonly goal: Goal }, Solution>,

  /** The nearest weights that part two groups, by their indices. */
  partByWeights: (async (reader, { recipe, first, second }) => {
    const { probe } = await weighReading(reader, recipe);
    return partByWeights(probe, first, second);
  }) satisfies Question<AboutPrint & { readonly first: number; readonly second: number }, WeightSolution>,

  startingPoints: (async (reader, { recipe }) => {
    const { probe, map, cells } = await weighReading(reader, recipe);
    return startingPoints(probe, map.boundaries, cells.cells);
  }) satisfies Question<AboutPrint, readonly StartingPoint[]>,

  dice: (async (reader, { recipe, seed }) => {
    const { probe, map } = await weighReading(reader, recipe);
    return throwDice(probe, map.boundaries, seed);
  }) satisfies Question<AboutPrint & { readonly seed: number }, Weigh>,

  clipping: (async (reader, { recipe }) => {
    const { map } = await weighReading(reader, recipe);
    const still = { ...recipe, light: { ...recipe.light, moves: [] } };
    const plain = { ...still, weigh: { ...plainWeigh(recipe.weigh), areas: [] } };
    const reflectance = async (of: Recipe) => {
      const { view, values } = await wholePrint(reader, of, COLOUR_EDGE, (print, at) =>
        reader.engine.renderReflectance(print, at),
      );
      if (view.width !== map.width || view.height !== map.height) throw new Error("Expected views of one size.");
      return values;
    };
    return clippingCost(await reflectance(still), await reflectance(plain), map.labels);
  }) satisfies Question<AboutPrint, ClippingCost>,

  edgePlaces: (async (reader, { recipe }) => {
    const { map, probe } = await weighReading(reader, recipe);
    const plain = probe.plainGreys();
    const moved = probe.greys().map(({ lightness }, k) => lightness - plain[k].lightness);
    const places = edgePlaces(map, moved, EDGES);
    const print = reader.engine.prepare(weighedAlone(recipe));
    reader.expect?.(places.flatMap(({ x, y }) => reader.engine.tilesFor(print, patchView(print, x, y))));
    return places;
  }) satisfies Question<AboutPrint, readonly EdgePlace[]>,

  /** What the weights do to one edge, printed in full size. */
  edge: (async ({ engine, fetch }, { recipe, place: { x, y } }) => {
    const { weigh } = recipe;
    const under = (of: Weigh) => engine.prepare(weighedAlone({ ...recipe, weigh: of }));
    const [weighed, plain] = [under(weigh), under(plainWeigh(weigh))];
    const byLight = mixesByLight(weigh) ? null : under({ ...weigh, ...BY_LIGHT });
    const view = patchView(weighed, x, y);
    await fetch([weighed, plain, ...(byLight ? [byLight] : [])].flatMap((print) => engine.tilesFor(print, view)));
    await fetch(engine.tilesForColour(weighed, view));
    return edgeDamage({
      width: view.width,
      height: view.height,
      colour: engine.renderWorking(weighed, view),
      print: engine.renderReflectance(weighed, view).slice(),
      plain: engine.renderReflectance(plain, view).slice(),
      ...(byLight && { byLight: engine.renderReflectance(byLight, view).slice() }),
    });
  }) satisfies Question<AboutPrint & { readonly place: EdgePlace }, EdgeDamage | null>,

  /** The edge of one area, laid over what lies before it. */
  seam: (async (reader, { recipe, index }) => {
    const { weigh } = recipe;
    const still = { ...recipe, light: { ...recipe.light, moves: [] } };
    const light = (of: Recipe) =>
      wholePrint(reader, of, COLOUR_EDGE, (print, view) => reader.engine.renderLight(print, view));
    const upTo = (count: number) => ({ ...still, weigh: { ...weigh, areas: weigh.areas.slice(0, count) } });
    const base = await light(upTo(index));
    const own = await light(areaRecipe(still, weigh.areas[index]));
    const mixed = await light(upTo(index + 1));
    const { width, height } = base.view;
    return findSeam({ width, height, base: base.values, own: own.values, mixed: mixed.values });
  }) satisfies Question<AboutPrint & { readonly index: number }, Seam | null>,
};

type Reading = PictureReading & { readonly cells: ColourCells };

/** What was last seen of each negative: several questions follow each other. */
interface Seen {
  look?: PictureLook & { readonly key: string };
  reading?: Reading & { readonly key: string };
}
const seenOf = new WeakMap<PictureReader, Seen>();

/** The picture through the recipe's families. */
export async function weighReading(reader: PictureReader, recipe: Recipe): Promise<Reading> {
  const look = await lookAt(reader, recipe);
  const seen = seenOf.get(reader)!;
  const { ground, weigh, shape } = recipe;
  const key = JSON.stringify([ground, weigh, shape]);
  if (seen.reading?.key !== key)
    seen.reading = { key, ...readPicture(look, reader.capture, recipe), cells: look.cells };
  return seen.reading;
}

async function lookAt(reader: PictureReader, recipe: Recipe): Promise<PictureLook> {
  let seen = seenOf.get(reader);
  if (!seen) seenOf.set(reader, (seen = {}));
  const { whiteBalance: _white, exposureEv: _exposure, ...frame } = recipe.ground;
  const key = JSON.stringify(frame);
  if (seen.look?.key !== key) seen.look = { key, ...(await lookAtColours(reader, recipe)) };
  return seen.look;
}

/** A recipe whose print shows what its weights do to edges: areas, local contrast and light are other stations' business. */
function weighedAlone({ ground, weigh, shape }: Recipe): Recipe {
  const fresh = defaultRecipe();
  const { localContrast } = fresh.shape;
  return { ...fresh, ground, shape: { ...shape, localContrast }, weigh: { ...weigh, areas: [] } };
}

/** A piece of the print in full size about a place, 0–1. */
function patchView({ frame }: PreparedPrint, x: number, y: number): View {
  const { width, height } = scaledSize(frame, 1);
  const within = (centre: number, length: number) =>
    Math.max(0, Math.min(length - PATCH, Math.round(centre * length) - (PATCH >> 1)));
  return {
    x: within(x, width),
    y: within(y, height),
    width: Math.min(PATCH, width),
    height: Math.min(PATCH, height),
    scale: 1,
    level: 0,
  };
}
