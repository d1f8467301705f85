import {
  TILE_SIZE,
  type CleanSpot,
  type EdgePlace,
  type Goal,
  type Negative,
  type Recipe,
  type View,
} from "@yelm/core";
import { deviceShare, type DeviceShare } from "./device.ts";
import { PoolWorker } from "./pool-worker.ts";
import { takeTileWorker } from "./spare-workers.ts";
import type { PictureMode, TileWorkerSetup, WorkerRequest, WorkerResults } from "./protocol.ts";

/** Edges of the pieces that a picture is rendered in, view pixels. */
const SMALLEST_PIECE = 128;
const LARGEST_PIECE = 512;
/** Requests that a worker has at a time, so that it never waits for the page. */
const LANES = 2;
/** Deaths of workers after which the pool makes do with less. */
const PATIENCE = 2;

/** A finished picture for one view. */
export interface Picture {
  readonly view: View;
  /** To be used before the next picture is asked for: its memory is used again. */
  readonly pixels: ImageData;
  /** Milliseconds that the workers computed, each its share. */
  readonly computeMs: number;
}

interface Wanted {
  readonly recipe: Recipe;
  readonly view: View;
  readonly mode: PictureMode;
  readonly done: (picture: Picture | null) => void;
  readonly fail: (error: Error) => void;
}

/**
 * Render workers of one negative, with the tile worker that feeds them. Pictures: the newest request wins, and one is
 * handed over only whole. Everything else is answered in order.
 */
export class RenderPool {
  readonly #negative: Negative;
  #tileWorker: Worker;
  readonly #onShortage: () => void;
  #share: DeviceShare;
  #workers: PoolWorker[];
  #wanted: Wanted | null = null;
  #running = false;
  #deaths = 0;
  #pixels: ImageData | null = null;
  readonly #memory: ArrayBuffer[] = [];
  #told = false;

  /** @param onShortage - told once when memory is too short for what was planned. */
  constructor(negative: Negative, onShortage: () => void = () => undefined) {
    this.#negative = negative;
    this.#onShortage = onShortage;
    this.#share = deviceShare(navigator);
    this.#tileWorker = this.#startTiles();
    this.#workers = Array.from({ length: this.#share.workers }, () => this.#newWorker());
  }

  get negativeId(): string {
    return this.#negative.id;
  }

  /** Renders a view; resolves with null when a newer request took its place. */
  render(recipe: Recipe, view: View, mode: PictureMode): Promise<Picture | null> {
    return new Promise((done, fail) => {
      this.#wanted?.done(null);
      this.#wanted = { recipe, view, mode, done, fail };
      if (!this.#running) void this.#work();
    });
  }

  /** Says that a view may be wanted next. */
  prefetch(recipe: Recipe, view: View): void {
    this.#workers[0].ask("prefetch", { recipe, view }).catch(() => undefined);
  }

  /** The whole print, small and without grain. */
  sketch(recipe: Recipe, longEdge: number): Promise<WorkerResults["sketch"]> {
    return this.#workers.at(-1)!.ask("sketch", { recipe, longEdge });
  }

  measure(recipe: Recipe): Promise<WorkerResults["measure"]> {
    return this.#workers.at(-1)!.ask("measure", { recipe });
  }

  colours(recipe: Recipe): Promise<WorkerResults["colours"]> {
    return this.#workers.at(-1)!.ask("colours", { recipe });
  }

  film(recipe: Recipe): Promise<WorkerResults["film"]> {
    return this.#workers.at(-1)!.ask("film", { recipe });
  }

  /** The smallest change of the families that reaches a goal. */
  solve(recipe: Recipe, goal: Goal): Promise<WorkerResults["solve"]> {
    return this.#workers.at(-1)!.ask("solve", { recipe, goal });
  }

  partByWeights(recipe: Recipe, first: number, second: number): Promise<WorkerResults["partByWeights"]> {
    return this.#workers.at(-1)!.ask("partByWeights", { recipe, first, second });
  }

  startingPoints(recipe: Recipe): Promise<WorkerResults["startingPoints"]> {
    return this.#workers.at(-1)!.ask("startingPoints", { recipe });
  }

  dice(recipe: Recipe, seed: number): Promise<WorkerResults["dice"]> {
    return this.#workers.at(-1)!.ask("dice", { recipe, seed });
  }

  clipping(recipe: Recipe): Promise<WorkerResults["clipping"]> {
    return this.#workers.at(-1)!.ask("clipping", { recipe });
  }

  edgePlaces(recipe: Recipe): Promise<WorkerResults["edgePlaces"]> {
    return this.#workers.at(-1)!.ask("edgePlaces", { recipe });
  }

  edge(recipe: Recipe, place: EdgePlace): Promise<WorkerResults["edge"]> {
    return this.#workers.at(-1)!.ask("edge", { recipe, place });
  }

  seam(recipe: Recipe, index: number): Promise<WorkerResults["seam"]> {
    return this.#workers.at(-1)!.ask("seam", { recipe, index });
  }

  probe(recipe: Recipe, x: number, y: number): Promise<WorkerResults["probe"]> {
    return this.#workers[0].ask("probe", { recipe, x, y });
  }

  pick(recipe: Recipe, x: number, y: number): Promise<WorkerResults["pick"]> {
    return this.#workers[0].ask("pick", { recipe, x, y });
  }

  /** What Ground shows of the picture. */
  ground(recipe: Recipe): Promise<WorkerResults["ground"]> {
    const { headroomStops = 0 } = this.#negative.capture;
    return this.#workers.at(-1)!.ask("ground", { recipe, headroomStops });
  }

  fallOff(recipe: Recipe): Promise<WorkerResults["fallOff"]> {
    return this.#workers.at(-1)!.ask("fallOff", { recipe });
  }

  healSource(recipe: Recipe, spot: CleanSpot): Promise<WorkerResults["healSource"]> {
    return this.#workers[0].ask("healSource", { recipe, spot });
  }

  dust(recipe: Recipe): Promise<WorkerResults["dust"]> {
    return this.#workers.at(-1)!.ask("dust", { recipe });
  }

  close(): void {
    this.#wanted?.done(null);
    this.#wanted = null;
    for (const worker of this.#workers) worker.close();
    this.#tileWorker.terminate();
  }

  async #work(): Promise<void> {
    this.#running = true;
    while (this.#wanted) {
      const job = this.#wanted;
      const superseded = () => this.#wanted !== job;
      try {
        const picture = await this.#renderPieces(job, superseded);
        if (!superseded()) this.#wanted = null;
        job.done(picture);
      } catch (error) {
        if (!superseded()) this.#wanted = null;
        job.fail(error instanceof Error ? error : new Error(String(error)));
      }
    }
    this.#running = false;
  }

  async #renderPieces({ recipe, view, mode }: Wanted, superseded: () => boolean): Promise<Picture | null> {
    const known = this.#pixels;
    const fits = known?.width === view.width && known.height === view.height;
    const pixels = fits ? known : new ImageData(view.width, view.height);
    this.#pixels = pixels;
    const pieces = cut(view);
    const next = () => (superseded() ? undefined : pieces.shift());
    const lanes = this.#workers.flatMap((worker) => new Array<PoolWorker>(LANES).fill(worker));
    let computeMs = 0;
    await Promise.all(
      lanes.map(async (worker) => {
        for (let piece = next(); piece; piece = next()) {
          const memory = this.#memory.pop() ?? new ArrayBuffer(0);
          const done = await worker.ask("render", { recipe, view: piece, mode, memory }, [memory]);
          this.#memory.push(done.memory);
          computeMs += done.computeMs / this.#workers.length;
          const rgba = new Uint8Array(done.memory);
          const row = 4 * piece.width;
          for (let y = 0; y < piece.height; y++) {
            const to = 4 * ((piece.y - view.y + y) * view.width + piece.x - view.x);
            pixels.data.set(rgba.subarray(y * row, (y + 1) * row), to);
          }
        }
      }),
    );
    return superseded() ? null : { view, pixels, computeMs };
  }

