import type { Block } from "../graph/stage.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import type { Rect, Size } from "../maths/rect.ts";
import { wornShare } from "../parts/finish/print-colour.ts";

/** A light table in kernel memory: of one value a node where the print is neutral, of red, green, blue and nothing where it is not. */
export interface Table16 {
  readonly pointer: number;
  readonly channels: 1 | 3;
}

/** Places the tables of one or three channels. */
export function placeTable16(heap: KernelHeap, tables: readonly Float32Array[]): Table16 {
  const [red, green, blue] = tables;
  if (tables.length === 1) return { pointer: heap.place(red), channels: 1 };
  const nodes = new Float32Array(4 * red.length);
  for (let i = 0; i < red.length; i++) nodes.set([red[i], green[i], blue[i]], 4 * i);
  return { pointer: heap.place(nodes), channels: 3 };
}

/** Encodes a strip of light: rows of codes, channels interleaved. They lie in kernel memory: to be used at once. */
export function codesOf(
  heap: KernelHeap,
  { pointer, stride, width, height }: Block,
  { pointer: table, channels }: Table16,
): Uint16Array {
  const { kernels } = heap;
  const length = channels * width * height;
  const out = heap.allocate(2 * length + 32);
  if (channels === 1) kernels.encode16(pointer, stride, out, width, height, table);
  else kernels.encode16Rgb(pointer, stride, out, width, height, table, heap.allocate(32));
  return heap.halves(out, length);
}

/** Strengthens or weakens the tone of codes from place to place, as the kernel `scaleTone8` does for the screen. */
export function scaleTone16(
  heap: KernelHeap,
  codes: Uint16Array,
  plain: Uint16Array,
  share: Block,
  { width, height }: Size,
): void {
  const channels = codes.length / (width * height);
  const shares = heap.floats(share.pointer, share.stride * height);
  for (let i = 0; i < codes.length; i++) {
    const pixel = Math.floor(i / channels);
    const more = shares[Math.floor(pixel / width) * share.stride + (pixel % width)];
    const factor = Math.min(2, Math.max(0, 1 + more));
    codes[i] = Math.min(65535, Math.max(0, Math.round(plain[i] + factor * (codes[i] - plain[i]))));
  }
}

/** Mixes in how the edges of an old print look, as the kernel `mixEdge8` does for the screen. `whole` is the picture's size. */
export function wearEdges16(codes: Uint16Array, worn: Uint16Array, part: Rect, whole: Size): void {
  const channels = codes.length / (part.width * part.height);
  for (let row = 0, i = 0; row < part.height; row++) {
    const v = (2 * (part.y + row + 0.5)) / whole.height - 1;
    for (let column = 0; column < part.width; column++) {
      const share = wornShare((2 * (part.x + column + 0.5)) / whole.width - 1, v);
      for (let c = 0; c < channels; c++, i++)
        if (share > 0) codes[i] = Math.round(codes[i] * (1 - share) + worn[i] * share);
    }
  }
}
