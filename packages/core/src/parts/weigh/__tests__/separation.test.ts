import { describe, expect, test } from "@jest/globals";
import type { CaptureInfo } from "../../../raw/capture-info.ts";
import { luminanceToLightness } from "../../../colour/lab.ts";
import type { Vector3 } from "../../../colour/matrix.ts";
import { REC2020, REC709 } from "../../../colour/rgb-space.ts";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import type { Recipe } from "../../../recipe/schema.ts";
import { contrastWeights, flattestWeights } from "../contrast-weights.ts";
import { easeFamilies, stopsForLightness } from "../family-changes.ts";
import { familyPlace } from "../family.ts";
import { FamilyProbe } from "../family-probe.ts";
import type { ColourCell } from "../colour-cells.ts";
import { newFamily } from "../find-families.ts";
import { leastChange } from "../../../maths/least-change.ts";
import type { Boundary, FamilyFacts } from "../picture-colours.ts";
import { findNeighbours } from "../separation.ts";
import { keeps, tasteOf } from "../taste.ts";
import { FARTHEST_PARTED, solve } from "../solve.ts";
import { partByWeights } from "../solve-weights.ts";
import { startingPoints, throwDice } from "../starting-points.ts";

const CAPTURE = {
  kind: "raw",
  neutral: [0.5, 1, 0.6],
  calibrations: [{ xyzToCamera: REC709.fromXyz, temperatureK: 6504 }],
  noise: { source: "file", slope: [4e-4, 2e-4, 4e-4], offset: [2e-6, 2e-6, 2e-6] },
} as unknown as CaptureInfo;

/** A colour scaled to a luminance. */
function at(luminance: number, colour: Vector3): Vector3 {
  const y = colour.reduce((sum, v, c) => sum + v * REC2020.luminance[c], 0);
  return [(colour[0] * luminance) / y, (colour[1] * luminance) / y, (colour[2] * luminance) / y];
}

const BRICK = at(0.13, [0.3, 0.1, 0.06]);
const CLOTH = at(0.135, [0.1, 0.22, 0.05]);
const DOOR = at(0.125, [0.12, 0.12, 0.42]);
const SKY = at(0.4, [0.3, 0.42, 0.62]);
const WALL: Vector3 = [0.3, 0.3, 0.3];
const NAMES = ["brick", "cloth", "door", "sky"];
const COLOURS = [BRICK, CLOTH, DOOR, SKY, WALL];

const FACTS: FamilyFacts[] = COLOURS.map((working, i) => ({
  share: 0.2,
  pure: 0.9,
  working,
  x: 0.5,
  y: 0.2 * i,
  hint: null,
  samples: [0.7, 1, 1.3].map((light) => ({
    working: [working[0] * light, working[1] * light, working[2] * light],
    weight: 1 / 3,
  })),
}));
const BOUNDARIES: Boundary[] = [
  { first: 0, second: 1, length: 0.5 },
  { first: 0, second: 2, length: 0.3 },
  { first: 0, second: 3, length: 0.6 },
  { first: 1, second: 4, length: 0.2 },
];
const CELLS: ColourCell[] = COLOURS.map((working) => ({
  working,
  place: familyPlace(working),
  share: 0.2,
  pureShare: 0.2,
  x: 0.5,
  y: 0.5,
}));

function recipeOf(change: Partial<Recipe["weigh"]> = {}): Recipe {
  const base = defaultRecipe();
  const families = NAMES.map((name, i) => newFamily(name, name, familyPlace(COLOURS[i])));
  return { ...base, weigh: { ...base.weigh, families, ...change } };
}
const probeOf = (change: Partial<Recipe["weigh"]> = {}) => new FamilyProbe(CAPTURE, recipeOf(change), FACTS);
const pinned = (...names: string[]) =>
  recipeOf().weigh.families.map((family) => ({ ...family, pinned: names.includes(family.name) }));
const greyGap = (probe: FamilyProbe, weigh: Recipe["weigh"], p: number, q: number) => {
  const greys = probe.greys(weigh);
  return greys[p].lightness - greys[q].lightness;
};

