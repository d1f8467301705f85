import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { setFlagsFromString } from "node:v8";
import { compileKernels, createKernelHeap, type KernelHeap, type KernelModule } from "@yelm/core";

let module: KernelModule | undefined;

/** Slots that keep a band of tiles with everything that is computed for it. */
const SLOTS = 128;

/**
 * What a kernel may run before it is optimised (V8's measure; its own default is 1.8 million): little, since one call of one goes through a
 * whole band of pixels in the code that it began in.
 */
const TIERING_BUDGET = 20_000;

/** The compiled kernels. Threads that are handed them share what has been optimised already. */
export function kernelModule(): KernelModule {
  if (!module) {
    setFlagsFromString(`--wasm-tiering-budget=${TIERING_BUDGET}`);
    module = compileKernels(readFileSync(createRequire(import.meta.url).resolve("@yelm/core/kernels.wasm")));
  }
  return module;
}

/** A kernel instance with memory of its own; untouched slots take none. */
export function openKernels(): Promise<KernelHeap> {
  return createKernelHeap(kernelModule(), SLOTS);
}
