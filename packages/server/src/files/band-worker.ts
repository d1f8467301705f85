import { parentPort, workerData } from "node:worker_threads";
import type { KernelModule, TileBand } from "@yelm/core";
// Not the whole core: a helper is to be there at once.
import { createKernelHeap } from "@yelm/core/kernels/heap";
import { bandCount, developBand } from "@yelm/core/raw/develop";
import { stepBack } from "../step-back.ts";
import type { BandDone, BandWork } from "./band-helpers.ts";

stepBack();
const kernels = createKernelHeap(workerData as KernelModule);

/** Develops bands that nobody has begun until there are none, and closes its port. */
parentPort!.on("message", ({ plan, next, port }: BandWork) => {
  const work = async () => {
    const heap = await kernels;
    const count = bandCount(plan);
    for (let index = Atomics.add(next, 0, 1); index < count; index = Atomics.add(next, 0, 1)) {
      let band: TileBand | null = null;
      try {
        band = developBand(heap, plan, index);
      } catch {
        // The caller does it, and meets what went wrong itself.
      }
      const done: BandDone = { index, band };
      const moved = band ? [...band.tiles, ...(band.half ? [band.half.planes] : [])].map((array) => array.buffer) : [];
      port.postMessage(done, moved as ArrayBuffer[]);
    }
  };
  void work().finally(() => port.close());
});