test("a probe's greys are those of its colours", () => {
  probeOf()
    .greys()
    .forEach(({ lightness }, i) => {
      const expected = [0.7, 1, 1.3].map((light) => luminanceToLightness(light * [0.13, 0.135, 0.125, 0.4, 0.3][i]));
      expect(lightness).toBeCloseTo(expected.reduce((sum, v) => sum + v, 0) / 3, 1);
    });
  expect(() => new FamilyProbe(CAPTURE, recipeOf(), FACTS.slice(1))).toThrow(/facts of 5 groups/);
});

describe("neighbours", () => {
  test("those of different colour in one grey are merged, worst first; the rest by length", () => {
    const found = findNeighbours(probeOf(), BOUNDARIES);
    expect(found.map(({ first, second, merged }) => [first, second, merged])).toEqual([
      [0, 1, true],
      [0, 2, true],
      [0, 3, false],
      [1, 4, false],
    ]);
  });
  test("what is only the mixture of two others at their edges has not merged; a thin thing before one other has", () => {
    const mergedWith = (group: number, boundaries = BOUNDARIES) => {
      const facts = FACTS.map((one, i) => (i === group ? { ...one, pure: 0.3 } : one));
      const found = findNeighbours(new FamilyProbe(CAPTURE, recipeOf(), facts), boundaries);
      return found.filter(({ merged }) => merged).map(({ first, second }) => [first, second]);
    };
    // Cloth lies between brick and wall, the door before brick alone.
    expect(mergedWith(1)).toEqual([[0, 2]]);
    expect(mergedWith(2)).toEqual([
      [0, 1],
      [0, 2],
    ]);
  });
  test("neutrals count as a group", () => {
    const lighter = probeOf();
    const weigh = {
      ...lighter.weigh,
      families: lighter.weigh.families.map((f) => (f.name === "cloth" ? { ...f, stops: 1.2 } : f)),
    };
    const pair = findNeighbours(lighter, BOUNDARIES, lighter.greys(weigh)).find(({ second }) => second === 4)!;
    expect(pair.merged).toBe(true);
  });
});

describe("the least change", () => {
  test("under several bounds is the nearest point that meets them", () => {
    const bounds = [
      { a: [1, 1], atLeast: 2 },
      { a: [1, 0], atLeast: 0.5 },
      { a: [0, -1], atLeast: -0.9 },
    ];
    const { x, shortfall } = leastChange(2, bounds);
    // By hand: on x + y = 2 with y at most 0.9.
    expect(x[0]).toBeCloseTo(1.1, 4);
    expect(x[1]).toBeCloseTo(0.9, 4);
    expect(shortfall).toBeLessThan(1e-5);
  });
  test("that cannot be tells its shortfall", () => {
    const { shortfall } = leastChange(1, [{ a: [1], atLeast: 1 }, { a: [-1], atLeast: 0 }]); // prettier-ignore
    expect(shortfall).toBeGreaterThan(0.4);
  });
  test("random problems: no point near by is better", () => {
    const random = seeded(9);
    for (let n = 0; n < 60; n++) {
      const bounds = Array.from({ length: 3 }, () => ({
        a: [random() - 0.3, random() - 0.3, random() - 0.3],
        atLeast: random(),
      }));
      const { x, shortfall } = leastChange(3, bounds);
      if (shortfall > 1e-4) continue;
      const size = Math.hypot(...x);
      for (let k = 0; k < 200; k++) {
        const other = x.map((v) => 0.97 * v + 0.1 * (random() - 0.5));
        if (Math.hypot(...other) >= size - 1e-3) continue;
        const short = Math.max(
          ...bounds.map(({ a, atLeast }) => atLeast - a.reduce((sum, v, i) => sum + v * other[i], 0)),
        );
        expect(short).toBeGreaterThan(-1e-3);
      }
    }
  });
});

