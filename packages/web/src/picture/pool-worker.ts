import { takeRenderWorker } from "./spare-workers.ts";
import type { WorkerAnswer, WorkerRequest, WorkerResults } from "./protocol.ts";

type Plain<K extends WorkerRequest["kind"]> = Omit<Extract<WorkerRequest, { kind: K }>, "id" | "kind">;

interface Waiting {
  readonly request: WorkerRequest;
  again: boolean;
  readonly done: (value: never) => void;
  readonly fail: (error: Error) => void;
}

/** One render worker and the requests it has not answered. A worker that dies is replaced and asked again once. */
export class PoolWorker {
  readonly #open: (worker: Worker) => void;
  readonly #onDeath: () => void;
  readonly #waiting = new Map<number, Waiting>();
  #worker: Worker;
  #lastId = 0;

  /**
   * @param open - sends a fresh worker its "open" request, with id 0.
   * @param onOpen - told the slots it could have.
   */
  constructor(open: (worker: Worker) => void, onOpen: (slots: number) => void, onDeath: () => void) {
    this.#open = open;
    this.#onDeath = onDeath;
    this.#worker = this.#start(onOpen);
  }

  ask<K extends keyof WorkerResults>(
    kind: K,
    request: Plain<K>,
    transfer: Transferable[] = [],
  ): Promise<WorkerResults[K]> {
    return new Promise((done, fail) => {
      const id = ++this.#lastId;
      const whole = { kind, id, ...request } as unknown as WorkerRequest;
      // What is transferred is gone from here: should the request be sent again, it goes without.
      const kept = "memory" in whole ? { ...whole, memory: new ArrayBuffer(0) } : whole;
      this.#waiting.set(id, { request: kept, again: false, done, fail });
      this.#worker.postMessage(whole, transfer);
    });
  }

  /** Gives it a new way to the tiles. */
  feed(tiles: MessagePort): void {
    const request: WorkerRequest = { kind: "feed", id: 0, tiles };
    this.#worker.postMessage(request, [tiles]);
  }

  close(): void {
    this.#worker.terminate();
    for (const { fail } of this.#waiting.values()) fail(new Error("The negative was closed."));
    this.#waiting.clear();
  }

  #start(onOpen: (slots: number) => void): Worker {
    const worker = takeRenderWorker();
    worker.onmessage = ({ data }: MessageEvent<WorkerAnswer>) => {
      if (data.id === 0) {
        if ("error" in data) this.#replace(onOpen);
        else onOpen(data.value as number);
        return;
      }
      const waiting = this.#waiting.get(data.id);
      this.#waiting.delete(data.id);
      if ("error" in data) waiting?.fail(new Error(data.error));
      else waiting?.done(data.value as never);
    };
    worker.onerror = () => this.#replace(onOpen);
    this.#open(worker);
    return worker;
  }

  #replace(onOpen: (slots: number) => void): void {
    this.#worker.terminate();
    this.#onDeath();
    const hopeless = [...this.#waiting].filter(([, waiting]) => waiting.again);
    for (const [id, { fail }] of hopeless) {
      this.#waiting.delete(id);
      fail(new Error("The picture could not be computed."));
    }
    this.#worker = this.#start(onOpen);
    for (const waiting of this.#waiting.values()) {
      waiting.again = true;
      this.#worker.postMessage(waiting.request);
    }
  }
}
