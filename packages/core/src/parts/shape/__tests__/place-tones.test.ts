import { describe, expect, test } from "@jest/globals";
import { printZone, stopsToLight } from "../../../colour/stops.ts";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import { placeTones, type PlacedTone } from "../place-tones.ts";
import type { Shape } from "../schema.ts";
import { toneCurve } from "../tone-curve.ts";

const FRESH = defaultRecipe().shape;
const zoneOf = (shape: Shape, stops: number) => printZone(toneCurve(shape)(stopsToLight(stops)));

function randomShape(random: () => number): Shape {
  return {
    ...FRESH,
    blackPoint: -9 + 3 * random(),
    whitePoint: 1.8 + 1.5 * random(),
    midPoint: random() - 0.5,
    grade: 1 + 3 * random(),
    characteristic: random() < 0.5 ? "film" : "straight",
    toe: random(),
    shoulder: random(),
  };
}

/** Tones that rise together, in any order. */
function risingTones(random: () => number, count: number, shape: Shape): PlacedTone[] {
  const stops = Array.from({ length: count }, (_, i) => -4 + ((i + 0.2 + 0.6 * random()) * 6) / count);
  return stops
    .map((at) => ({ stops: at, zone: Math.min(9.6, Math.max(0.4, zoneOf(shape, at) + 0.8 * (random() - 0.5))) }))
    .sort((p, q) => p.zone - q.zone)
    .map(({ zone }, i) => ({ stops: stops[i], zone: zone + 0.04 * i }))
    .map((tone) => ({ ...tone, zone: Math.min(9.9, tone.zone) }))
    .sort(() => random() - 0.5);
}

describe("placing tones", () => {
  test("one to eight tones come to lie within a tenth of a zone, and the curve never falls", () => {
    const random = seeded(5);
    let checked = 0;
    for (let round = 0; round < 400; round++) {
      const shape = randomShape(random);
      const tones = risingTones(random, 1 + (round % 8), shape);
      const { curve, conflict, beyond, zones } = placeTones(shape, tones);
      const made = toneCurve({ ...shape, curve });
      if (conflict === null)
        tones.forEach(({ stops, zone }, i) => {
          if (beyond.includes(i)) return;
          checked++;
          expect(Math.abs(printZone(made(stopsToLight(stops))) - zone)).toBeLessThan(0.1);
          expect(zones[i]).toBeCloseTo(printZone(made(stopsToLight(stops))), 1);
        });
      let last = -1;
      let falls = 0;
      for (let stops = -10; stops <= 4; stops += 1 / 16) {
        const r = made(stopsToLight(stops));
        falls = Math.max(falls, last - r);
        last = r;
      }
      expect(falls).toBeLessThanOrEqual(1e-9);
    }
    expect(checked).toBeGreaterThan(1000);
  });

  test("what already lies there changes nothing; one tone moved changes little far from it", () => {
    const still = placeTones(
      FRESH,
      [-2, 0, 1].map((stops) => ({ stops, zone: zoneOf(FRESH, stops) })),
    );
    for (let stops = -5; stops < 2; stops += 0.25)
      expect(zoneOf({ ...FRESH, curve: still.curve }, stops)).toBeCloseTo(zoneOf(FRESH, stops), 1);
    const one = placeTones(FRESH, [
      { stops: -1, zone: zoneOf(FRESH, -1) + 1 },
      { stops: 1.2, zone: zoneOf(FRESH, 1.2) },
    ]);
    expect(zoneOf({ ...FRESH, curve: one.curve }, 1.2)).toBeCloseTo(zoneOf(FRESH, 1.2), 1);
    expect(Math.abs(zoneOf({ ...FRESH, curve: one.curve }, 1.8) - zoneOf(FRESH, 1.8))).toBeLessThan(0.25);
  });

  test("tones that contradict each other are told, and lie as near as can be", () => {
    const { conflict, zones } = placeTones(FRESH, [
      { stops: 0, zone: 7 },
      { stops: -2, zone: 3 },
      { stops: 1, zone: 5 },
    ]);
    expect(conflict).toEqual([0, 2]);
    expect(zones[0]).toBeCloseTo(6, 0);
    expect(zones[2]).toBeCloseTo(6, 0);
    expect(zones[2]).toBeGreaterThanOrEqual(zones[0]);
    expect(zones[1]).toBeCloseTo(3, 1);
  });

  test("what points and grade have put beyond white is told, and the rest is placed", () => {
    const shape = { ...FRESH, whitePoint: 1 };
    const { beyond, zones } = placeTones(shape, [
      { stops: 2, zone: 8 },
      { stops: -1, zone: 4 },
    ]);
    expect(beyond).toEqual([0]);
    expect(zones[1]).toBeCloseTo(4, 1);
  });
});
