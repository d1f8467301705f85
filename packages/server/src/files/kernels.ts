import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { compileKernels, createKernelHeap, type KernelHeap, type KernelModule } from "@yelm/core";

let module: KernelModule | undefined;

/** Slots that keep a band of tiles with everything that is computed for it. */
const SLOTS = 128;

/** The compiled kernels. Threads that are handed them share what has been optimised already. */
export function kernelModule(): KernelModule {
  return (module ??= compileKernels(readFileSync(createRequire(import.meta.url).resolve("@yelm/core/kernels.wasm"))));
}

/** A kernel instance with memory of its own; untouched slots take none. */
export function openKernels(): Promise<KernelHeap> {
  return createKernelHeap(kernelModule(), SLOTS);
}
