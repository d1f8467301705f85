import {
  bakeFilm,
  clippingCost,
  COLOUR_EDGE,
  colourView,
  defaultRecipe,
  edgeDamage,
  FamilyProbe,
  findSeam,
  lookAtColours,
  mapFamilies,
  NEUTRAL_LABEL,
  partByWeights,
  plainWeigh,
  scaledSize,
  solve,
  startingPoints,
  throwDice,
  wholeView,
  type CaptureInfo,
  type ColourCells,
  type Engine,
  type FamilyMap,
  type FilmResponse,
  type Goal,
  type PictureLook,
  type PreparedPrint,
  type Recipe,
  type View,
} from "@yelm/core";
import type { PictureColours, WeighPrice, WorkerResults } from "./protocol.ts";
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

  constructor(engine: Engine, tiles: SharedTiles, capture: CaptureInfo) {
    this.#engine = engine;
    this.#tiles = tiles;
    this.#capture = capture;
  }

  async colours(recipe: Recipe): Promise<PictureColours> {
    const { cells, families, map } = await this.#map(recipe);
    const largest = [...cells.cells].sort((p, q) => q.share - p.share).slice(0, MOST_CELLS);
    return { families, map, cells: largest };
  }

  film(recipe: Recipe): FilmResponse {
    return bakeFilm(recipe.weigh.film);
  }

  async solve(recipe: Recipe, goal: Goal): Promise<WorkerResults["solve"]> {
    const { probe, map } = await this.#probe(recipe);
    return solve(probe, map.boundaries, goal);
  }

  async partByWeights(recipe: Recipe, first: number, second: number): Promise<WorkerResults["partByWeights"]> {
    const { probe } = await this.#probe(recipe);
    return partByWeights(probe, first, second);
  }

  async startingPoints(recipe: Recipe): Promise<WorkerResults["startingPoints"]> {
    const { probe, map, cells } = await this.#probe(recipe);
    return startingPoints(probe, map.boundaries, cells.cells);
  }

  async dice(recipe: Recipe, seed: number): Promise<WorkerResults["dice"]> {
    const { probe, map } = await this.#probe(recipe);
    return throwDice(probe, map.boundaries, seed);
  }

  /** What the conversion costs at edges, in clipping, and along the edges of areas. */
  async price(recipe: Recipe): Promise<WeighPrice> {
    const { map } = await this.#map(recipe);
    const still = { ...recipe, light: { moves: [] } };
    const plain = { ...still, weigh: { ...plainWeigh(recipe.weigh), areas: [] } };
    const size = { width: map.width, height: map.height };
    const print = await this.#rendered(still, (ready, view) => this.#engine.renderReflectance(ready, view), size);
    const before = await this.#rendered(plain, (ready, view) => this.#engine.renderReflectance(ready, view), size);
    return {
      clipping: clippingCost(print, before, map.labels),
      edge: await this.#worstEdge(recipe, map),
      seam: await this.#worstSeam(still, size),
    };
  }

  async #worstEdge(recipe: Recipe, map: FamilyMap): Promise<WeighPrice["edge"]> {
    let worst: WeighPrice["edge"] = null;
    // Tone, areas and local contrast are other stations' business.
    const weighed = { ...defaultRecipe(), ground: recipe.ground, weigh: { ...recipe.weigh, areas: [] } };
    const print = this.#engine.prepare(weighed);
    for (const place of edgePlaces(map)) {
      const view = patchView(print, (place.x + 0.5) / map.width, (place.y + 0.5) / map.height);
      await this.#tiles.fetchAll([...this.#engine.tilesFor(print, view), ...this.#engine.tilesForColour(print, view)]);
      const light = this.#engine.renderLight(print, view).slice();
      const colour = this.#engine.renderWorking(print, view);
      const damage = edgeDamage({ width: view.width, height: view.height, colour, light });
      if (damage && (!worst || damage.contrast > worst.contrast))
        worst = { ...damage, ...place, x: (place.x + 0.5) / map.width, y: (place.y + 0.5) / map.height };
    }
    return worst;
  }

  async #worstSeam(recipe: Recipe, size: { width: number; height: number }): Promise<WeighPrice["seam"]> {
    let worst: WeighPrice["seam"] = null;
    const areas = recipe.weigh.areas.filter(({ on }) => on);
    const light = (weigh: Recipe["weigh"]) =>
      this.#rendered({ ...recipe, weigh }, (print, view) => this.#engine.renderLight(print, view), size);
    for (const [index, { id, by, red, green, blue, film }] of areas.entries()) {
      const below = areas.slice(0, index);
      const base = await light({ ...recipe.weigh, areas: below });
      const own = await light({ ...recipe.weigh, by, red, green, blue, film, areas: [] });
      const mixed = await light({ ...recipe.weigh, areas: areas.slice(0, index + 1) });
      const found = findSeam({ ...size, base, own, mixed });
      if (found && found.stopsPerPercent > (worst?.stopsPerPercent ?? 0)) worst = { ...found, areaId: id };
    }
    return worst;
  }

  async #rendered(
    recipe: Recipe,
    render: (print: PreparedPrint, view: View) => Float32Array,
    size: { width: number; height: number },
  ): Promise<Float32Array> {
    const print = this.#engine.prepare({ ...recipe, finish: defaultRecipe().finish });
    const view = wholeView(print.frame, this.#tiles.size, COLOUR_EDGE);
    if (view.width !== size.width || view.height !== size.height) throw new Error("Expected views of one size.");
    await this.#tiles.fetchAll(this.#engine.tilesFor(print, view));
    return render(print, view).slice();
  }

  async #probe(recipe: Recipe) {
    const { cells, families, map } = await this.#map(recipe);
    const weigh = { ...recipe.weigh, families };
    return { probe: new FamilyProbe(this.#capture, { ...recipe, weigh }, map.facts), map, cells };
  }

  /** The picture's colours as shot, with the recipe's families or those found in it. */
  async #map(recipe: Recipe): Promise<{ cells: ColourCells; families: Recipe["weigh"]["families"]; map: FamilyMap }> {
    const { picture, cells, found } = await this.#look(recipe);
    const families = recipe.weigh.families.length > 0 ? recipe.weigh.families : [...found];
    return { cells, families, map: mapFamilies({ ...recipe.weigh, families }, picture, cells) };
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

/** Places on edges between different families, spread over the pairs that touch most. */
function edgePlaces({ labels, width, height, boundaries, facts }: FamilyMap) {
  const asLabel = (group: number) => (group === facts.length - 1 ? NEUTRAL_LABEL : group);
  const pairs = boundaries.slice(0, EDGES);
  const half = 3;
  return pairs.flatMap(({ first, second }, n) => {
    // From another corner for each pair, so that not all lie in one place.
    for (let k = 0; k < width * height; k++) {
      const i = (k * 7919 + n * 104729) % (width * height);
      const x = i % width;
      const y = (i - x) / width;
      if (x < half || y < half || x >= width - half || y >= height - half) continue;
      const around = [labels[i - half], labels[i + half], labels[i - half * width], labels[i + half * width]];
      if (around.includes(asLabel(first)) && around.includes(asLabel(second))) return [{ x, y, first, second }];
    }
    return [];
  });
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
