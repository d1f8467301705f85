import { once } from "node:events";
import { setImmediate } from "node:timers/promises";
import { fileURLToPath } from "node:url";
import { MessageChannel, Worker, type MessagePort } from "node:worker_threads";
import { bandsOf, developBand, type BandPlan, type KernelHeap, type KernelModule, type TileBand } from "@yelm/core";
import { kernelModule } from "./kernels.ts";

// Node 20 runs no TypeScript in workers, so threads load the built file also when the caller runs from source.
const WORKER = fileURLToPath(new URL("../../dist/files/band-worker.js", import.meta.url));
const MEMORY_MB = 1024;

/** What a helper begins with: it makes ready what it can while the file is still being unpacked. */
export interface HelperStart {
  readonly module: KernelModule;
  readonly fileBytes: number;
}
/** What a helper is given: how, and a shared counter whose next value is the next band that nobody has begun. */
export interface BandWork {
  readonly plan: BandPlan;
  readonly next: Int32Array;
  readonly port: MessagePort;
}
/** What a helper sends for each of its bands; no band when it could not. */
export interface BandDone {
  readonly index: number;
  readonly band: TileBand | null;
}

/**
 * Threads that develop bands of a picture beside the caller's own. Whatever becomes of them, every band is developed: what they leave
 * is done by the caller.
 */
export class BandHelpers {
  readonly #workers: readonly Worker[];
  readonly #gone: readonly Promise<unknown>[];

  /** @param fileBytes - size of the file that they are to help with. */
  constructor(count: number, fileBytes = 0) {
    this.#workers = Array.from({ length: count }, () => {
      const workerData: HelperStart = { module: kernelModule(), fileBytes };
      return new Worker(WORKER, { workerData, resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB } });
    });
    this.#gone = this.#workers.map((worker) => {
      worker.on("error", () => undefined);
      return once(worker, "exit").catch(() => undefined);
    });
  }

  get count(): number {
    return this.#workers.length;
  }

  /** Develops all bands that can be made and hands them on from top to bottom. */
  async develop(heap: KernelHeap, plan: BandPlan, take: (band: TileBand) => void): Promise<void> {
    const { first, end } = bandsOf(plan);
    const next = new Int32Array(new SharedArrayBuffer(4));
    next[0] = first;
    const ports = this.#begin(plan, next);
    const ready = new Map<number, TileBand>();
    let handed = first;
    const keep = ({ index, band }: BandDone) => {
      if (band) ready.set(index, band);
    };
    const handOn = () => {
      for (let band = ready.get(handed); band; band = ready.get(++handed)) {
        ready.delete(handed);
        take(band);
      }
    };
    const others = ports.map((port, i) => finished(port, this.#gone[i], keep));
    try {
      for (let index = Atomics.add(next, 0, 1); index < end; index = Atomics.add(next, 0, 1)) {
        ready.set(index, developBand(heap, plan, index));
        // What others have sent comes now, and what was handed on goes its own way.
        await setImmediate();
        handOn();
      }
      await Promise.all(others);
    } finally {
      for (const port of ports) port.close();
    }
    for (handOn(); handed < end; handOn()) ready.set(handed, developBand(heap, plan, handed));
  }

  #begin(plan: BandPlan, next: Int32Array): MessagePort[] {
    if (this.#workers.length === 0) return [];
    const shared = sharing(plan);
    return this.#workers.map((worker) => {
      const { port1, port2 } = new MessageChannel();
      const work: BandWork = { plan: shared, next, port: port2 };
      worker.postMessage(work, [port2]);
      return port1;
    });
  }

  async close(): Promise<void> {
    await Promise.all(this.#workers.map((worker) => worker.terminate()));
  }
}

/** The same, its data where all threads reach it: what is finished comes so ({@link FinishedPicture}). */
function sharing(plan: BandPlan): BandPlan {
  if (!("mosaic" in plan)) return plan;
  const { mosaic } = plan;
  const data = new Uint16Array(new SharedArrayBuffer(mosaic.data.byteLength));
  data.set(mosaic.data);
  return { ...plan, mosaic: { ...mosaic, data } };
}

/** Everything that a helper has still to send; it closes its port after the last, or is gone. */
function finished(port: MessagePort, gone: Promise<unknown>, keep: (done: BandDone) => void): Promise<unknown> {
  const closed = new Promise((resolve) => {
    port.on("message", keep);
    port.on("close", resolve);
  });
  return Promise.race([closed, gone]);
}
