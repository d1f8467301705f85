import { isOwnScale, TILE_SIZE, type Negative, type Recipe, type Rect, type TilePlace, type View } from "@yelm/core";
import { deviceShare, type DeviceShare } from "./device.ts";
import { PoolWorker } from "./pool-worker.ts";
import type { TileWorkerSetup, WorkerRequest } from "./protocol.ts";
import type { AnswerOf, InputOf, PictureMode, QuestionName } from "./questions.ts";
import { takeRenderWorker, takeTileWorker, warmUp } from "./spare-workers.ts";
import { tilesAddress } from "./tiles-address.ts";

/** Edges of the pieces that a picture is rendered in, view pixels. */
const SMALLEST_PIECE = 128;
const LARGEST_PIECE = 512;
/** Requests that a worker has at a time, so that it never waits for the page. */
const LANES = 2;
/** Deaths of workers after which the pool makes do with less. */
const PATIENCE = 2;

/** A lone worker is asked for the whole picture at once when that is expected to take no longer: more than the painter has patience for. */
const IN_ONE_GO_MS = 120;
/** All other questions wait until no picture has been wanted for this long, longer than the painter waits with its exact one. */
const REST_MS = 170;
/** Before the first picture they wait for at most this long. */
const FIRST_MS = 2500;

/** Questions of the hand, which wait for nothing; all others wait for the hand to rest and go to the last worker. */
const AT_HAND = new Set<QuestionName>(["probe", "pick", "healSource", "prefetch"]);

/** What stands beside the picture in every station: before all else that waited. */
const BESIDE = new Set<QuestionName>(["measure", "spots", "ends"]);

/** Questions that ready each worker for what may come. */
const OF_EACH = new Set<QuestionName>(["takeUp"]);

/** A finished picture for one view. */
export interface Picture {
  readonly view: View;
  /** What of the view `pixels` are, all of it or what is not as it was; may be empty. */
  readonly part: Rect;
  /** By this number a later picture can build on it. */
  readonly number: number;
  /** To be used before the next picture is asked for: its memory is used again. Null when the part is empty. */
  readonly pixels: ImageData | null;
  /** Milliseconds that the workers computed, each its share. */
  readonly computeMs: number;
}

let pools = 0;

interface Wanted {
  readonly recipe: Recipe;
  readonly view: View;
  readonly mode: PictureMode;
  readonly seen: () => number | null;
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
  readonly #onTrouble: (reason: Error) => void;
  #share: DeviceShare;
  #workers: PoolWorker[];
  /** What is rendered after what is under way. */
  #next: Wanted | null = null;
  #running = false;
  #deaths = 0;
  #pixels: ImageData | null = null;
  #lastNumber = 0;
  readonly #memory: ArrayBuffer[] = [];
  /** Memory of the last picture, when that lies in a worker's own. */
  #lent: ArrayBuffer | null = null;
  /** Milliseconds a view pixel took last, by level. */
  readonly #pace = new Map<number, number>();
  /** Whether tiles of a picture in pieces are fetched ahead of them. */
  #fetching = false;
  #resting = false;
  readonly #waiting: { readonly name: QuestionName; readonly done: () => void }[] = [];
  #restTimer: ReturnType<typeof setTimeout>;
  #told = false;
  #closed = false;

  /**
   * @param onShortage - told once when memory is too short for what was planned.
   * @param onTrouble - told when a worker cannot be started.
   */
  constructor(negative: Negative, onShortage: () => void, onTrouble: (reason: Error) => void) {
    this.#negative = negative;
    this.#onShortage = onShortage;
    this.#onTrouble = onTrouble;
    this.#share = deviceShare(navigator);
    this.#tileWorker = this.#startTiles();
    this.#workers = Array.from({ length: this.#share.workers }, () => this.#newWorker());
    this.#restTimer = setTimeout(() => this.#rest(), FIRST_MS);
  }

  /** Unlike any other pool of this page. */
  readonly id = `pool-${++pools}`;

  get negativeId(): string {
    return this.#negative.id;
  }

