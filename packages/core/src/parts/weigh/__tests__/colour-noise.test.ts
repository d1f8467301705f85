import { describe, expect, test } from "@jest/globals";
import type { Vector3 } from "../../../colour/matrix.ts";
import { luminanceOf } from "../../../colour/rgb-space.ts";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { holdForNoise } from "../colour-noise.ts";

const WIDTH = 61;
const HEIGHT = 64;
const STRIDE = 64;
const random = seeded(5);
const normal = () => Math.sqrt(-2 * Math.log(random() + 1e-12)) * Math.cos(2 * Math.PI * random());

/** Sums of cells of sixteen pixels, each voting fully, as `gatherVotes` writes them. */
function sumsOf(colourAt: (x: number, y: number) => Vector3): Float32Array {
  const plane = STRIDE * HEIGHT;
  const sums = new Float32Array(10 * plane);
  for (let y = 0; y < 4 * HEIGHT; y++)
    for (let x = 0; x < 4 * WIDTH; x++) {
      const [r, g, b] = colourAt(x, y);
      const vote = 1 / luminanceOf([r, g, b]) ** 2;
      const cell = (y >> 2) * STRIDE + (x >> 2);
      [r * r, r * g, r * b, g * g, g * b, b * b, r, g, b, 1].forEach((v, k) => (sums[k * plane + cell] += vote * v));
    }
  return sums;
}

/** How firmly a cell of sixteen votes is held. */
function heldAt(colourAt: (x: number, y: number) => Vector3, x: number, y: number): number {
  const out = new Float32Array(STRIDE * HEIGHT);
  holdForNoise(sumsOf(colourAt), STRIDE, { width: WIDTH, height: HEIGHT }, out);
  return out[y * STRIDE + x] / 16;
}

const STRAW: Vector3 = [0.3, 0.24, 0.12];
const SKY: Vector3 = [0.2, 0.26, 0.4];
const noisy = (colour: Vector3, deviation: number) => {
  const light = luminanceOf(colour);
  return colour.map((v) => v + light * deviation * normal()) as unknown as Vector3;
};
const scaled = ([r, g, b]: Vector3, by: number): Vector3 => [by * r, by * g, by * b];

describe("how firmly noise holds a fit", () => {
  test("not at all where colours are clean, whatever they do: an edge, a passage, shading", () => {
    const mixed = (share: number, by: number): Vector3 =>
      scaled(STRAW.map((v, c) => v + share * (SKY[c] - v)) as unknown as Vector3, by);
    const clean = (x: number, y: number) => mixed(x < 100 ? 0 : Math.min(1, (x - 100) / 60), 0.5 + 0.4 * Math.sin(y));
    for (const x of [5, 30, 55]) expect(heldAt(clean, x, 30)).toBeLessThan(2e-4);
  });
  test("in proportion to the variance, by luminance: dark ones of a picture may be noisy, light ones clean", () => {
    const spread = (x: number) => (x < 120 ? 0.03 : 0.01);
    const picture = (x: number, y: number) => noisy(scaled(STRAW, x < 120 ? 0.05 : 1), spread(x) + 0 * y);
    const [dark, light] = [heldAt(picture, 12, 30), heldAt(picture, 50, 30)];
    // Noise of files lies in blocks, of which a place has few, and looks calmer there by chance: of white noise too much is made.
    expect(dark / (20 * 0.03 ** 2)).toBeGreaterThan(0.8);
    expect(dark / (20 * 0.03 ** 2)).toBeLessThan(1.8);
    expect(dark / light).toBeGreaterThan(7);
    expect(dark / light).toBeLessThan(11);
  });
  test("texture in a half of the picture is no noise, as long as the rest of the same light is even", () => {
    const picture = (x: number) => (x < 120 ? noisy(STRAW, 0.15) : noisy(STRAW, 0.01));
    expect(heldAt(picture, 12, 30)).toBeLessThan(20 * 2.5 * 0.01 ** 2);
  });
});
