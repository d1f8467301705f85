import { beforeAll, expect, test } from "@jest/globals";
import { FUSING } from "../../raw/demosaic.ts";
import type { KernelHeap } from "../heap.ts";
import { openHeap, seeded } from "./open-heap.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
});

/** Along, down, and both smoothed. */
type Differences = readonly [Float32Array, Float32Array, Float32Array, Float32Array];

function fuse(planes: Differences, stride: number, height: number): Float32Array {
  const mark = heap.mark();
  const [along, down, alongLow, downLow] = planes.map((plane) => heap.place(plane));
  const out = heap.allocate(4 * stride * height);
  heap.kernels.fuseDifferences(along, down, alongLow, downLow, out, stride, height, heap.allocate(FUSING));
  const found = heap.floats(out, stride * height).slice();
  heap.release(mark);
  return found;
}

/** By the definition (Zhang & Wu 2005), in double precision. */
function fusedAt([along, down, alongLow, downLow]: Differences, stride: number, i: number): number {
  const estimate = (raw: Float32Array, low: Float32Array, step: number) => {
    const nine = Array.from({ length: 9 }, (_, k) => i + (k - 4) * step);
    const mean = nine.reduce((sum, j) => sum + low[j], 0) / 9;
    const signal = 1e-9 + Math.max(0, nine.reduce((sum, j) => sum + low[j] ** 2, 0) / 9 - mean ** 2);
    const wrong = 1e-9 + nine.reduce((sum, j) => sum + (raw[j] - low[j]) ** 2, 0) / 9;
    const total = signal + wrong;
    return { value: (raw[i] * signal + low[i] * wrong) / total, error: (signal * wrong) / total };
  };
  const [h, v] = [estimate(along, alongLow, 1), estimate(down, downLow, stride)];
  return (h.value * v.error + v.value * h.error) / (h.error + v.error);
}

function drawn(stride: number, height: number): Differences {
  const random = seeded(stride);
  const plane = (size: number) => Float32Array.from({ length: stride * height }, () => size * (random() - 0.5));
  return [plane(0.4), plane(0.4), plane(0.2), plane(0.2)];
}

test("differences of both directions are fused by their expected errors, also where strips of columns meet", () => {
  const [stride, height] = [2120, 34];
  const planes = drawn(stride, height);
  const found = fuse(planes, stride, height);
  for (let y = 10; y < height - 10; y++)
    for (let x = 12; x < stride - 12; x++) {
      const i = y * stride + x;
      const wanted = fusedAt(planes, stride, i);
      if (!(Math.abs(found[i] - wanted) < 2e-6))
        throw new Error(`Expected ${wanted} at ${x}, ${y} but received ${found[i]}.`);
    }
  // A piece that begins elsewhere has the same bits: bands and threads agree.
  const [left, top, width, rows] = [2020, 3, 100, 28];
  const cut = (plane: Float32Array) =>
    Float32Array.from(
      { length: width * rows },
      (_, k) => plane[(top + Math.floor(k / width)) * stride + left + (k % width)],
    );
  const piece = fuse(planes.map(cut) as unknown as Differences, width, rows);
  for (let y = 10; y < rows - 10; y++)
    for (let x = 12; x < width - 12; x++) expect(piece[y * width + x]).toBe(found[(top + y) * stride + left + x]);
});