describe("solving", () => {
  test("parts two families by a zone, moves no more than a search over both finds, and little else", () => {
    const probe = probeOf();
    const solution = solve(probe, BOUNDARIES, { kind: "part", first: 0, second: 1 });
    expect(solution).toMatchObject({ reached: true, stoppedBy: null });
    expect(Math.abs(greyGap(probe, solution.weigh, 0, 1))).toBeGreaterThan(9.5);
    const size = Math.hypot(...solution.changes.map(({ from, to }) => to - from));
    let least = Infinity;
    for (let p = -1; p <= 1; p += 0.05)
      for (let q = -1; q <= 1; q += 0.05) {
        const families = probe.weigh.families.map((family, i) => ({ ...family, stops: i === 0 ? p : i === 1 ? q : 0 }));
        if (Math.abs(greyGap(probe, { ...probe.weigh, families }, 0, 1)) >= 9.9)
          least = Math.min(least, Math.hypot(p, q));
      }
    expect(size).toBeLessThan(least + 0.2);
  });

  test("whatever is parted, no family becomes paper, the mean tone stays, and the sky no lighter than the clouds", () => {
    const random = seeded(11);
    const scale = (colour: Vector3, by: number): Vector3 => [colour[0] * by, colour[1] * by, colour[2] * by];
    for (let round = 0; round < 12; round++) {
      const lights = COLOURS.map(() => 0.6 + 1.6 * random());
      const facts = FACTS.map((one, i): FamilyFacts => ({
        ...one,
        share: 0.05 + random(),
        hint: i === 3 ? "sky" : null,
        working: scale(one.working, lights[i]),
        samples: one.samples.map(({ working, weight }) => ({ working: scale(working, lights[i]), weight })),
      }));
      const probe = new FamilyProbe(CAPTURE, recipeOf(), facts);
      const { weigh } = solve(probe, BOUNDARIES, { kind: "part all" });
      expect(keeps(probe, weigh, tasteOf(probe))).toBe(true);
      const mean = (of: Recipe["weigh"]) => probe.greys(of).reduce((sum, { lightness }, k) => sum + facts[k].share * lightness, 0) / facts.reduce((sum, { share }) => sum + share, 0); // prettier-ignore
      expect(Math.abs(mean(weigh) - mean(probe.weigh))).toBeLessThan(6.5);
      const [sky, clouds] = [probe.greys(weigh)[3].lightness, probe.greys(weigh)[4].lightness];
      if (probe.greys()[4].lightness >= probe.greys()[3].lightness) expect(sky).toBeLessThan(clouds + 0.5);
    }
  });

  test("skin stays lighter than dark hair, though parting the two the other way round would be the smaller change", () => {
    const facts = FACTS.map((one, i): FamilyFacts => ({ ...one, hint: i === 0 ? "skin" : null }));
    // The first two are one grey; the second a little darker, and dark.
    const dark = (stops: readonly number[]) => {
      const recipe = recipeOf();
      const families = recipe.weigh.families.map((family, i) => ({ ...family, stops: stops[i] ?? 0 }));
      return { ...recipe, ground: { ...recipe.ground, exposureEv: -1.6 }, weigh: { ...recipe.weigh, families } };
    };
    const probe = [0, -0.1, -0.2, -0.3, -0.4, 0.1, 0.2, 0.3, 0.4]
      .map((stops) => new FamilyProbe(CAPTURE, dark([stops]), facts))
      .find((one) => greyGap(one, one.weigh, 0, 1) > 0.2 && greyGap(one, one.weigh, 0, 1) < 4);
    const greys = probe!.greys();
    expect(greys[1].lightness).toBeLessThan(38);
    const { weigh } = solve(probe!, BOUNDARIES, { kind: "part", first: 1, second: 0, apart: 8 });
    expect(greyGap(probe!, weigh, 0, 1)).toBeGreaterThan(-0.5);
    expect(tasteOf(probe!).some(({ first, second }) => first === 0 && second === 1)).toBe(true);
  });

  test("all merged pairs at once, and nothing that was apart comes together", () => {
    const probe = probeOf();
    const solution = solve(probe, BOUNDARIES, { kind: "part all" });
    expect(solution).toMatchObject({ reached: true, closer: [] });
    expect(findNeighbours(probe, BOUNDARIES, probe.greys(solution.weigh)).some(({ merged }) => merged)).toBe(false);
  });

  test.each([2, 5, 8])("brings a family to Zone %d", (zone) => {
    const probe = probeOf();
    const solution = solve(probe, BOUNDARIES, { kind: "zone", family: 0, zone });
    expect(solution.reached).toBe(true);
    expect(Math.abs(probe.greys(solution.weigh)[0].lightness - 10 * zone)).toBeLessThan(0.6);
  });

  test("never touches what is pinned; with all pinned it says so", () => {
    const probe = probeOf({ families: pinned("brick", "sky") });
    const solution = solve(probe, BOUNDARIES, { kind: "part", first: 0, second: 1 });
    expect(solution.reached).toBe(true);
    expect(solution.changes.map(({ family }) => NAMES[family])).not.toContain("brick");
    const still = solve(probeOf({ families: pinned(...NAMES) }), BOUNDARIES, { kind: "part", first: 0, second: 1 });
    expect(still).toMatchObject({ reached: false, stoppedBy: { kind: "pinned" }, changes: [] });
  });

  test("goes as far as a family's range and says so", () => {
    const solution = solve(probeOf(), BOUNDARIES, { kind: "zone", family: 3, zone: 1 });
    expect(solution).toMatchObject({ reached: false, stoppedBy: { kind: "range", family: 3 } });
    expect(solution.weigh.families[3].stops).toBeLessThan(-2.9);
  });

  test("parting leaves no family beyond a stop and a half, makes no bare paper, and says what held it", () => {
    const probe = probeOf();
    const solution = solve(probe, BOUNDARIES, { kind: "part", first: 0, second: 1, apart: 60 });
    expect(solution).toMatchObject({ reached: false, stoppedBy: { kind: "bound" } });
    for (const { stops } of solution.weigh.families) expect(Math.abs(stops)).toBeLessThanOrEqual(FARTHEST_PARTED);
    const [before, after] = [probe.greys(), probe.greys(solution.weigh)];
    after.forEach(({ lightness }, i) => {
      if (before[i].lightness < 96) expect(lightness).toBeLessThan(97.5);
    });
    // What stood farther out by hand is not called back.
    const own = probeOf({
      families: probe.weigh.families.map((family, i) => ({ ...family, stops: i === 2 ? -2.4 : 0 })),
    });
    const kept = solve(own, BOUNDARIES, { kind: "part", first: 0, second: 1 });
    expect(kept.weigh.families[2].stops).toBeLessThan(-1.5);
  });

  test("goes as far as the noise allows and says so", () => {
    const loud = {
      ...CAPTURE,
      noise: { source: "file", slope: [4e-2, 4e-4, 4e-2], offset: [2e-4, 2e-6, 2e-4] },
    } as unknown as CaptureInfo;
    // Colours on the passage from one family to the next, where stops depend on small differences.
    const between = FACTS.map((fact, i) =>
      i === 0 ? { ...fact, samples: [{ working: at(0.13, [0.2, 0.16, 0.055]), weight: 1 }] } : fact,
    );
    const probe = new FamilyProbe(loud, recipeOf({ softness: 0, passage: "nearness" }), between);
    const goal = { kind: "part", first: 0, second: 1, apart: 30 } as const;
    const free = solve(probe, [], goal, { mostNoiseStops: 99 });
    const most = 0.3;
    expect(Math.max(...probe.noiseStops(free.weigh).map((v) => v ?? 0))).toBeGreaterThan(most + 0.1);
    const bound = solve(probe, [], goal, { mostNoiseStops: most });
    expect(bound).toMatchObject({ reached: false, stoppedBy: { kind: "noise" } });
    expect(Math.max(...probe.noiseStops(bound.weigh).map((v) => v ?? 0))).toBeLessThan(most + 0.05);
    expect(bound.changes.length).toBeGreaterThan(0);
    const eased = easeFamilies(probe.under(free.weigh), most);
    expect(Math.max(...probe.noiseStops(eased).map((v) => v ?? 0))).toBeLessThan(most + 0.05);
  });

  test("by weights: the nearest of one sum that part two, no nearer ones do; where noise forbids it says so", () => {
    const probe = probeOf();
    const { weigh, reached } = partByWeights(probe, 0, 2);
    expect(reached).toBe(true);
    expect(Math.abs(greyGap(probe, weigh, 0, 2))).toBeGreaterThanOrEqual(10);
    expect(weigh.red + weigh.green + weigh.blue).toBeCloseTo(1, 3);
    const from = probe.weigh;
    const far = Math.hypot(weigh.red - from.red, weigh.green - from.green, weigh.blue - from.blue);
    const random = seeded(4);
    for (let n = 0; n < 400; n++) {
      const [dr, db] = [random() - 0.5, random() - 0.5].map((v) => 2 * v * far);
      if (Math.hypot(dr, db, dr + db) > far - 0.05) continue;
      const other = { ...from, red: from.red + dr, blue: from.blue + db, green: from.green - dr - db };
      expect(Math.abs(greyGap(probe, other, 0, 2))).toBeLessThan(10);
    }
    expect(partByWeights(probe, 0, 2, 95)).toMatchObject({ reached: false, weigh: from });
  });

  test("a rung pulled to a lightness gives the stops that take it there", () => {
    const probe = probeOf();
    for (const lightness of [25, 40, 70]) {
      const stops = stopsForLightness(probe, 1, lightness);
      const families = probe.weigh.families.map((family, i) => (i === 1 ? { ...family, stops } : family));
      expect(Math.abs(probe.greyOf(1, { ...probe.weigh, families }).lightness - lightness)).toBeLessThan(0.4);
    }
    expect(stopsForLightness(probe, 1, 100)).toBe(3);
  });
});

