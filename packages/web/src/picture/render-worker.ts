import {
  compileKernels,
  createKernelHeap,
  defaultRecipe,
  Engine,
  findPalette,
  histograms,
  levelCount,
  levelForScale,
  LruMap,
  PYRAMID_VERSION,
  scaledSize,
  type LinearTiles,
  type Recipe,
  type Size,
  type TilePlace,
  type View,
} from "@yelm/core";
import kernelsUrl from "@yelm/core/kernels.wasm?url";
import type { PictureMode, WorkerAnswer, WorkerRequest } from "./protocol.ts";

const TILE_LIMIT_BYTES = 320 * 2 ** 20;
const MEASURE_EDGE = 480;
const PALETTE_EDGE = 120;
const PROBE_PIXELS = 5;

const heap = fetch(kernelsUrl)
  .then((response) => response.arrayBuffer())
  .then((bytes) => createKernelHeap(compileKernels(new Uint8Array(bytes))));

let source: FetchedTiles | undefined;
let engine: Engine | undefined;
let queue = Promise.resolve();

self.onmessage = ({ data }: MessageEvent<WorkerRequest>) => {
  queue = queue.then(() => answer(data));
};

async function answer(request: WorkerRequest): Promise<void> {
  try {
    const value = await handle(request);
    const reply: WorkerAnswer = { id: request.id, value };
    self.postMessage(reply, { transfer: value instanceof Uint8Array ? [value.buffer] : [] });
  } catch (error) {
    const reply: WorkerAnswer = { id: request.id, error: error instanceof Error ? error.message : String(error) };
    self.postMessage(reply);
  }
}

async function handle(request: WorkerRequest) {
  if (request.kind === "open") {
    source = new FetchedTiles(request.negativeId, request.size);
    engine = new Engine(await heap, source);
    return null;
  }
  if (!engine || !source) throw new Error("Expected an open negative.");
  switch (request.kind) {
    case "render":
      return render(engine, source, request.recipe, request.view, request.mode);
    case "measure": {
      const view = wholeView(engine, request.recipe, source.size, MEASURE_EDGE);
      const print = engine.prepare(request.recipe);
      await source.fetchAll(engine.tilesFor(print, view));
      return histograms(engine.renderLight(print, view), engine.renderReflectance(print, view));
    }
    case "palette": {
      const view = wholeView(engine, request.recipe, source.size, PALETTE_EDGE);
      const print = engine.prepare(request.recipe);
      await source.fetchAll(engine.tilesFor(print, view));
      return findPalette(engine.renderWorking(print, view));
    }
    case "probe": {
      const recipe = withoutGrain(request.recipe);
      const print = engine.prepare(recipe);
      const half = PROBE_PIXELS >> 1;
      const inside = (at: number, length: number) =>
        Math.max(0, Math.min(length - PROBE_PIXELS, Math.round(at) - half));
      const { width, height } = print.frame;
      const view = {
        x: inside(request.x, width),
        y: inside(request.y, height),
        width: Math.min(width, PROBE_PIXELS),
        height: Math.min(height, PROBE_PIXELS),
        scale: 1,
        level: 0,
      };
      await source.fetchAll(engine.tilesFor(print, view));
      return { light: mean(engine.renderLight(print, view)), reflectance: mean(engine.renderReflectance(print, view)) };
    }
  }
}

async function render(on: Engine, tiles: FetchedTiles, recipe: Recipe, view: View, mode: PictureMode) {
  const shown = mode === "plain" ? { ...defaultRecipe(), ground: recipe.ground } : recipe;
  const print = on.prepare(shown);
  await tiles.fetchAll(on.tilesFor(print, view));
  const rgba = mode === "colour" ? on.renderColourRgba(print, view) : on.renderRgba(print, view);
  return rgba as Uint8Array<ArrayBuffer>;
}

function wholeView(on: Engine, recipe: Recipe, size: Size, edge: number): View {
  const { frame } = on.prepare(recipe);
  const scale = Math.min(1, edge / Math.max(frame.width, frame.height));
  return { x: 0, y: 0, ...scaledSize(frame, scale), scale, level: levelForScale(scale, levelCount(size), 1) };
}

function withoutGrain(recipe: Recipe): Recipe {
  return { ...recipe, finish: { ...recipe.finish, grain: { ...recipe.finish.grain, granularity: 0 } } };
}

function mean(values: Float32Array): number {
  return values.reduce((sum, v) => sum + v, 0) / values.length;
}

/** Tiles from the server, fetched before a render and kept until memory is short. */
class FetchedTiles implements LinearTiles {
  readonly size: Size;
  readonly #negativeId: string;
  readonly #kept = new LruMap<Uint16Array>(TILE_LIMIT_BYTES, (tile) => tile.byteLength);

  constructor(negativeId: string, size: Size) {
    this.#negativeId = negativeId;
    this.size = size;
  }

  async fetchAll(places: readonly TilePlace[]): Promise<void> {
    await Promise.all(places.filter((place) => !this.#kept.has(keyOf(place))).map((place) => this.#fetch(place)));
  }

  tile(place: TilePlace): Uint16Array {
    const tile = this.#kept.get(keyOf(place));
    if (!tile) throw new Error(`Expected tile ${keyOf(place)} to be at hand.`);
    return tile;
  }

  async #fetch(place: TilePlace): Promise<void> {
    const path = `/api/negatives/${this.#negativeId}/tiles/${PYRAMID_VERSION}/${keyOf(place)}`;
    const response = await fetch(path);
    if (!response.ok) throw new Error(`The picture could not be read: the server answered ${response.status}.`);
    this.#kept.set(keyOf(place), new Uint16Array(await response.arrayBuffer()));
  }
}

function keyOf({ level, column, row }: TilePlace): string {
  return `${level}/${column}/${row}`;
}
