import { describe, expect, test } from "@jest/globals";
import { stopsToLight } from "../../colour/stops.ts";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import { toneCurve } from "../../parts/shape/tone-curve.ts";
import { BARE, clippingStops, DEEPEST, FIRST_SPECK, firstSpecks, pointAtFirstSpeck, sharesBeyond, toneEnds } from "../tone-ends.ts"; // prettier-ignore

const [WIDTH, HEIGHT] = [300, 200];
const SHAPE = defaultRecipe().shape;
const RANGE = { minimum: 0.25, maximum: 8 };

/** A grey field with noise, a lamp of few pixels and a dark corner. */
function scene() {
  const random = seeded(3);
  const light = Float32Array.from({ length: WIDTH * HEIGHT }, () => stopsToLight(-1 + 1.5 * (random() - 0.5)));
  for (let y = 50; y < 54; y++) for (let x = 200; x < 204; x++) light[y * WIDTH + x] = stopsToLight(2.9 + 0.05 * (x - 200)); // prettier-ignore
  for (let y = 180; y < 200; y++) for (let x = 0; x < 40; x++) light[y * WIDTH + x] = stopsToLight(-8.5);
  return light;
}

describe("the ends of a picture's light", () => {
  const light = scene();
  const ends = toneEnds(light, WIDTH, HEIGHT);

  test("tell what any points clip, as counting the print itself does", () => {
    for (const [blackPoint, whitePoint, grade] of [
      [-6, 2.47, 2],
      [-9, 1.5, 3],
      [-3, 3, 1],
      [-12, 0.5, 2],
    ]) {
      const shape = { ...SHAPE, blackPoint, whitePoint, grade };
      const curve = toneCurve(shape);
      const prints = light.map((e) => curve(e));
      const found = sharesBeyond(ends, shape);
      // The counts know stops to a sixty-fourth.
      const near = (edge: number) => light.filter((e) => Math.abs(Math.log2(e / 0.18) - edge) < 1 / 64).length / light.length; // prettier-ignore
      const { black, white } = clippingStops(shape);
      expect(Math.abs(found.black - prints.filter((r) => r < DEEPEST).length / light.length)).toBeLessThanOrEqual(near(black) + 1e-6); // prettier-ignore
      expect(Math.abs(found.white - prints.filter((r) => r > BARE).length / light.length)).toBeLessThanOrEqual(near(white) + 1e-6); // prettier-ignore
    }
  });

  test("light that is blown all at one value is counted where a finished file's white prints, wherever the point lies", () => {
    const blown = light.map((e, i) => (i % 20 === 0 ? 1 : e));
    const counted = toneEnds(blown, WIDTH, HEIGHT);
    for (let whitePoint = 2.3; whitePoint < 2.7; whitePoint += 0.01) {
      const shape = { ...SHAPE, whitePoint };
      const curve = toneCurve(shape);
      const bare = blown.filter((e) => curve(e) > BARE).length / blown.length;
      expect(Math.abs(sharesBeyond(counted, shape).white - bare)).toBeLessThan(0.001);
      // What is hatched is what is counted.
      expect(counted.lightest.some((stops) => stops >= clippingStops(shape).white)).toBe(bare > 0);
    }
  });

  test("the first specks are where the lamp and the dark corner are", () => {
    const [lamp] = firstSpecks(ends, "white", 3);
    expect(lamp.x * WIDTH).toBeCloseTo(202, -1);
    expect(lamp.y * HEIGHT).toBeCloseTo(52, -1);
    const [corner] = firstSpecks(ends, "black", 3);
    expect(corner.x * WIDTH).toBeLessThan(42);
    expect(corner.y * HEIGHT).toBeGreaterThan(178);
  });

  test("the white point at the first speck clips the lamp and no more, at any grade", () => {
    for (const grade of [1, 2, 4]) {
      const shape = { ...SHAPE, grade };
      const whitePoint = pointAtFirstSpeck(ends, shape, "white", RANGE)!;
      const share = sharesBeyond(ends, { ...shape, whitePoint }).white;
      expect(share).toBeGreaterThan(FIRST_SPECK / 4);
      expect(share).toBeLessThan(4 * FIRST_SPECK);
      expect(sharesBeyond(ends, { ...shape, whitePoint: whitePoint + 0.3 }).white).toBe(0);
    }
  });
});
