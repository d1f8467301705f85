import { parentPort, workerData } from "node:worker_threads";
import type { KernelHeap, TileBand } from "@yelm/core";
// Not the whole core: a helper is to be there at once.
import { createKernelHeap } from "@yelm/core/kernels/heap";
import { bandsOf, developBand } from "@yelm/core/raw/bands";
import { rehearse } from "@yelm/core/raw/develop";
import { stepBack } from "../step-back.ts";
import type { BandDone, BandWork, HelperStart } from "./band-helpers.ts";

/** Kernel memory that developing a file takes, against the file's own size; no more is laid out than a picture of 24 MP takes. */
const TIMES_FILE = 4;
const MOST_BYTES = 160e6;

stepBack();
const { module, fileBytes } = workerData as HelperStart;
// While the file is unpacked.
const kernels = createKernelHeap(module).then((heap) => {
  rehearse(heap);
  layOut(heap, fileBytes);
  return heap;
});

/** Has memory there that a file will take: the machine lays it out at its first use, which takes a third of the time of a band. */
function layOut(heap: KernelHeap, fileBytes: number): void {
  const bytes = Math.min(MOST_BYTES, TIMES_FILE * fileBytes);
  const mark = heap.mark();
  heap.bytes(heap.allocate(bytes), bytes).fill(0);
  heap.release(mark);
}

/** Develops bands that nobody has begun until there are none, and closes its port. */
parentPort!.on("message", ({ plan, next, port }: BandWork) => {
  const work = async () => {
    const heap = await kernels;
    const { end } = bandsOf(plan);
    for (let index = Atomics.add(next, 0, 1); index < end; index = Atomics.add(next, 0, 1)) {
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
