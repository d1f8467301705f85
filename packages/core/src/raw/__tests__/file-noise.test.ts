import { describe, expect, test } from "@jest/globals";
import type { Vector3 } from "../../colour/matrix.ts";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { FileNoise, STRIPE_ROWS } from "../file-noise.ts";

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