  #startTiles(): Worker {
    const worker = takeTileWorker();
    const setup: TileWorkerSetup = {
      kind: "negative",
      negativeId: this.#negative.id,
      limitBytes: this.#share.tileBytes,
    };
    worker.postMessage(setup);
    worker.onerror = () => {
      worker.terminate();
      this.#makeDo();
      this.#tileWorker = this.#startTiles();
      for (const fed of this.#workers) fed.feed(this.#newPort());
    };
    return worker;
  }

  /** A new way to the tile worker. */
  #newPort(): MessagePort {
    const { port1, port2 } = new MessageChannel();
    const setup: TileWorkerSetup = { kind: "port", port: port1 };
    this.#tileWorker.postMessage(setup, [port1]);
    return port2;
  }

  #newWorker(): PoolWorker {
    const { width, height } = this.#negative;
    const open = (worker: Worker) => {
      const tiles = this.#newPort();
      const { slots } = this.#share;
      const { capture } = this.#negative;
      const request: WorkerRequest = { kind: "open", id: 0, size: { width, height }, capture, slots, tiles };
      worker.postMessage(request, [tiles]);
    };
    return new PoolWorker(
      open,
      (slots) => slots < this.#share.slots && this.#tellShortage(),
      () => this.#makeDo(),
    );
  }

  /** After some deaths: one worker less and half the slots, down to one small worker. */
  #makeDo(): void {
    if (++this.#deaths < PATIENCE) return;
    this.#share = { ...this.#share, slots: Math.max(32, this.#share.slots >> 1) };
    this.#tellShortage();
    // Only while nothing is under way, so that no request is lost with its worker.
    if (this.#workers.length > 1 && !this.#running) this.#workers.pop()!.close();
  }

  #tellShortage(): void {
    if (this.#told) return;
    this.#told = true;
    this.#onShortage();
  }
}

/**
 * Pieces on a grid that is fixed to the picture, so that what was computed for them serves again after a small pan. Each
 * takes about one tile of computing, so that a stale picture is dropped soon.
 */
function cut(view: View): View[] {
  const pieces: View[] = [];
  const tile = Math.floor(TILE_SIZE * view.scale * 2 ** view.level);
  const edge = Math.min(LARGEST_PIECE, Math.max(SMALLEST_PIECE, tile));
  for (let y = view.y; y < view.y + view.height;) {
    const bottom = Math.min(view.y + view.height, (Math.floor(y / edge) + 1) * edge);
    for (let x = view.x; x < view.x + view.width;) {
      const right = Math.min(view.x + view.width, (Math.floor(x / edge) + 1) * edge);
      pieces.push({ ...view, x, y, width: right - x, height: bottom - y });
      x = right;
    }
    y = bottom;
  }
  return pieces;
}
