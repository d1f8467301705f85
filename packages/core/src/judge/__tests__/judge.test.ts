import { describe, expect, test } from "@jest/globals";
import { liesIn, readEye, type Area } from "../eye.ts";
import { measureHalo } from "../halo.ts";
import { measureLean } from "../lean.ts";
import { pieceNoise } from "../texture-noise.ts";

const WIDTH = 360;
const HEIGHT = 240;
const picture = (at: (x: number, y: number) => number) =>
  Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => at(i % WIDTH, Math.floor(i / WIDTH)));
/** Uniform −1…1, the same in every run. */
let state = 7;
const uniform = () => (state = (state * 16807) % 2147483647) / 2147483647;
const noise = () => 2 * uniform() - 1;
const smooth = (d: number) => 1 / (1 + Math.exp(-d));

describe("lean", () => {
  const horizon = (degrees: number) =>
    picture((x, y) => {
      const t = Math.tan((degrees * Math.PI) / 180);
      const below = y - HEIGHT * 0.55 - (x - WIDTH / 2) * t;
      return 70 - 35 * smooth(below) + 4 * noise();
    });
  test.each([-4.2, -0.4, 2.5, 5.5])("a horizon that falls by %d° is turned back by as much", (degrees) => {
    const lean = measureLean(horizon(degrees), WIDTH, HEIGHT)!;
    expect(Math.abs(lean.degrees + degrees)).toBeLessThan(0.2);
    expect(lean.clearness).toBeGreaterThan(1.1);
  });
  test("uprights say the same; texture without lines says nothing clearly", () => {
    const t = Math.tan((2 * Math.PI) / 180);
    const posts = picture((x, y) => 40 + (Math.floor((x + y * t) / 40) % 2 === 0 ? 30 : 0) + 3 * noise());
    // Turned clockwise, uprights fall to the left as they go down.
    expect(Math.abs(measureLean(posts, WIDTH, HEIGHT)!.degrees + 2)).toBeLessThan(0.2);
    const texture = measureLean(
      picture(() => 50 + 30 * noise()),
      WIDTH,
      HEIGHT,
    );
    expect(texture === null || texture.clearness < 1.1).toBe(true);
    expect(
      measureLean(
        picture(() => 50),
        WIDTH,
        HEIGHT,
      ),
    ).toBeNull();
  });
});

describe("halo", () => {
  const step = picture((x) => 30 + 40 * smooth((x - 180) / 2));
  test("bands on both sides of an edge are measured, wherever they lie; tones alone make none", () => {
    const banded = picture((x) => {
      const d = x - 180;
      return 30 + 40 * smooth(d / 2) + (d > 0 ? 4 : -4) * Math.exp(-Math.abs(d) / 6);
    });
    const halo = measureHalo(banded, step, WIDTH, HEIGHT)!;
    expect(halo.lightness).toBeGreaterThan(3);
    expect(halo.lightness).toBeLessThan(8);
    expect(Math.abs(halo.x - 0.5)).toBeLessThan(0.04);
    const contrasty = step.map((v) => Math.min(100, 1.25 * (v - 50) + 50));
    expect(Math.abs(measureHalo(contrasty, step, WIDTH, HEIGHT)!.lightness)).toBeLessThan(0.5);
  });
  test("a dark band on blown white is one, found where the light has its edge", () => {
    const light = picture((x) => (x < 180 ? 40 : 80));
    const blown = picture(() => 100);
    const banded = blown.map((v, i) => v - (i % WIDTH < 180 && i % WIDTH > 168 ? 12 : 0));
    expect(measureHalo(banded, blown, WIDTH, HEIGHT)).toBeNull();
    expect(measureHalo(banded, blown, WIDTH, HEIGHT, light)!.lightness).toBeGreaterThan(6);
    expect(measureHalo(blown, blown, WIDTH, HEIGHT, light)!.lightness).toBe(0);
  });
  test("without edges there is nothing to tell", () => {
    const even = picture(() => 50 + 2 * noise());
    expect(measureHalo(even, even, WIDTH, HEIGHT)).toBeNull();
  });
});

test("noise is measured beside slow changes, which do not count", () => {
  const normal = () => Math.sqrt(-2 * Math.log(1 - uniform())) * Math.cos(2 * Math.PI * uniform());
  for (const deviation of [0.6, 2.5]) {
    const noisy = picture((x, y) => 30 + x * 0.08 + y * 0.05 + deviation * normal());
    expect(Math.abs(pieceNoise(noisy, WIDTH, HEIGHT) / deviation - 1)).toBeLessThan(0.05);
  }
});

test("the subject's place among the pulls, and its contrast over the rest", () => {
  const area: Area = { width: 60, height: 40, mask: new Float32Array(2400) };
  for (let y = 10; y < 20; y++) for (let x = 30; x < 45; x++) area.mask[y * 60 + x] = 1;
  const pull = (x: number, y: number) => ({ x, y, strength: 1, contrast: 10, lightness: 60, second: null });
  expect([liesIn(pull(0.6, 0.36), area), liesIn(pull(0.1, 0.1), area)]).toEqual([true, false]);
  const seen = Float32Array.from({ length: 2400 }, (_, i) => (area.mask[i] ? 40 + 20 * (i % 2) : 50));
  const found = readEye({ width: 60, height: 40, seen, pulls: [pull(0.1, 0.1), pull(0.6, 0.36)] }, area);
  expect(found.subject).toBe(2);
  // Stripes of two pixels, seen over two: only their borders count, and these are the subject's.
  expect(found.selective ?? 0).toBeGreaterThan(1);
  expect(readEye({ width: 60, height: 40, seen, pulls: [] }, null)).toEqual({ subject: null, selective: null });
});
