import { describe, expect, test } from "@jest/globals";
import { luminanceToLightness } from "../../../colour/lab.ts";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import type { Recipe } from "../../../recipe/schema.ts";
import { filmDensity, PAPER_DMAX } from "../characteristic.ts";
import { monotoneCubic } from "../../../maths/monotone-cubic.ts";
import { lightToStops, printZone, stopsToLight } from "../../../colour/stops.ts";
import { toneCurve } from "../tone-curve.ts";

const shape = (change: Partial<Recipe["shape"]> = {}) => ({ ...defaultRecipe().shape, ...change });

describe("monotone cubic", () => {
  test("passes through the points and stays between neighbours, for random data", () => {
    const seed = 11;
    const random = seeded(seed);
    for (let round = 0; round < 200; round++) {
      const n = 2 + Math.floor(random() * 10);
      let x = 0;
      const points = Array.from({ length: n }, () => [(x += 0.01 + random()), random()] as [number, number]);
      const f = monotoneCubic(points);
      for (let i = 0; i < n; i++) expect(f(points[i][0])).toBeCloseTo(points[i][1], 10);
      for (let i = 0; i + 1 < n; i++) {
        const [low, high] = [points[i][1], points[i + 1][1]].sort((a, b) => a - b);
        let last = points[i][1];
        for (let t = 0; t <= 1; t += 0.05) {
          const y = f(points[i][0] + t * (points[i + 1][0] - points[i][0]));
          expect([seed, round, y >= low - 1e-9 && y <= high + 1e-9]).toEqual([seed, round, true]);
          expect(points[i + 1][1] >= points[i][1] ? y >= last - 1e-9 : y <= last + 1e-9).toBe(true);
          last = y;
        }
      }
    }
  });
  test("Fritsch and Carlson's RPN 14 data do not overshoot", () => {
    const f = monotoneCubic([[7.99, 0], [8.09, 2.76429e-5], [8.19, 4.37498e-2], [8.7, 0.169183], [9.2, 0.469428], [10, 0.94374], [12, 0.998636], [15, 0.999919], [20, 0.999994]]); // prettier-ignore
    for (let x = 7.99; x < 20; x += 0.01) expect(f(x + 0.01)).toBeGreaterThanOrEqual(f(x) - 1e-12);
  });
  test("refuses points that do not rise", () => {
    expect(() =>
      monotoneCubic([
        [0, 0],
        [0, 1],
      ]),
    ).toThrow("Expected rising x");
    expect(() => monotoneCubic([[0, 0]])).toThrow("at least two points");
  });
});

describe("tone curve", () => {
  test("a fresh recipe is reflectance = light, clipped", () => {
    const f = toneCurve(shape());
    for (const e of [0, 0.001, 0.18, 0.5, 1]) expect(f(e)).toBeCloseTo(e, 5);
    expect(f(1.7)).toBe(1);
    expect(f(-0.3)).toBe(0);
    expect(luminanceToLightness(f(0.18))).toBeCloseTo(49.5, 1);
  });
  test("points, mid point and grade do what they say", () => {
    expect(toneCurve(shape({ whitePoint: 1 }))(stopsToLight(1))).toBeCloseTo(1, 3);
    expect(toneCurve(shape({ blackPoint: -4 }))(stopsToLight(-4))).toBeCloseTo(0, 3);
    expect(toneCurve(shape({ midPoint: 0.5 }))(0.18)).toBeCloseTo(0.18 * 2 ** 0.5, 4);
    const [soft, hard] = [1, 4].map((grade) => toneCurve(shape({ grade })));
    expect(hard(0.09)).toBeLessThan(soft(0.09));
    expect(hard(0.36)).toBeGreaterThan(soft(0.36));
    expect(hard(0.18)).toBeCloseTo(soft(0.18), 6);
  });
  test("rises for random shapes", () => {
    const random = seeded(5);
    for (let i = 0; i < 60; i++) {
      const f = toneCurve(
        shape({
          blackPoint: -12 * random(),
          whitePoint: 0.3 + 5 * random(),
          midPoint: 4 * random() - 2,
          grade: 5 * random(),
          characteristic: random() > 0.5 ? "film" : "straight",
          toe: random(),
          shoulder: random(),
          curve: [
            [0, 0.2 * random()],
            [0.5, 0.3 + 0.4 * random()],
            [1, 0.75 + 0.25 * random()],
          ],
        }),
      );
      for (let stops = -10; stops < 4; stops += 0.25) {
        const [low, high] = [f(stopsToLight(stops)), f(stopsToLight(stops + 0.25))];
        expect(high).toBeGreaterThanOrEqual(low - 1e-12);
        expect(low >= 0 && high <= 1).toBe(true);
      }
    }
  });
});

test("film curve: straight in the middle, bends into paper and into the deepest black", () => {
  expect(filmDensity(1, 0.3, 0.3)).toBeCloseTo(1, 3);
  expect(filmDensity(-3, 0.5, 0.5)).toBeCloseTo(0, 3);
  expect(filmDensity(9, 0.5, 0.5)).toBeCloseTo(PAPER_DMAX, 3);
  expect(filmDensity(0, 0.6, 0)).toBeGreaterThan(0.05);
  expect(filmDensity(0.5, 0, 0)).toBe(0.5);
});

test("stops and zones", () => {
  expect(lightToStops(0.36)).toBeCloseTo(1, 12);
  expect(lightToStops(0)).toBe(-Infinity);
  expect(printZone(0.18)).toBeCloseTo(4.95, 2);
  expect(printZone(3)).toBe(10);
});
