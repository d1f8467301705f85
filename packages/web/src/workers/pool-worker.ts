import type { Recipe } from "@yelm/core";
import { patchBetween } from "./patch.ts";
import { revivedError, type WorkerAnswer, type WorkerRequest } from "./protocol.ts";
import type { AnswerOf, InputOf, QuestionName } from "./questions.ts";

interface Waiting {
  readonly name: QuestionName;
  readonly input: InputOf<QuestionName>;
  /** True once a worker was lost with it: it is not asked a third time. */
  again: boolean;
  readonly done: (value: never) => void;
  readonly fail: (error: Error) => void;
}

/** A worker as it is used here, so that tests can bring their own. */
export type WorkerLike = Pick<Worker, "postMessage" | "terminate" | "onmessage" | "onerror" | "onmessageerror">;

export interface PoolWorkerOptions {
  readonly start: () => WorkerLike;
  /** Sends a fresh worker its "open" request. */
  readonly open: (worker: WorkerLike, id: number) => void;
  /** Told the slots that it could have. */
  readonly onOpen: (slots: number) => void;
  readonly onDeath: () => void;
  /** Told once when it is given up, with the reason. */
  readonly onGivenUp: (reason: Error) => void;
  /** Runs something later; setTimeout. */
  readonly later?: (ms: number, run: () => void) => unknown;
}

/** Starts in a row that fail before it is given up; the pause before each grows. */
const MOST_STARTS = 4;
const FIRST_PAUSE_MS = 150;

/** The negative is no longer open. */
export class PoolClosedError extends Error {
  override readonly name = "PoolClosedError";

  constructor() {
    super("The negative was closed.");
  }
}

/** The picture cannot be computed on this machine at present. */
export class WorkerLostError extends Error {
  override readonly name = "WorkerLostError";
}

/**
 * One render worker and the questions it has not answered. A worker that dies is replaced and asked again once; one that
 * cannot be started is tried again a few times, ever later, and then given up until something is asked anew. Every
 * question settles.
 */
export class PoolWorker {
  readonly #options: PoolWorkerOptions;
  readonly #later: NonNullable<PoolWorkerOptions["later"]>;
  readonly #waiting = new Map<number, Waiting>();
  #worker: WorkerLike | null = null;
  /** The recipe that the worker knows. */
  #known: Recipe | null = null;
  #lastId = 0;
  #openId = 0;
  #failedStarts = 0;
  #state: "starting" | "open" | "given up" | "closed" = "starting";

  constructor(options: PoolWorkerOptions) {
    this.#options = options;
    this.#later = options.later ?? ((ms, run) => setTimeout(run, ms));
    this.#start();
  }

  ask<K extends QuestionName>(name: K, input: InputOf<K>, transfer: Transferable[] = []): Promise<AnswerOf<K>> {
    if (this.#state === "closed") return Promise.reject(new PoolClosedError());
    return new Promise((done, fail) => {
      const id = ++this.#lastId;
      // What is transferred is gone from here: should the request be sent again, it goes without.
      const kept = transfer.length > 0 ? { ...input, memory: new ArrayBuffer(0) } : input;
      this.#waiting.set(id, { name, input: kept, again: false, done, fail });
      if (this.#state === "given up") {
        this.#failedStarts = 0;
        this.#start();
      } else if (this.#state === "open") this.#post(id, name, input, transfer);
      // While it starts, what waits is sent as soon as it is open.
    });
  }

  /** Gives it a new way to the tiles. */
  feed(tiles: MessagePort): void {
    const request: WorkerRequest = { kind: "feed", tiles };
    this.#worker?.postMessage(request, [tiles]);
  }

  close(): void {
    this.#state = "closed";
    this.#letGo();
    this.#failAll(new PoolClosedError());
  }

  #start(): void {
    if (this.#state === "closed") return;
    this.#state = "starting";
    const worker = this.#options.start();
    this.#worker = worker;
    this.#known = null;
    this.#openId = ++this.#lastId;
    worker.onmessage = ({ data }: MessageEvent<WorkerAnswer>) => worker === this.#worker && this.#hear(data);
    const lost = (event: { readonly message?: string }) => {
      if (worker === this.#worker) this.#lose(new Error(event.message ?? "The worker died."));
    };
    worker.onerror = lost;
    worker.onmessageerror = () => lost({ message: "An answer could not be read." });
    this.#options.open(worker, this.#openId);
  }

  #hear(answer: WorkerAnswer): void {
    if (answer.id === this.#openId) {
      if ("slots" in answer) this.#opened(answer.slots);
      else this.#lose("error" in answer ? revivedError(answer.error) : new Error("It did not open."));
      return;
    }
    const waiting = this.#waiting.get(answer.id);
    this.#waiting.delete(answer.id);
    if ("error" in answer) waiting?.fail(revivedError(answer.error));
    else if ("value" in answer) waiting?.done(answer.value as never);
  }

  #opened(slots: number): void {
    this.#state = "open";
    this.#failedStarts = 0;
    this.#options.onOpen(slots);
    for (const [id, { name, input }] of this.#waiting) this.#post(id, name, input);
  }

  /** Sends a request; of its recipe only what differs from the one before. */
  #post(
    id: number,
    name: QuestionName,
    { recipe, ...input }: InputOf<QuestionName>,
    transfer: Transferable[] = [],
  ): void {
    const request: WorkerRequest = { kind: "ask", id, name, input, recipe: patchBetween(this.#known, recipe) };
    this.#known = recipe;
    this.#worker?.postMessage(request, transfer);
  }

  /** The worker is gone, or never came to be open. */
  #lose(cause: Error): void {
    const wasOpen = this.#state === "open";
    this.#letGo();
    this.#options.onDeath();
    if (wasOpen) {
      for (const [id, waiting] of this.#waiting) {
        if (waiting.again) this.#fail(id, new WorkerLostError("The picture could not be computed.", { cause }));
        waiting.again = true;
      }
      this.#start();
      return;
    }
    this.#state = "starting";
    if (++this.#failedStarts < MOST_STARTS) {
      this.#later(
        FIRST_PAUSE_MS * 2 ** this.#failedStarts,
        () => this.#state === "starting" && !this.#worker && this.#start(),
      );
      return;
    }
    this.#state = "given up";
    const reason = new WorkerLostError(`The picture could not be opened: ${cause.message}`, { cause });
    this.#failAll(reason);
    this.#options.onGivenUp(reason);
  }

  #letGo(): void {
    this.#worker?.terminate();
    this.#worker = null;
  }

  #fail(id: number, error: Error): void {
    this.#waiting.get(id)?.fail(error);
    this.#waiting.delete(id);
  }

  #failAll(error: Error): void {
    for (const id of [...this.#waiting.keys()]) this.#fail(id, error);
  }
}
