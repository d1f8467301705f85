import { clippingCost, type ClippingCost } from "../parts/weigh/clipping.ts";
import { edgeDamage, type EdgeDamage } from "../parts/weigh/edge-damage.ts";
import { edgePlaces, type EdgePlace } from "../parts/weigh/edge-places.ts";
import { linePlaces } from "../parts/weigh/line-places.ts";
import type { InnerPlace } from "../parts/weigh/roughness.ts";
import { bakeFilm, type FilmResponse } from "../parts/weigh/film.ts";
import type { ColourCell, ColourCells } from "../parts/weigh/colour-cells.ts";
import type { FamilyMap } from "../parts/weigh/picture-colours.ts";
import { BY_LIGHT, mixesByLight, plainWeigh } from "../parts/weigh/plain-weigh.ts";
import { areaRecipe } from "../parts/weigh/print.ts";
import type { Family, Weigh } from "../parts/weigh/schema.ts";
import { findSeam, type Seam } from "../parts/weigh/seams.ts";
import { partByWeights, type WeightSolution } from "../parts/weigh/solve-weights.ts";
import { shortened, solve, type Goal, type Solution } from "../parts/weigh/solve.ts";
import { startingPoints, throwDice, type StartingPoint } from "../parts/weigh/starting-points.ts";
import type { Recipe } from "../recipe/schema.ts";
import { bearable, placesInside, roughnessAt } from "./inside-of-colours.ts";
import { COLOUR_EDGE, lookAtColours, readPicture, type PictureLook, type PictureReading } from "./look-at-colours.ts";
import { patchView, weighedAlone } from "./weighed-piece.ts";
import { wholePrint, type AboutPrint, type PictureReader, type Question } from "./reader.ts";

const MOST_CELLS = 700;
/** Edges that are looked at in full size. */
const EDGES = 14;
/** Of these, where a line shows in the whole print at so many pixels along its long edge. */
const LINES = 7;
const LINES_EDGE = 1200;

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

  /** The smallest change of the families that reaches a goal; parting goes no farther than the inside of every colour bears in print. */
  solve: (async (reader, { recipe, goal }) => {
    const { probe, map, recipe: full } = await weighReading(reader, recipe);
    const solution = solve(probe, map.boundaries, goal);
    if (goal.kind === "zone") return solution;
    const borne = await bearable(reader, full, map, solution.weigh);
    return borne ? shortened(probe, map.boundaries, goal, borne.weigh, borne.group) : solution;
  }) satisfies Question<AboutPrint & { readonly goal: Goal }, Solution>,

  /** The nearest weights that part two groups, by their indices. */
  partByWeights: (async (reader, { recipe, first, second }) => {
    const { probe } = await weighReading(reader, recipe);
    return partByWeights(probe, first, second);
  }) satisfies Question<AboutPrint & { readonly first: number; readonly second: number }, WeightSolution>,

  startingPoints: (async (reader, { recipe }) => {
    const { probe, map, cells, recipe: full } = await weighReading(reader, recipe);
    const plain = { ...full, weigh: plainWeigh(full.weigh) };
    const points: StartingPoint[] = [];
    for (const point of startingPoints(probe, map.boundaries, cells.cells))
      points.push({ ...point, weigh: (await bearable(reader, plain, map, point.weigh))?.weigh ?? point.weigh });
    return points;
  }) satisfies Question<AboutPrint, readonly StartingPoint[]>,

  dice: (async (reader, { recipe, seed }) => {
    const { probe, map, recipe: full } = await weighReading(reader, recipe);
    const thrown = throwDice(probe, map.boundaries, seed);
    const plain = { ...full, weigh: plainWeigh(full.weigh) };
    return (await bearable(reader, plain, map, thrown))?.weigh ?? thrown;
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

  /** Edges that the conversion may have damaged: where a line shows in the whole print, then others between groups moved apart. */
  edgePlaces: (async (reader, { recipe }) => {
    const { map, probe } = await weighReading(reader, recipe);
    const greys = probe.plainGreys();
    const moved = probe.greys().map(({ lightness }, k) => lightness - greys[k].lightness);
    const printed = (weigh: Weigh) =>
      wholePrint(reader, weighedAlone({ ...recipe, weigh }), LINES_EDGE, (print, view) =>
        reader.engine.renderReflectance(print, view),
      );
    const { view, values } = await printed(recipe.weigh);
    const plain = (await printed(plainWeigh(recipe.weigh))).values;
    const small = { width: view.width, height: view.height, print: values, plain };
    const lines = await linePlaces(map, small, LINES, reader.pause);
    const places = [...lines, ...edgePlaces(map, moved, EDGES - lines.length)];
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

  /** Places inside colours that moved families may have made rough, of a file whose noise is not known. */
  innerPlaces: (async (reader, { recipe }) => {
    const { map } = await weighReading(reader, recipe);
    return placesInside(reader, recipe, map);
  }) satisfies Question<AboutPrint, readonly InnerPlace[]>,

  /** How rough moved families make one place inside a colour, printed in full size, L*. */
  roughness: ((reader, { recipe, place }) => roughnessAt(reader, recipe, place)) satisfies Question<
    AboutPrint & { readonly place: InnerPlace },
    number
  >,

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
