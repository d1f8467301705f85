import { readFileSync } from "node:fs";
import { compileKernels, createKernelHeap, type KernelHeap } from "../heap.ts";

/** Kernels for tests: the built module, in memory of its own. */
export function openHeap(slots = 96): Promise<KernelHeap> {
  return createKernelHeap(compileKernels(readFileSync(new URL("../../../build/kernels.wasm", import.meta.url))), slots);
}

/** A plane's bytes, to be compared with others to the bit: what counts element by element takes seconds a megabyte. */
export const bytesOf = ({ buffer, byteOffset, byteLength }: ArrayBufferView): Buffer =>
  Buffer.from(buffer, byteOffset, byteLength);

/** The largest of |off(i)| over `count` values: an expectation for each of them takes seconds a megabyte, too. */
export function farthest(count: number, off: (i: number) => number): number {
  let most = 0;
  for (let i = 0; i < count; i++) {
    const far = Math.abs(off(i));
    if (!(far <= most)) most = far;
  }
  return most;
}

/** Seeded numbers in [0, 1) (mulberry32), so that a failure can be repeated. */
export function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
