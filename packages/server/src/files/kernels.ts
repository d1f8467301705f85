import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { compileKernels, createKernelHeap, type KernelHeap, type KernelModule } from "@yelm/core";

let module: KernelModule | undefined;

/** A kernel instance with memory of its own. */
export function openKernels(): Promise<KernelHeap> {
  module ??= compileKernels(readFileSync(createRequire(import.meta.url).resolve("@yelm/core/kernels.wasm")));
  return createKernelHeap(module);
}
