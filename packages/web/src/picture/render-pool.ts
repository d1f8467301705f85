import type { Negative, Recipe, View } from "@yelm/core";
import type { PictureMode, WorkerAnswer, WorkerRequest, WorkerResults } from "./protocol.ts";

/** Edge of the pieces that a picture is rendered in; small enough that a stale picture is dropped soon. */
const PIECE = 512;

type Plain<K extends WorkerRequest["kind"]> = Omit<Extract<WorkerRequest, { kind: K }>, "id" | "kind">;

/** A finished picture for one view. */
export interface Picture {
  readonly view: View;
  readonly pixels: ImageData;
}

/**
 * Render workers of one negative. Pictures: the newest request wins, and one is handed over only whole. Everything
 * else is answered in order. A worker that dies is replaced and asked again once.
 */
export class RenderPool {
  readonly #negative: Negative;
  readonly #workers: PoolWorker[];
  #wanted: {
    recipe: Recipe;
    view: View;
    mode: PictureMode;
    done: (picture: Picture | null) => void;
    fail: (e: Error) => void;
  } | null = null;
  #running = false;

  constructor(negative: Negative) {
    this.#negative = negative;
    const count = Math.max(1, (navigator.hardwareConcurrency || 2) - 1);
    this.#workers = Array.from({ length: count }, () => new PoolWorker(this.#negative));
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

  measure(recipe: Recipe): Promise<WorkerResults["measure"]> {
    return this.#workers.at(-1)!.ask("measure", { recipe });
  }

  palette(recipe: Recipe): Promise<WorkerResults["palette"]> {
    return this.#workers.at(-1)!.ask("palette", { recipe });
  }

  probe(recipe: Recipe, x: number, y: number): Promise<WorkerResults["probe"]> {
    return this.#workers[0].ask("probe", { recipe, x, y });
  }

  close(): void {
    this.#wanted?.done(null);
    this.#wanted = null;
    for (const worker of this.#workers) worker.close();
  }

  async #work(): Promise<void> {
    this.#running = true;
    while (this.#wanted) {
      const job = this.#wanted;
      const superseded = () => this.#wanted !== job;
      try {
        const picture = await this.#renderPieces(job.recipe, job.view, job.mode, superseded);
        if (!superseded()) this.#wanted = null;
        job.done(picture);
      } catch (error) {
        if (!superseded()) this.#wanted = null;
        job.fail(error instanceof Error ? error : new Error(String(error)));
      }
    }
    this.#running = false;
  }

  async #renderPieces(
    recipe: Recipe,
    view: View,
    mode: PictureMode,
    superseded: () => boolean,
  ): Promise<Picture | null> {
    const pixels = new ImageData(view.width, view.height);
    const pieces = cut(view);
    const next = () => (superseded() ? undefined : pieces.shift());
    await Promise.all(
      this.#workers.map(async (worker) => {
        for (let piece = next(); piece; piece = next()) {
          const rgba = await worker.ask("render", { recipe, view: piece, mode });
          const row = 4 * piece.width;
          for (let y = 0; y < piece.height; y++)
            pixels.data.set(
              rgba.subarray(y * row, (y + 1) * row),
              4 * ((piece.y - view.y + y) * view.width + piece.x - view.x),
            );
        }
      }),
    );
    return superseded() ? null : { view, pixels };
  }
}

/** Pieces on a grid that is fixed to the picture, so that masks drawn for them can be used again after a small pan. */
function cut(view: View): View[] {
  const pieces: View[] = [];
  for (let y = view.y; y < view.y + view.height;) {
    const bottom = Math.min(view.y + view.height, (Math.floor(y / PIECE) + 1) * PIECE);
    for (let x = view.x; x < view.x + view.width;) {
      const right = Math.min(view.x + view.width, (Math.floor(x / PIECE) + 1) * PIECE);
      pieces.push({ ...view, x, y, width: right - x, height: bottom - y });
      x = right;
    }
    y = bottom;
  }
  return pieces;
}

/** One worker and the requests it has not answered. */
class PoolWorker {
  readonly #negative: Negative;
  readonly #waiting = new Map<
    number,
    { request: WorkerRequest; again: boolean; done: (v: never) => void; fail: (e: Error) => void }
  >();
  #worker: Worker;
  #lastId = 0;

  constructor(negative: Negative) {
    this.#negative = negative;
    this.#worker = this.#start();
  }

  ask<K extends WorkerRequest["kind"]>(kind: K, request: Plain<K>): Promise<WorkerResults[K]> {
    return new Promise((done, fail) => {
      const id = ++this.#lastId;
      const whole = { kind, id, ...request } as unknown as WorkerRequest;
      this.#waiting.set(id, { request: whole, again: false, done: done, fail });
      this.#worker.postMessage(whole);
    });
  }

  close(): void {
    this.#worker.terminate();
    for (const { fail } of this.#waiting.values()) fail(new Error("The negative was closed."));
    this.#waiting.clear();
  }

  #start(): Worker {
    const worker = new Worker(new URL("./render-worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = ({ data }: MessageEvent<WorkerAnswer>) => {
      const waiting = this.#waiting.get(data.id);
      this.#waiting.delete(data.id);
      if ("error" in data) waiting?.fail(new Error(data.error));
      else waiting?.done(data.value as never);
    };
    worker.onerror = () => this.#replace();
    const { id, width, height } = this.#negative;
    const open: WorkerRequest = { kind: "open", id: 0, negativeId: id, size: { width, height } };
    worker.postMessage(open);
    return worker;
  }

  #replace(): void {
    this.#worker.terminate();
    this.#worker = this.#start();
    for (const [id, waiting] of this.#waiting) {
      if (waiting.again) {
        this.#waiting.delete(id);
        waiting.fail(new Error("The picture could not be computed."));
      } else {
        waiting.again = true;
        this.#worker.postMessage(waiting.request);
      }
    }
  }
}
