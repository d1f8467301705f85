import {
  areaRecipe,
  bakeFilm,
  clippingCost,
  COLOUR_EDGE,
  colourView,
  defaultRecipe,
  edgeDamage,
  edgePlaces,
  findSeam,
  lookAtColours,
  partByWeights,
  plainWeigh,
  readPicture,
  scaledSize,
  solve,
  startingPoints,
  throwDice,
  wholeView,
  type CaptureInfo,
  type ColourCells,
  type EdgePlace,
  type Engine,
  type FilmResponse,
  type Goal,
  type PictureLook,
  type PictureReading,
  type PreparedPrint,
  type Recipe,
  type View,
} from "@yelm/core";
import type { PictureColours, WorkerResults } from "./protocol.ts";
import type { SharedTiles } from "./tile-source.ts";

const MOST_CELLS = 700;
/** Edges that are looked at in full size, and the size of the piece about each. */
const EDGES = 10;
const PATCH = 25;

interface Seen extends PictureLook {
  readonly key: string;
}

/** Answers of a render worker that Weigh asks for. */
export class WeighAnswers {
  readonly #engine: Engine;
  readonly #tiles: SharedTiles;
  readonly #capture: CaptureInfo;
  #seen: Seen | null = null;
  #reading: (PictureReading & { readonly key: string; readonly cells: ColourCells }) | null = null;

  constructor(engine: Engine, tiles: SharedTiles, capture: CaptureInfo) {
    this.#engine = engine;
    this.#tiles = tiles;
    this.#capture = capture;
  }

  async colours(recipe: Recipe): Promise<PictureColours> {
    const { cells, map, recipe: full } = await this.#read(recipe);
    const largest = [...cells.cells].sort((p, q) => q.share - p.share).slice(0, MOST_CELLS);
    return { families: full.weigh.families, map, cells: largest };
  }

  film(recipe: Recipe): FilmResponse {
    return bakeFilm(recipe.weigh.film);
  }

  async solve(recipe: Recipe, goal: Goal): Promise<WorkerResults["solve"]> {
    const { probe, map } = await this.#read(recipe);
    return solve(probe, map.boundaries, goal);
  }

  async partByWeights(recipe: Recipe, first: number, second: number): Promise<WorkerResults["partByWeights"]> {
    const { probe } = await this.#read(recipe);
    return partByWeights(probe, first, second);
  }

  async startingPoints(recipe: Recipe): Promise<WorkerResults["startingPoints"]> {
    const { probe, map, cells } = await this.#read(recipe);
    return startingPoints(probe, map.boundaries, cells.cells);
  }

  async dice(recipe: Recipe, seed: number): Promise<WorkerResults["dice"]> {
    const { probe, map } = await this.#read(recipe);
    return throwDice(probe, map.boundaries, seed);
  }

  async clipping(recipe: Recipe): Promise<WorkerResults["clipping"]> {
    const { map } = await this.#read(recipe);
    const still = { ...recipe, light: { moves: [] } };
    const plain = { ...still, weigh: { ...plainWeigh(recipe.weigh), areas: [] } };
    const reflectance = (of: Recipe) =>
      this.#rendered(of, (print, view) => this.#engine.renderReflectance(print, view), map);
    return clippingCost(await reflectance(still), await reflectance(plain), map.labels);
  }

  async edgePlaces(recipe: Recipe): Promise<WorkerResults["edgePlaces"]> {
    const { map } = await this.#read(recipe);
    return edgePlaces(map, EDGES);
  }

  async edge(recipe: Recipe, { x, y }: EdgePlace): Promise<WorkerResults["edge"]> {
    // Tone, areas and local contrast are other stations' business.
    const weighed = { ...defaultRecipe(), ground: recipe.ground, weigh: { ...recipe.weigh, areas: [] } };
    const print = this.#engine.prepare(weighed);
    const view = patchView(print, x, y);
    await this.#tiles.fetchAll([...this.#engine.tilesFor(print, view), ...this.#engine.tilesForColour(print, view)]);
    const light = this.#engine.renderLight(print, view).slice();
    const colour = this.#engine.renderWorking(print, view);
    return edgeDamage({ width: view.width, height: view.height, colour, light });
  }

  /** The edge of one area, laid over what lies before it. */
  async seam(recipe: Recipe, index: number): Promise<WorkerResults["seam"]> {
    const { weigh } = recipe;
    const still = { ...recipe, light: { moves: [] } };
    const light = (of: Recipe) => this.#rendered(of, (print, view) => this.#engine.renderLight(print, view));
    const upTo = (count: number) => ({ ...still, weigh: { ...weigh, areas: weigh.areas.slice(0, count) } });
    const { width, height } = wholeView(this.#engine.prepare(recipe).frame, this.#tiles.size, COLOUR_EDGE);
    return findSeam({
      width,
      height,
      base: await light(upTo(index)),
      own: await light(areaRecipe(still, weigh.areas[index])),
      mixed: await light(upTo(index + 1)),
    });
  }

  /** The whole print without its finish, rendered small. */
  async #rendered(
    recipe: Recipe,
    render: (print: PreparedPrint, view: View) => Float32Array,
    size?: { readonly width: number; readonly height: number },
  ): Promise<Float32Array> {
    const print = this.#engine.prepare({ ...recipe, finish: defaultRecipe().finish });
    const view = wholeView(print.frame, this.#tiles.size, COLOUR_EDGE);
    if (size && (view.width !== size.width || view.height !== size.height))
      throw new Error("Expected views of one size.");
    await this.#tiles.fetchAll(this.#engine.tilesFor(print, view));
    return render(print, view).slice();
  }

  /** The picture through the recipe's families; kept, since several questions follow each other. */
  async #read(recipe: Recipe): Promise<PictureReading & { readonly cells: ColourCells }> {
    const look = await this.#look(recipe);
    const { ground, weigh, shape } = recipe;
    const key = JSON.stringify([ground, weigh, shape]);
    if (this.#reading?.key !== key)
      this.#reading = { key, ...readPicture(look, this.#capture, recipe), cells: look.cells };
    return this.#reading;
  }

  async #look(recipe: Recipe): Promise<PictureLook> {
    const wanted = colourView(this.#engine, recipe, this.#tiles.size);
    const key = JSON.stringify(wanted.print.recipe.ground);
    if (this.#seen?.key === key) return this.#seen;
    await this.#tiles.fetchAll(this.#engine.tilesForColour(wanted.print, wanted.view));
    this.#seen = { key, ...lookAtColours(this.#engine, wanted) };
    return this.#seen;
  }
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
