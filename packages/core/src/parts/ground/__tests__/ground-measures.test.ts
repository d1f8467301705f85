import { describe, expect, test } from "@jest/globals";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { applyAffine } from "../../../maths/affine.ts";
import { frameOf } from "../geometry.ts";
import { findHealSource } from "../heal-source.ts";
import { lineOnNegative, makeUpright, straightenBy, type Line } from "../level-lines.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import { busyScene } from "../../../render/__tests__/scene-tiles.ts";
import { findDust } from "../dust.ts";
import { proposeExposure } from "../exposure-proposal.ts";
import { measureFallOff } from "../fall-off.ts";
import { measureSlantedEdge } from "../../../measure/slanted-edge.ts";
import { traceZones } from "../zone-trace.ts";

describe("fall-off", () => {
  test("what a lens adds to a picture is found, whatever the picture has by itself", () => {
    const [width, height] = [300, 200];
    const random = seeded(8);
    const grain = Float32Array.from({ length: width * height }, () => 1 + 0.02 * (random() - 0.5));
    const found = [0, 0.5, 1, 2].map((lost) => {
      const planes = [0, 1, 2].map((c) =>
        Float32Array.from({ length: width * height }, (_, i) => {
          const [x, y] = [(i % width) + 0.5, Math.floor(i / width) + 0.5];
          const r2 = ((2 * x) / width - 1) ** 2 * (9 / 13) + ((2 * y) / height - 1) ** 2 * (4 / 13);
          return busyScene(x / width, y / width)[c] * 0.5 * grain[i] * 2 ** (-lost * r2);
        }),
      );
      return measureFallOff(planes, width, height).stops;
    });
    for (const [i, lost] of [0.5, 1, 2].entries())
      expect(Math.abs(found[i + 1] - found[0] - lost)).toBeLessThan(0.25 * lost);
  });
});

describe("dust", () => {
  const [width, height] = [420, 300];
  const dust = [[60, 50, 3], [200, 40, 4], [330, 90, 2.5], [110, 130, 5], [300, 140, 3]] as const; // prettier-ignore
  const random = seeded(3);
  const light = Float32Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    // Grass below, which is full of dark specks of its own.
    if (y > 190) return 0.2 + 0.15 * random();
    const sky = 0.5 + 0.0004 * x + 0.0006 * y + 0.004 * (random() - 0.5);
    const shade = dust.reduce(
      (dark, [dx, dy, r]) => dark - 0.09 * Math.exp(-((Math.hypot(x - dx, y - dy) / r) ** 4)),
      1,
    );
    return sky * shade;
  });
  test("every spot on the sky is found at its place and size, nothing in the grass", () => {
    const found = findDust(light, width, height);
    for (const [x, y, r] of dust) {
      const hit = found.find((spot) => Math.hypot(spot.x - x, spot.y - y) < 2.5);
      expect([x, y, hit !== undefined]).toEqual([x, y, true]);
      expect(hit!.radius).toBeGreaterThan(0.7 * r);
      expect(hit!.radius).toBeLessThan(3 * r);
    }
    expect(found.length).toBeLessThanOrEqual(dust.length + 1);
    expect(found.every(({ y }) => y < 192)).toBe(true);
  });
  test("in what is mottled all over, such as fur or sand out of focus, hardly anything is a spot", () => {
    const mottled = new Float32Array(300 * 300).fill(0.4);
    for (let k = 0; k < 2500; k++) {
      const [mx, my, depth] = [300 * random(), 300 * random(), 0.01 + 0.04 * random()];
      for (let y = Math.max(0, Math.floor(my - 9)); y < Math.min(300, my + 9); y++)
        for (let x = Math.max(0, Math.floor(mx - 9)); x < Math.min(300, mx + 9); x++)
          mottled[y * 300 + x] *= 1 - depth * Math.exp(-((Math.hypot(x - mx, y - my) / 3.5) ** 4));
    }
    expect(findDust(mottled, 300, 300).length).toBeLessThan(15);
  });
  test("a clean sky has none", () => {
    const clean = Float32Array.from({ length: 200 * 200 }, () => 0.5 + 0.01 * (random() - 0.5));
    expect(findDust(clean, 200, 200)).toEqual([]);
  });
});

test("a source is looked for where it is like the surroundings, clear of things and of other spots", () => {
  const [width, height] = [160, 120];
  // Two halves of different light; a post in the left one.
  const light = Float32Array.from({ length: width * height }, (_, i) => {
    const x = i % width;
    if (Math.abs(x - 30) < 4) return 0.05;
    return x < 80 ? 0.3 : 0.7;
  });
  const spot = { points: [[58, 60]] as const, radius: 6 };
  const other = { points: [[58, 80]] as const, radius: 6 };
  const [dx, dy] = findHealSource(light, width, height, spot, [other]);
  const [x, y] = [58 + dx, 60 + dy];
  expect(x + 9).toBeLessThan(80);
  expect(Math.abs(x - 30)).toBeGreaterThan(6);
  expect(Math.hypot(x - 58, y - 80)).toBeGreaterThan(12);
  expect(Math.hypot(dx, dy)).toBeGreaterThan(12);
});

