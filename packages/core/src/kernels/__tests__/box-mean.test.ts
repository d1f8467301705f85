import { beforeAll, expect, test } from "@jest/globals";
import type { KernelHeap } from "../heap.ts";
import { openHeap, seeded } from "./open-heap.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
});

function boxMean(values: Float32Array, width: number, height: number, radius: number): Float32Array {
  const mark = heap.mark();
  const plane = heap.allocate(4 * values.length + 16);
  heap.floats(plane, values.length).set(values);
  const rows = heap.allocate(16 * (width + 2 * radius + 12));
  const ring = heap.allocate(4 * (width + 4) * (2 * radius + 2));
  heap.kernels.boxMean(plane, width, height, radius, rows, ring);
  const found = heap.floats(plane, values.length).slice();
  heap.release(mark);
  return found;
}

/** By the definition, in double precision. */
function meanAt(values: Float32Array, width: number, height: number, radius: number, x: number, y: number): number {
  const within = (at: number, size: number) => Math.min(size - 1, Math.max(0, at));
  let sum = 0;
  for (let v = y - radius; v <= y + radius; v++)
    for (let u = x - radius; u <= x + radius; u++) sum += values[within(v, height) * width + within(u, width)];
  return sum / (2 * radius + 1) ** 2;
}

test.each([
  [1, 1, 3],
  [7, 5, 1],
  [33, 61, 2],
  [50, 9, 8],
  [37, 40, 9],
  [45, 70, 10],
  [64, 30, 17],
])("means over squares are those of the definition: %i × %i, radius %i", (width, height, radius) => {
  const random = seeded(width + radius);
  const values = Float32Array.from({ length: width * height }, () => random());
  const found = boxMean(values, width, height, radius);
  found.forEach((v, i) => {
    const wanted = meanAt(values, width, height, radius, i % width, Math.floor(i / width));
    if (!(Math.abs(v - wanted) < 1e-6)) throw new Error(`Expected ${wanted} at ${i} but received ${v}.`);
  });
});

test("beside the sun, means of the dark are as exact as anywhere: nothing bright that has left the window stays in them", () => {
  const [width, height] = [48, 200];
  for (const radius of [3, 9, 12]) {
    const random = seeded(radius);
    const values = Float32Array.from({ length: width * height }, (_, i) => {
      const y = Math.floor(i / width);
      return random() * (y < 60 ? 30 : 1e-5);
    });
    const found = boxMean(values, width, height, radius);
    let worst = 0;
    for (let y = 60 + radius; y < height; y++)
      for (let x = 0; x < width; x++) {
        const wanted = meanAt(values, width, height, radius, x, y);
        worst = Math.max(worst, Math.abs(found[y * width + x] / wanted - 1));
      }
    expect(worst).toBeLessThan(2e-6);
  }
});