describe("starting points", () => {
  test("colours of one luminance are told apart by the contrast-keeping weights, and flattest lies closest", () => {
    const two = CELLS.slice(0, 3);
    const spread = ([r, g, b]: Vector3) => {
      const greys = two.map(({ working }) => luminanceToLightness(r * working[0] + g * working[1] + b * working[2]));
      return Math.max(...greys) - Math.min(...greys);
    };
    expect(spread(REC2020.luminance)).toBeLessThan(3);
    expect(spread(contrastWeights(two))).toBeGreaterThan(15);
    expect(spread(flattestWeights(two))).toBeLessThan(spread(contrastWeights(two)));
  });

  test("at least eight that differ, and the parted one is parted", () => {
    const probe = probeOf();
    const points = startingPoints(probe, BOUNDARIES, CELLS);
    expect(points.length).toBeGreaterThanOrEqual(8);
    expect(new Set(points.map(({ id }) => id)).size).toBe(points.length);
    expect(new Set(points.map(({ weigh }) => JSON.stringify(weigh))).size).toBe(points.length);
    const parted = points.find(({ id }) => id === "parted")!;
    expect(findNeighbours(probe, BOUNDARIES, probe.greys(parted.weigh)).filter(({ merged }) => merged)).toEqual([]);
    const film = points.find(({ id }) => id === "panchromatic/red")!;
    const greys = probe.greys(film.weigh);
    expect(greys[3].lightness).toBeLessThan(probe.greys()[3].lightness - 5);
  });

  test("dice: the same seed gives the same throw, others differ, and all keep within bounds", () => {
    const probe = probeOf();
    const throws = Array.from({ length: 12 }, (_, seed) => throwDice(probe, BOUNDARIES, seed));
    expect(throwDice(probe, BOUNDARIES, 3)).toEqual(throws[3]);
    expect(new Set(throws.map((weigh) => JSON.stringify(weigh))).size).toBeGreaterThan(8);
    const merged = (weigh: Recipe["weigh"]) =>
      findNeighbours(probe, BOUNDARIES, probe.greys(weigh)).filter((pair) => pair.merged).length;
    for (const weigh of throws) {
      for (const stops of probe.noiseStops(weigh)) expect(stops ?? 0).toBeLessThanOrEqual(0.7);
      expect(merged(weigh)).toBeLessThanOrEqual(merged(probe.weigh));
      for (const { lightness } of probe.greys(weigh)) expect(lightness > 3 && lightness < 99).toBe(true);
    }
  });
});
