import { scaledSize, type View } from "../tiles/view.ts";
import { clippingCost, type ClippingCost } from "../parts/weigh/clipping.ts";
import { edgeDamage, type EdgeDamage } from "../parts/weigh/edge-damage.ts";
import { edgePlaces, type EdgePlace } from "../parts/weigh/edge-places.ts";
import { innerPlaces, MOST_ROUGHNESS, roughnessOf, type InnerPlace } from "../parts/weigh/roughness.ts";
import { bakeFilm, type FilmResponse } from "../parts/weigh/film.ts";
import type { ColourCell, ColourCells } from "../parts/weigh/colour-cells.ts";
import type { FamilyMap } from "../parts/weigh/picture-colours.ts";
import { BY_LIGHT, mixesByLight, plainWeigh } from "../parts/weigh/plain-weigh.ts";
import { areaRecipe } from "../parts/weigh/print.ts";
import type { Family, Weigh } from "../parts/weigh/schema.ts";
import { findSeam, type Seam } from "../parts/weigh/seams.ts";
import { partByWeights, type WeightSolution } from "../parts/weigh/solve-weights.ts";
import { moveFamilies, shortened, solve, type Goal, type Solution } from "../parts/weigh/solve.ts";
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

/** How rough moved families make the inside of a colour where they do it most, L*. */
export interface Roughness extends InnerPlace {
  readonly roughness: number;
}

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
    return borne ? shortened(probe, map.boundaries, goal, solution, borne.share, borne.group) : solution;
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
      points.push({ ...point, weigh: await borneOf(reader, plain, map, point.weigh) });
    return points;
  }) satisfies Question<AboutPrint, readonly StartingPoint[]>,

  dice: (async (reader, { recipe, seed }) => {
    const { probe, map, recipe: full } = await weighReading(reader, recipe);
    return borneOf(reader, { ...full, weigh: plainWeigh(full.weigh) }, map, throwDice(probe, map.boundaries, seed));
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

  /** Where moved families make the inside of a colour rough, printed in full size; null where none are moved. */
  roughness: (async (reader, { recipe }) => {
    const { map } = await weighReading(reader, recipe);
    return roughest(reader, recipe, map);
  }) satisfies Question<AboutPrint, Roughness | null>,

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

/** The roughest place inside a colour under a recipe's families, against the same with none moved. */
async function roughest({ engine, fetch }: PictureReader, recipe: Recipe, map: FamilyMap): Promise<Roughness | null> {
  const { weigh } = recipe;
  const still = { ...weigh, families: weigh.families.map((family) => ({ ...family, stops: 0 })) };
  if (weigh.families.every(({ stops }) => stops === 0)) return null;
  const [moved, plain] = [weigh, still].map((of) => engine.prepare(weighedAlone({ ...recipe, weigh: of })));
  const { width, height } = scaledSize(moved.frame, 1);
  const reach = Math.ceil((PATCH / 2) * Math.max(map.width / width, map.height / height));
  const places = innerPlaces(map, reach);
  await fetch(places.flatMap(({ x, y }) => engine.tilesFor(moved, patchView(moved, x, y))));
  let worst: Roughness | null = null;
  for (const place of places) {
    const view = patchView(moved, place.x, place.y);
    const print = engine.renderReflectance(moved, view).slice();
    const roughness = roughnessOf(print, engine.renderReflectance(plain, view), view.width);
    if (!worst || roughness > worst.roughness) worst = { ...place, roughness };
  }
  return worst;
}

/** Shares of a move's way that are tried, the farthest first. */
const SHORTER = [0.75, 0.55, 0.4, 0.25, 0.12] as const;

/**
 * How far moved families may go from a recipe's own until the inside of a colour becomes rough, and which; null when all the way. What is
 * rough already may stay so.
 */
async function bearable(reader: PictureReader, recipe: Recipe, map: FamilyMap, weigh: Weigh) {
  const first = await roughest(reader, { ...recipe, weigh }, map);
  if (!first || first.roughness <= MOST_ROUGHNESS) return null;
  const most = Math.max(MOST_ROUGHNESS, (await roughest(reader, recipe, map))?.roughness ?? 0);
  if (first.roughness <= most) return null;
  for (const share of SHORTER) {
    const rough = await roughest(reader, { ...recipe, weigh: towards(recipe.weigh, weigh, share) }, map);
    if (!rough || rough.roughness <= most) return { share, group: first.group };
  }
  return { share: 0, group: first.group };
}

/** A Weigh with its families moved only as far as the inside of every colour bears. */
async function borneOf(reader: PictureReader, recipe: Recipe, map: FamilyMap, weigh: Weigh): Promise<Weigh> {
  const borne = await bearable(reader, recipe, map, weigh);
  return borne ? towards(recipe.weigh, weigh, borne.share) : weigh;
}

/** A Weigh whose families have gone only a share of their way from another's. */
function towards({ families }: Weigh, weigh: Weigh, share: number): Weigh {
  const stops = weigh.families.map((family, k) => {
    const from = families[k].stops;
    return Math.round(100 * (from + share * (family.stops - from))) / 100;
  });
  return moveFamilies(weigh, stops);
}

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
