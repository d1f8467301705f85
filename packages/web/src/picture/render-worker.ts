import {
  compileKernels,
  createKernelHeap,
  defaultRecipe,
  Engine,
  factsOf,
  histograms,
  wholeView,
  type KernelHeap,
  type KernelModule,
  type Recipe,
  type Size,
  type View,
} from "@yelm/core";
import kernelsUrl from "@yelm/core/kernels.wasm?url";
import { GroundAnswers } from "./ground-answers.ts";
import type { RenderedPiece, WorkerAnswer, WorkerRequest } from "./protocol.ts";
import { SharedTiles } from "./tile-source.ts";
import { WeighAnswers } from "./weigh-answers.ts";

const FEWEST_SLOTS = 24;
const MEASURE_EDGE = 480;
const PROBE_PIXELS = 5;
const PICK_PIXELS = 15;
const AS_SHOT = defaultRecipe().ground.whiteBalance;

const module = fetch(kernelsUrl)
  .then((response) => response.arrayBuffer())
  .then((bytes) => compileKernels(new Uint8Array(bytes)));

type RenderRequest = Extract<WorkerRequest, { kind: "render" }>;
type Answered = Exclude<WorkerRequest, { kind: "feed" }>;

let source: SharedTiles | undefined;
let engine: Engine | undefined;
let groundAnswers: GroundAnswers | undefined;
let weighAnswers: WeighAnswers | undefined;
let queue = Promise.resolve();

self.onmessage = ({ data }: MessageEvent<WorkerRequest>) => {
  // Not in the queue: whatever is at its head may be waiting for these tiles.
  if (data.kind === "feed") {
    source?.attach(data.tiles);
    return;
  }
  queue = queue.then(() => answer(data));
};

async function answer(request: Answered): Promise<void> {
  try {
    const value = await handle(request);
    const reply: WorkerAnswer = { id: request.id, value };
    self.postMessage(reply, { transfer: isPiece(value) ? [value.memory] : [] });
  } catch (error) {
    const reply: WorkerAnswer = { id: request.id, error: error instanceof Error ? error.message : String(error) };
    self.postMessage(reply);
  }
}

async function handle(request: Answered) {
  if (request.kind === "open") {
    source = new SharedTiles(request.size, request.tiles);
    const heap = await heapWith(await module, request.slots);
    engine = new Engine(heap, source, factsOf(request.capture));
    groundAnswers = new GroundAnswers(engine, source);
    weighAnswers = new WeighAnswers(engine, source, request.capture);
    return heap.slotCount;
  }
  if (!engine || !source || !groundAnswers || !weighAnswers) throw new Error("Expected an open negative.");
  const { recipe } = request;
  switch (request.kind) {
    case "render":
      return render(engine, source, request);
    case "sketch": {
      const print = engine.prepare(withoutGrain(recipe));
      const { width, height, ...view } = wholeView(print.frame, source.size, request.longEdge);
      const { memory } = await render(engine, source, {
        recipe: withoutGrain(recipe),
        view: { width, height, ...view },
        mode: "print",
        memory: new ArrayBuffer(0),
      });
      return { width, height, memory };
    }
    case "prefetch":
      source.expect(engine.tilesFor(engine.prepare(recipe), request.view));
      return null;
    case "measure": {
      const print = engine.prepare(recipe);
      const view = wholeView(print.frame, source.size, MEASURE_EDGE);
      await source.fetchAll(engine.tilesFor(print, view));
      return histograms(engine.renderLight(print, view), engine.renderReflectance(print, view));
    }
    case "colours":
      return weighAnswers.colours(recipe);
    case "film":
      return weighAnswers.film(recipe);
    case "solve":
      return weighAnswers.solve(recipe, request.goal);
    case "partByWeights":
      return weighAnswers.partByWeights(recipe, request.first, request.second);
    case "startingPoints":
      return weighAnswers.startingPoints(recipe);
    case "dice":
      return weighAnswers.dice(recipe, request.seed);
    case "clipping":
      return weighAnswers.clipping(recipe);
    case "edgePlaces":
      return weighAnswers.edgePlaces(recipe);
    case "edge":
      return weighAnswers.edge(recipe, request.place);
    case "seam":
      return weighAnswers.seam(recipe, request.index);
    case "pick": {
      const { ground } = recipe;
      const plain = { ...defaultRecipe(), ground: { ...ground, exposureEv: 0, whiteBalance: AS_SHOT } };
      const print = engine.prepare(plain);
      const view = spotView(print.frame, request, PICK_PIXELS);
      await source.fetchAll(engine.tilesForColour(print, view));
      const [red, green, blue] = engine.renderWorking(print, view).map(mean);
      return [red, green, blue] as const;
    }
    case "ground":
      return groundAnswers.ground(recipe, request.headroomStops);
    case "fallOff":
      return groundAnswers.fallOff(recipe);
    case "healSource":
      return groundAnswers.healSource(recipe, request.spot);
    case "dust":
      return groundAnswers.dust(recipe);
    case "probe": {
      const print = engine.prepare(withoutGrain(recipe));
      const view = spotView(print.frame, request, PROBE_PIXELS);
      await source.fetchAll(engine.tilesFor(print, view));
      return { light: mean(engine.renderLight(print, view)), reflectance: mean(engine.renderReflectance(print, view)) };
    }
  }
}

/** A heap with as many slots as there is memory for. */
async function heapWith(kernels: KernelModule, slots: number): Promise<KernelHeap> {
  for (let wanted = slots; ; wanted = Math.max(FEWEST_SLOTS, wanted >> 1)) {
    try {
      return await createKernelHeap(kernels, wanted);
    } catch (error) {
      if (!(error instanceof RangeError) || wanted === FEWEST_SLOTS) throw error;
    }
  }
}

async function render(
  on: Engine,
  tiles: SharedTiles,
  { recipe, view, mode, memory }: Pick<RenderRequest, "recipe" | "view" | "mode" | "memory">,
): Promise<RenderedPiece> {
  const print = on.prepare(mode === "plain" ? { ...defaultRecipe(), ground: recipe.ground } : recipe);
  await tiles.fetchAll(mode === "colour" ? on.tilesForColour(print, view) : on.tilesFor(print, view));
  const started = performance.now();
  const bytes = 4 * view.width * view.height;
  const out = new Uint8Array(memory.byteLength >= bytes ? memory : new ArrayBuffer(bytes));
  if (mode === "colour") on.renderColourRgba(print, view, out);
  else on.renderRgba(print, view, out);
  return { memory: out.buffer, computeMs: performance.now() - started };
}

function isPiece(value: unknown): value is RenderedPiece {
  return typeof value === "object" && value !== null && "memory" in value;
}

/** A square of full-size pixels about a place of the frame. */
function spotView({ width, height }: Size, { x, y }: { x: number; y: number }, edge: number): View {
  const inside = (at: number, length: number) => Math.max(0, Math.min(length - edge, Math.round(at) - (edge >> 1)));
  return {
    x: inside(x, width),
    y: inside(y, height),
    width: Math.min(width, edge),
    height: Math.min(height, edge),
    scale: 1,
    level: 0,
  };
}

function withoutGrain(recipe: Recipe): Recipe {
  return { ...recipe, finish: { ...recipe.finish, grain: { ...recipe.finish.grain, granularity: 0 } } };
}

function mean(values: Float32Array): number {
  return values.reduce((sum, v) => sum + v, 0) / values.length;
}