describe("the exposure proposed", () => {
  const picture = (...parts: readonly (readonly [light: number, share: number])[]) =>
    Float32Array.from(parts.flatMap(([light, share]) => new Array<number>(Math.round(1000 * share)).fill(light)));
  test.each([
    ["under by two stops: room is used", picture([0.02, 0.6], [0.2, 0.4]), 2, "under white"],
    ["a low key with a lamp at white is left", picture([0.01, 0.95], [0.95, 0.05]), 0, "right as it is"],
    ["mostly light already: the middle decides", picture([0.16, 0.9], [0.3, 0.1]), 0.5, "Zone V"],
    ["beyond white, and measured there: lowered", picture([0.2, 0.9], [1.6, 0.1]), -0.667, "beyond white"],
  ])("%s", (_name, light, exposureEv, reason) => {
    const found = proposeExposure(light, 1);
    expect(Math.abs(found.exposureEv - exposureEv)).toBeLessThan(0.2);
    expect(found.reason).toContain(reason);
  });
  test("what was not measured beyond white cannot be lowered into it", () => {
    expect(proposeExposure(picture([0.2, 0.9], [1.6, 0.1]), 0).exposureEv).toBe(0);
  });
});

describe("lines drawn", () => {
  const negative = { width: 3000, height: 2000 };
  const { ground } = defaultRecipe();
  /** A line that lies upright in the frame of a ground, as it was on the negative. */
  const drawn = (truth: typeof ground, x: number): Line => {
    const { toFlat, lens, width, height } = frameOf(negative, truth);
    const at = (px: number, py: number) => {
      const flat = applyAffine(toFlat, px * width, py * height);
      return lens ? lens.toNegative(...flat) : flat;
    };
    return [...at(x, 0.15), ...at(x, 0.85)];
  };

  test("a level is straightened by what it slants, an upright too", () => {
    const level = lineOnNegative(negative, ground, [100, 500, 1100, 500 + 1000 * Math.tan((3 * Math.PI) / 180)]);
    expect(straightenBy(negative, ground, level)).toBeCloseTo(-3, 6);
    const truth = { ...ground, angleDegrees: 4 };
    expect(straightenBy(negative, ground, drawn(truth, 0.3))).toBeCloseTo(4, 6);
  });
  test("two uprights give back the perspective and slant that they were seen with", () => {
    const truth = { ...ground, angleDegrees: -2.5, lens: { ...ground.lens, keystoneVertical: 0.18, distortion: 0.04 } };
    const start = { ...ground, lens: { ...ground.lens, distortion: 0.04 } };
    const found = makeUpright(negative, start, [drawn(truth, 0.2), drawn(truth, 0.8)])!;
    expect(found.keystoneVertical).toBeCloseTo(0.18, 3);
    expect(found.angleDegrees).toBeCloseTo(-2.5, 2);
  });
  test("lines that cross are refused", () => {
    expect(makeUpright(negative, ground, [[100, 100, 2800, 900], [100, 900, 2800, 100]])).toBeNull(); // prettier-ignore
  });
});

test("zones are traced by what happens to their pixels", () => {
  const before = Float32Array.from([0.18, 0.18, 0.36, 0.09, 0.0001]);
  const after = Float32Array.from([0.36, 0.18, 0.36, 0.045, 0.0001]);
  const trace = traceZones(before, after);
  expect(trace[5]).toEqual({ zone: 5, stops: 0.5, share: 0.4 });
  expect(trace[6].stops).toBeCloseTo(0, 6);
  expect(trace[4].stops).toBeCloseTo(-1, 6);
});

describe("the slanted edge", () => {
  /** An edge 5° off the vertical, blurred by a Gaussian of known width, sampled by area. */
  const edge = (sigma: number, size = 200) =>
    Float64Array.from({ length: size * size }, (_, i) => {
      const [x, y] = [i % size, Math.floor(i / size)];
      const d =
        (x + 0.5 - size / 2 + Math.tan((5 * Math.PI) / 180) * (y + 0.5 - size / 2)) * Math.cos((5 * Math.PI) / 180);
      let sum = 0;
      for (let k = -4; k <= 4; k++) sum += 1 / (1 + Math.exp((-1.702 * (d + k / 9)) / sigma));
      return 0.1 + (0.5 * sum) / 9;
    });
  test("a wider blur has a lower MTF50, near the Gaussian's own", () => {
    const found = [0.8, 1.6].map((sigma) => measureSlantedEdge(edge(sigma), 200, 200));
    // MTF50 of a Gaussian blur: sqrt(2 ln 2) / (2 π σ); the pixel's area takes a little more.
    for (const [i, sigma] of [0.8, 1.6].entries()) {
      const truth = Math.sqrt(2 * Math.log(2)) / (2 * Math.PI * sigma);
      expect(found[i].mtf50 / truth).toBeGreaterThan(0.85);
      expect(found[i].mtf50 / truth).toBeLessThan(1.15);
      expect(found[i].overshoot).toBeLessThan(0.01);
    }
  });
});
