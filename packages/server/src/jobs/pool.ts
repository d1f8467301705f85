import { availableParallelism } from "node:os";
import { fileURLToPath } from "node:url";
import { MessageChannel } from "node:worker_threads";
import { Piscina } from "piscina";
import { AppError, INTERNAL_WORDS, reviveError } from "../errors.ts";
import { THREADS_BEHIND } from "../step-back.ts";
import type { Tasks } from "./tasks.ts";
import type { Answer, Call, ThreadKind } from "./worker.ts";

// Node 20 runs no TypeScript in workers, so threads load the built file also when the caller runs from source.
const WORKER = fileURLToPath(new URL("../../dist/jobs/worker.js", import.meta.url));
const IDLE_MS = 60_000;
const MEMORY_MB = 3072;
/** By then a page has what it asked for when it was opened. */
const WAKE_MS = 2000;
/** More threads than this help one call no further. */
const MOST_SPARE = 3;

/** Options of one call. */
export interface RunOptions {
  readonly signal?: AbortSignal;
  /** A call that takes longer is stopped, thread and all. */
  readonly timeoutMs?: number;
  readonly onProgress?: (share: number) => void;
}

/** Threads for heavy work: one group for what somebody waits for, one for the rest. */
export class WorkPool {
  readonly #groups: { readonly interactive: Piscina; readonly background: Piscina };
  #running = 0;
  #waking: NodeJS.Timeout | undefined;

  constructor() {
    const open = (maxThreads: number, behind: boolean) => {
      const workerData: ThreadKind = { behind };
      return new Piscina({
        filename: WORKER,
        minThreads: 0,
        maxThreads,
        idleTimeout: IDLE_MS,
        resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
        workerData,
      });
    };
    this.#groups = { interactive: open(1, false), background: open(THREADS_BEHIND, true) };
  }

  /** Cores that nothing is running on: a call may use some of them besides its own thread. */
  get spareCores(): number {
    return Math.max(0, Math.min(MOST_SPARE, availableParallelism() - this.#running - 1));
  }

  /** Has a thread ready for work that may come, once what is asked for now is done. */
  wakeSoon(group: "interactive" | "background"): void {
    clearTimeout(this.#waking);
    this.#waking = setTimeout(() => this.wake(group), WAKE_MS).unref();
  }

  /** Has a thread ready by the time that work which is still on its way is here. */
  wake(group: "interactive" | "background"): void {
    if (this.#groups[group].threads.length > 0) return;
    const call: Call = { name: "ready", input: {} };
    this.#groups[group].run(call).catch(() => undefined);
  }

  async run<K extends keyof Tasks>(
    group: "interactive" | "background",
    name: K,
    input: Omit<Parameters<Tasks[K]>[0], "onProgress">,
    { signal, timeoutMs = 180_000, onProgress }: RunOptions = {},
  ): Promise<Awaited<ReturnType<Tasks[K]>>> {
    // A timer and listener of our own: signals joined by the runtime may lose their timeout when memory is collected.
    const stop = new AbortController();
    let late = false;
    const timer = setTimeout(() => {
      late = true;
      stop.abort();
    }, timeoutMs);
    const onStop = () => stop.abort();
    if (signal?.aborted) stop.abort();
    else signal?.addEventListener("abort", onStop, { once: true });
    const channel = onProgress ? new MessageChannel() : undefined;
    channel?.port1.on("message", (share: number) => onProgress?.(share));
    const call: Call = { name, input, port: channel?.port2 };
    this.#running++;
    try {
      const answer = (await this.#groups[group].run(call, {
        signal: stop.signal,
        transferList: channel ? [channel.port2] : [],
      })) as Answer;
      if ("error" in answer) throw reviveError(answer.error);
      return answer.value as Awaited<ReturnType<Tasks[K]>>;
    } catch (error) {
      if (error instanceof AppError) throw error;
      if (late)
        throw new AppError(
          "timeout",
          `It took longer than ${timeoutMs / 1000} s and was stopped.`,
          {},
          { cause: error },
        );
      if (signal?.aborted) throw new AppError("conflict", "Stopped on request.", {}, { cause: error });
      throw new AppError("internal", INTERNAL_WORDS, {}, { cause: error });
    } finally {
      this.#running--;
      clearTimeout(timer);
      signal?.removeEventListener("abort", onStop);
      channel?.port1.close();
    }
  }

  async close(): Promise<void> {
    clearTimeout(this.#waking);
    await Promise.all([this.#groups.interactive.destroy(), this.#groups.background.destroy()]);
  }
}
