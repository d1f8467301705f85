import { describe, expect, test } from "@jest/globals";
import { lightToStops, printZone, stopsToLight } from "../../../colour/stops.ts";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { clippingStops } from "../../../measure/tone-ends.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import type { Shape } from "../schema.ts";
import { FADED, MATERIALS, readCharacteristic, whitePointBelowLights } from "../characteristics.ts";
import { OPENING_STARTS, openings, stopsBelow } from "../openings.ts";
import { toneCurve } from "../tone-curve.ts";

const fresh = defaultRecipe().shape;
const zoneOf = (shape: Shape, stops: number) => printZone(toneCurve(shape)(stopsToLight(stops)));

describe("openings", () => {
  const pictures = {
    flat: (t: number) => -2 + 1.5 * t,
    wide: (t: number) => -8 + 10 * t,
    dark: (t: number) => -7 + 6 * t ** 2,
    light: (t: number) => 2.4 - 3 * t ** 3,
  };
  test.each(Object.entries(pictures))("of a %s picture put its middle and its ends where they say", (_, stopsAt) => {
    const stops = Float32Array.from({ length: 5000 }, (_, i) => stopsAt((i + 0.5) / 5000));
    const below = stopsBelow(stops);
    const own = { ...fresh, haze: 0.3, spots: [{ id: "a", x: 0.5, y: 0.5, placed: true, zone: 3 }] };
    const found = openings(own, OPENING_STARTS.map(() => below)); // prettier-ignore
    expect(found.map(({ id }) => id)).toEqual(["flat", "full", "hard", "low", "high"]);
    for (const { id, shape } of found) {
      // What it does not speak of stays; spots are read on, but no longer placed.
      expect([id, shape.haze, shape.spots[0].placed]).toEqual([id, 0.3, false]);
      const { black, white } = clippingStops(shape);
      const beyond = stops.filter((s) => s <= black - 0.06 || s >= white + 0.06);
      expect(beyond.length / stops.length).toBeLessThan(id === "hard" ? 0.25 : 0.03);
    }
    const shapeOf = (id: string) => found.find((one) => one.id === id)!.shape;
    const middle = (id: string) => zoneOf(shapeOf(id), below(0.5));
    expect(middle("low")).toBeLessThan(middle("flat") + 0.1);
    expect(middle("high")).toBeGreaterThan(middle("flat") - 0.1);
    const range = (id: string) => zoneOf(shapeOf(id), below(0.9)) - zoneOf(shapeOf(id), below(0.1));
    expect(range("hard")).toBeGreaterThan(range("flat"));
  });
});

describe("characteristic", () => {
  test("is read as it was made: gamma of the grade, densities of the paper", () => {
    const straight = readCharacteristic(fresh);
    expect(straight.gamma).toBeCloseTo(1, 1);
    expect([straight.dMin, straight.dMax]).toEqual([0, 3.3]);
    const hard = readCharacteristic({ ...fresh, grade: 4 });
    expect(hard.gamma / straight.gamma).toBeCloseTo(1.32 ** 2, 1);
    const { dMin, dMax, gamma } = readCharacteristic({ ...fresh, ...FADED });
    expect(dMin).toBeCloseTo(FADED.paperWhite, 1);
    expect(dMax).toBeCloseTo(FADED.paperBlack, 1);
    expect(gamma).toBeLessThan(1);
    for (const { shape } of MATERIALS) {
      const read = readCharacteristic({ ...fresh, ...shape });
      expect(read.straightTo).toBeGreaterThan(read.straightFrom);
    }
  });
  test("the lights of a dull sky are found below their flank", () => {
    const counts = Array.from({ length: 104 }, (_, i) => {
      const stops = -9 + (i + 0.5) / 8;
      const heap = (at: number, wide: number, share: number) => share * Math.exp(-(((stops - at) / wide) ** 2));
      return heap(-2, 1.5, 1) + heap(1.4, 0.25, 2);
    });
    const sum = counts.reduce((total, v) => total + v, 0);
    const point = whitePointBelowLights(counts.map((v) => v / sum), -9, 8)!; // prettier-ignore
    expect(point).toBeGreaterThan(0.7);
    expect(point).toBeLessThan(1.3);
    expect(whitePointBelowLights(counts.map((v, i) => (i < 70 ? v : 0)), -9, 8)).toBeNull(); // prettier-ignore
  });
});

test("ten thousand settings of points, grade, characteristic, paper and curve rise", () => {
  const seed = 23;
  const random = seeded(seed);
  const lights = Array.from({ length: 60 }, (_, i) => stopsToLight(-11 + i / 4));
  for (let round = 0; round < 10_000; round++) {
    const knee = random();
    const f = toneCurve({
      ...fresh,
      blackPoint: -12 * random(),
      whitePoint: 0.25 + 6 * random(),
      midPoint: 4 * random() - 2,
      grade: 5 * random(),
      characteristic: random() > 0.5 ? "film" : "straight",
      toe: random(),
      shoulder: random(),
      paperWhite: 0.5 * random(),
      paperBlack: 0.6 + 2.7 * random(),
      curve: [
        [0, 0.3 * random()],
        [0.2 + 0.6 * knee, 0.3 + 0.4 * random()],
        [1, 0.7 + 0.3 * random()],
      ],
    });
    let last = -1;
    for (const light of lights) {
      const r = f(light);
      if (!(r >= last - 1e-12 && r >= 0 && r <= 1))
        throw new Error(`Falls in round ${round} of seed ${seed} at ${lightToStops(light)}.`);
      last = r;
    }
  }
});
