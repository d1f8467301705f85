import { beforeAll, describe, expect, test } from "@jest/globals";
import type { Vector3 } from "../../colour/matrix.ts";
import { REC2020 } from "../../colour/rgb-space.ts";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { ChromaRows } from "../chroma-rows.ts";
import { CHROMA_BORDER, smoothChroma } from "../chroma-smoothing.ts";
import { FileNoise, STRIPE_ROWS } from "../file-noise.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
});

const random = seeded(8);
const normal = () => Math.sqrt(-2 * Math.log(random() + 1e-12)) * Math.cos(2 * Math.PI * random());
const STRAW: Vector3 = [0.3, 0.24, 0.12];
const SKY: Vector3 = [0.2, 0.26, 0.4];

/** Three planes of a picture, one after the other. */
function planesOf(width: number, height: number, colourAt: (x: number, y: number) => readonly number[]): Float32Array {
  const planes = new Float32Array(3 * width * height);
  for (let i = 0; i < width * height; i++)
    colourAt(i % width, Math.floor(i / width)).forEach((v, c) => (planes[c * width * height + i] = v));
  return planes;
}

/** Variance by light that is measured of a picture of 640 × 640. */
function measured(colourAt: (x: number, y: number) => readonly number[]): number {
  const size = 640;
  const noise = new FileNoise(size);
  for (let top = 0; top < size; top += STRIPE_ROWS)
    noise.add(planesOf(size, STRIPE_ROWS, (x, y) => colourAt(x, top + y)));
  return noise.cellNoise()?.[1] ?? 0;
}

describe("the colour noise of a file", () => {
  const shaded = (colour: Vector3, y: number) => colour.map((v) => v * (0.3 + y / 600)) as unknown as Vector3;
  test("is measured, also over passages and beside texture, to a factor of two", () => {
    const slope = 4e-5;
    const found = measured((x, y) => {
      const colour = shaded(x < 320 ? STRAW : SKY, y);
      const coarse = x > 160 ? 1 : 0.7 + 0.6 * random();
      return colour.map((v) => coarse * v + Math.sqrt(slope * v) * normal());
    });
    expect(found).toBeGreaterThan(0.5 * slope);
    expect(found).toBeLessThan(2 * slope);
  });
  test("is none of what two materials mix to, however fine, crisp or soft, in light and shade", () => {
    const fine = measured((x, y) => {
      const share = (x + y) % 7 < 3 ? 1 : random();
      const light = 0.4 + 0.6 * random();
      return STRAW.map((v, c) => light * (v + share * (SKY[c] - v)));
    });
    expect(fine).toBeLessThan(3e-5);
    const passage = measured((x) => STRAW.map((v, c) => v + (x / 640) * (SKY[c] - v)));
    expect(passage).toBe(0);
  });
  test("is what its rounding leaves where that is more, and none of white", () => {
    const white = new FileNoise(640);
    white.add(planesOf(640, STRIPE_ROWS, () => [1, 1, 1].map((v) => v - 0.01 * random())));
    expect(white.cellNoise()).toBeNull();
    expect(white.cellNoise(2e-5)?.[6]).toBe(2e-5);
  });
});

describe("rows whose chroma is smoothed as they come", () => {
  const noise = [0, 1, 2].flatMap(() => [1e-8, ...REC2020.luminance.map((v) => 1e-4 * v)]).concat(Array(12).fill(0));
  const picture = (width: number, height: number) =>
    planesOf(width, height, (x) => (x < width / 2 ? STRAW : SKY).map((v) => v + 0.004 * normal()));

  /** Handed over in pieces of so many rows, put together again. */
  function throughRows(planes: Float32Array, width: number, height: number, piece: number): Float32Array {
    const out = new Float32Array(planes.length);
    let done = 0;
    const copy = (from: Float32Array, rows: number, top: number, to: Float32Array, toRows: number, toTop: number, count: number) => {
      for (let c = 0; c < 3; c++) {
        const at = (c * rows + top) * width;
        to.set(from.subarray(at, at + count * width), (c * toRows + toTop) * width);
      }
    }; // prettier-ignore
    const rows = new ChromaRows(heap, { width, height }, noise, (given, count) => {
      copy(given, count, 0, out, height, done, count);
      done += count;
    });
    for (let top = 0; top < height; top += piece) {
      const count = Math.min(piece, height - top);
      const given = new Float32Array(3 * width * count);
      copy(planes, height, top, given, count, 0, count);
      rows.push(given, count);
    }
    expect(done).toBe(height);
    return out;
  }

  const farthest = (a: Float32Array, b: Float32Array) =>
    a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0);

  test("are those of the whole picture smoothed at once, however they come", () => {
    const [width, height] = [52, 2 * 512 + CHROMA_BORDER + 6];
    const planes = picture(width, height);
    const mark = heap.mark();
    const at = heap.allocate(4 * planes.length);
    heap.floats(at, planes.length).set(planes);
    smoothChroma(heap, at, width, height, noise, REC2020.luminance);
    const whole = heap.floats(at, planes.length).slice();
    heap.release(mark);
    for (const piece of [1, 64, 299, height]) {
      const found = throughRows(planes, width, height, piece);
      // Sums begin at other rows, and round otherwise: a third of a half float's step.
      expect(farthest(found, whole)).toBeLessThan(8e-5);
    }
    expect(farthest(whole, planes)).toBeGreaterThan(0.005);
  });
  test.each([
    [1, 1],
    [7, 3],
    [33, 513],
    [64, 313],
  ])("of %d × %d pixels keep their luminance, each of them", (width, height) => {
    const planes = picture(width, height);
    const found = throughRows(planes, width, height, 64);
    const n = width * height;
    for (let i = 0; i < n; i++) {
      const light = [0, 1, 2].reduce(
        (sum, c) => sum + REC2020.luminance[c] * (found[c * n + i] - planes[c * n + i]),
        0,
      );
      expect(Math.abs(light)).toBeLessThan(1e-6);
    }
  });
});