  /** Address of the tiles that it works on. */
  get tiles(): string {
    return tilesAddress(this.#negative);
  }

  /**
   * Renders a view. What is asked for meanwhile waits, and only the newest of it is rendered; the others resolve with null. A picture
   * that is made in pieces is given up for a newer one, a small one is finished: else a hand that never rests would see none.
   * @param seen - asked when the picture is begun: the number of the one that is seen then, on which it may build; null for all of it.
   */
  render(
    recipe: Recipe,
    view: View,
    mode: PictureMode,
    seen: () => number | null = () => null,
  ): Promise<Picture | null> {
    if (this.#closed) return Promise.resolve(null);
    return new Promise((done, fail) => {
      this.#next?.done(null);
      this.#next = { recipe, view, mode, seen, done, fail };
      if (!this.#running) void this.#work();
    });
  }

  /**
   * Asks a question about the negative. Rejects with what went wrong; PoolClosedError once the pool is closed.
   * @param signal - aborted when nobody wants the answer any more: while the question waits, it is not asked then.
   */
  async ask<K extends QuestionName>(name: K, input: InputOf<K>, signal?: AbortSignal): Promise<AnswerOf<K>> {
    if (AT_HAND.has(name)) return this.#workers[0].ask(name, input);
    if (!this.#resting && !this.#closed) await new Promise<void>((done) => this.#waiting.push({ name, done }));
    signal?.throwIfAborted();
    const [last, ...others] = this.#workers.toReversed();
    if (OF_EACH.has(name)) for (const other of others) other.ask(name, input).catch(() => undefined);
    return last.ask(name, input);
  }

  /** Has the workers do the ground work of a print before its first picture is wanted. */
  warm(recipe: Recipe): void {
    for (const worker of this.#workers) worker.ask("warm", { recipe }).catch(() => undefined);
  }

  /** Has tiles fetched while the workers that will read them still start. */
  fetchAhead(places: readonly TilePlace[]): void {
    this.#tileWorker.postMessage({ kind: "soon", places } satisfies TileWorkerSetup);
  }

  /** Says that a view may be wanted next. */
  prefetch(recipe: Recipe, view: View): void {
    this.ask("prefetch", { recipe, view }).catch(() => undefined);
  }

  close(): void {
    this.#closed = true;
    this.#next?.done(null);
    this.#next = null;
    clearTimeout(this.#restTimer);
    this.#rest();
    for (const worker of this.#workers) worker.close();
    this.#tileWorker.terminate();
  }

  async #work(): Promise<void> {
    this.#running = true;
    this.#resting = false;
    clearTimeout(this.#restTimer);
    while (this.#next) {
      const job = this.#next;
      this.#next = null;
      try {
        job.done(await this.#renderPieces(job, () => this.#next !== null));
        // Whoever waits for the picture uses it now, before its memory goes to the next one.
        await Promise.resolve();
      } catch (error) {
        job.fail(error instanceof Error ? error : new Error(String(error)));
      }
    }
    this.#running = false;
    if (!this.#closed) this.#restTimer = setTimeout(() => this.#rest(), REST_MS);
  }

  /** No picture is wanted at present: what waited for that is asked. */
  #rest(): void {
    this.#resting = true;
    // The next print finds its workers ready, which are not started while this one's first picture is computed.
    if (!this.#closed) warmUp();
    const waiting = this.#waiting.splice(0);
    for (const { name, done } of waiting) if (BESIDE.has(name)) done();
    for (const { name, done } of waiting) if (!BESIDE.has(name)) done();
  }

  async #renderPieces(job: Wanted, superseded: () => boolean): Promise<Picture | null> {
    if (this.#lent) this.#memory.push(this.#lent);
    this.#lent = null;
    const { recipe, view } = job;
    // In place of what a picture that was given up had still to fetch.
    if (this.#fetching) this.prefetch(recipe, view);
    this.#fetching = false;
    const pixels = view.width * view.height;
    const expected = (this.#pace.get(view.level) ?? Infinity) * pixels;
    const inOneGo = this.#workers.length === 1 && expected <= IN_ONE_GO_MS;
    const picture = await (inOneGo ? this.#renderWhole(job) : this.#renderCut(job, superseded));
    // What a few pixels take says little of many.
    const rendered = picture ? picture.part.width * picture.part.height : 0;
    if (picture && rendered > pixels / 2) this.#pace.set(view.level, picture.computeMs / rendered);
    return picture;
  }

  /** By one request; the picture lies in the memory that came back. */
  async #renderWhole({ recipe, view, mode, seen }: Wanted): Promise<Picture> {
    const memory = this.#memory.pop() ?? new ArrayBuffer(0);
    const number = ++this.#lastNumber;
    const input = { recipe, view, mode, memory, number, since: seen() };
    const { part, computeMs, ...done } = await this.#workers[0].ask("picture", input, [memory]);
    this.#lent = done.memory;
    const { width, height } = part;
    if (width === 0 || height === 0) return { view, part, number, pixels: null, computeMs };
    const bytes = new Uint8ClampedArray(done.memory, 0, 4 * width * height);
    return { view, part, number, pixels: new ImageData(bytes, width, height), computeMs };
  }

  async #renderCut({ recipe, view: all, mode, seen }: Wanted, superseded: () => boolean): Promise<Picture | null> {
    const number = ++this.#lastNumber;
    const part = await this.#workers[0].ask("changed", { recipe, view: all, mode, number, since: seen() });
    if (part.width === 0 || part.height === 0) return { view: all, part, number, pixels: null, computeMs: 0 };
    const view = { ...all, ...part };
    const known = this.#pixels;
    const fits = known?.width === view.width && known.height === view.height;
    const pixels = fits ? known : new ImageData(view.width, view.height);
    this.#pixels = pixels;
    const pieces = cut(view);
    if (pieces.length > LANES * this.#workers.length) {
      this.#fetching = true;
      this.prefetch(recipe, view);
    }
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
    if (superseded()) return null;
    this.#fetching = false;
    return { view: all, part, number, pixels, computeMs };
  }

  #startTiles(): Worker {
    const worker = takeTileWorker();
    const setup: TileWorkerSetup = {
      kind: "negative",
      tiles: this.tiles,
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
    return new PoolWorker({
      start: takeRenderWorker,
      open: (worker, id) => {
        const tiles = this.#newPort();
        const { slots } = this.#share;
        const { capture } = this.#negative;
        const request: WorkerRequest = { kind: "open", id, size: { width, height }, capture, slots, tiles };
        worker.postMessage(request, [tiles]);
      },
      onOpen: (slots) => slots < this.#share.slots && this.#tellShortage(),
      onDeath: () => this.#makeDo(),
      onGivenUp: this.#onTrouble,
    });
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
  const tile = isOwnScale(view) ? TILE_SIZE : Math.floor(TILE_SIZE * view.scale * 2 ** view.level);
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
