import { beforeAll, describe, expect, test } from "@jest/globals";
import { lightToStops, stopsToLight } from "../../colour/stops.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { bytesOf, openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import { SRGB_TRANSFER } from "../../colour/transfer.ts";
import { PLAIN_FACTS } from "../../parts/ground/facts.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { familyPlace } from "../../parts/weigh/family.ts";
import { newFamily } from "../../parts/weigh/find-families.ts";
import { Engine } from "../engine.ts";
import { busyScene, tilesOf } from "./scene-tiles.ts";

const SIZE = { width: 1200, height: 800 };
let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(128);
});

const shaped = (change: Partial<Recipe["shape"]>): Recipe => ({
  ...defaultRecipe(),
  shape: { ...defaultRecipe().shape, ...change },
});
const engineOf = (colour: (x: number, y: number) => number | readonly number[], size = SIZE) =>
  new Engine(
    heap,
    tilesOf(heap, size, (x, y) => {
      const value = colour(x, y);
      return typeof value === "number" ? [value, value, value] : value;
    }),
  );
const lightOf = (engine: Engine, change: Partial<Recipe["shape"]>, view: Partial<typeof WHOLE> = {}) =>
  engine.renderLight(engine.prepare(shaped(change)), { ...WHOLE, ...view });
const SMALL = { width: 600, height: 400 };
const WHOLE = { x: 0, y: 0, ...SIZE, scale: 1, level: 0 };
const OPEN = { openShadows: 1, holdHighlights: 1 };

describe("open shadows and hold highlights", () => {
  test.each([0, 20, 100])(
    "an edge of three stops, %i pixels wide, is overshot by no more than 2 %% of its step",
    (wide) => {
      const engine = engineOf((x) => {
        const t = wide === 0 ? Number(x >= 0.5) : Math.min(1, Math.max(0, 0.5 + ((x - 0.5) * SIZE.width) / wide));
        return (1 - t) * stopsToLight(-4) + t * stopsToLight(-1);
      });
      const row = Array.from(lightOf(engine, OPEN, { y: 400, height: 1 }), lightToStops);
      const [low, high] = [row[5], row.at(-5)!];
      expect(high - low).toBeLessThan(2.2);
      expect(low).toBeGreaterThan(-3);
      expect((low - Math.min(...row)) / (high - low)).toBeLessThan(0.02);
      expect((Math.max(...row) - high) / (high - low)).toBeLessThan(0.02);
    },
  );
  test("texture in opened shadows keeps its contrast to within 5 %", () => {
    for (const [swing, period] of [
      [0.1, 8],
      [0.5, 8],
      [0.5, 16],
    ]) {
      const wave = (v: number) => Math.sin((2 * Math.PI * v * SMALL.width) / period);
      const engine = engineOf((x, y) => stopsToLight(-4 + swing * wave(x) * wave(y)), SMALL);
      const [before, after] = [{}, OPEN].map((change) =>
        deviation(lightOf(engine, change, { x: 150, y: 100, width: 240, height: 120 })),
      );
      expect(Math.abs(after / before - 1)).toBeLessThan(0.05);
    }
  });
  test("rises with the light for any strengths", () => {
    const random = seeded(17);
    const engine = engineOf((x) => stopsToLight(-11 + 13 * x));
    for (let round = 0; round < 12; round++) {
      const change = {
        openShadows: 2 * random() - 1,
        holdHighlights: 2 * random() - 1,
        localContrast: { low: 2 * random() - 1, mid: 2 * random() - 1, high: 2 * random() - 1 },
        detail: { fine: 2 * random() - 1, middle: 2 * random() - 1, broad: 2 * random() - 1 },
      };
      const row = lightOf(engine, change, { y: 400, height: 1 });
      for (let x = 1; x < row.length; x++) expect([round, x, row[x] >= row[x - 1] * 0.9999]).toEqual([round, x, true]);
    }
  });
});

function deviation(light: Float32Array): number {
  const stops = Array.from(light, lightToStops);
  const mean = stops.reduce((sum, v) => sum + v, 0) / stops.length;
  return Math.sqrt(stops.reduce((sum, v) => sum + (v - mean) ** 2, 0) / stops.length);
}

describe("scattered light", () => {
  test("none is lost, and it falls off about a lamp", () => {
    const engine = engineOf((x, y) => (Math.hypot(x - 0.5, y - 0.33) < 0.02 ? 0.9 : 0.01));
    const sum = (light: Float32Array) => light.reduce((total, v) => total + v, 0);
    const plain = sum(lightOf(engine, {}));
    for (const scatter of [
      { glow: 1, reach: 0.015, softness: 0 },
      { glow: 0, reach: 0.015, softness: 1 },
      { glow: 0.5, reach: 0.03, softness: 0.7 },
    ]) {
      const light = lightOf(engine, { scatter });
      expect(Math.abs(sum(light) / plain - 1)).toBeLessThan(0.01);
      const at = (x: number) => light[396 * SIZE.width + x];
      // Beside the lamp it shines; further away less.
      expect(at(628)).toBeGreaterThan(0.0105);
      expect(at(640)).toBeLessThan(at(628));
    }
  });
});

describe("haze", () => {
  // A landscape of known reflectance behind haze of known depth: further up, further away.
  const AIR = [0.72, 0.76, 0.82];
  const own = (x: number, y: number) =>
    [0.05, 0.12, 0.2].map((v, c) => v * (1 + 0.8 * Math.sin(60 * x + 2 * c) * Math.sin(70 * y))); // prettier-ignore
  const through = (y: number) => Math.min(1, 0.12 + 1.4 * y);
  const hazy = (x: number, y: number) => own(x, y).map((v, c) => v * through(y) + AIR[c] * (1 - through(y)));
  test("is taken out by how far away things are, and laid in again", () => {
    const [engine, clear] = [engineOf(hazy, SMALL), engineOf(own, SMALL)];
    const view = { x: 50, width: 500 };
    const rms = (y: number, change: Partial<Recipe["shape"]>) => {
      const [found, wanted] = [lightOf(engine, change, { ...view, y, height: 24 }), lightOf(clear, {}, { ...view, y, height: 24 })]; // prettier-ignore
      return Math.sqrt(found.reduce((sum, v, i) => sum + (v - wanted[i]) ** 2, 0) / found.length);
    };
    for (const y of [60, 150, 240]) expect(rms(y, { haze: 1 }) / rms(y, {})).toBeLessThan(0.45);
    const mean = (change: Partial<Recipe["shape"]>) =>
      average(lightOf(engine, change, { ...view, y: 150, height: 24 }));
    expect(mean({ haze: -0.5 })).toBeGreaterThan(mean({}));
  });
  test("a sky is held as far as what stands before it: no light seam along towers and posts", () => {
    const isThing = (x: number, y: number) =>
      (Math.abs(x - 0.3) < 0.06 && y > 0.15) || (Math.abs(x - 0.7) < 0.004 && y > 0.1);
    const engine = engineOf((x, y) => (isThing(x, y) ? own(x, y) : AIR.map((v) => v * (0.35 + 0.65 * y))), SMALL);
    const row = lightOf(engine, { haze: 0.8 }, { width: 600, y: 120, height: 1 });
    const sky = Array.from({ length: 600 }, (_, x) => x).filter((x) => !isThing((x - 2) / 600, 0.3) && !isThing((x + 2) / 600, 0.3)); // prettier-ignore
    const stops = sky.map((x) => lightToStops(row[x]));
    expect(Math.max(...stops) - Math.min(...stops)).toBeLessThan(0.3);
  });
  test("a picture without haze keeps its dark tones", () => {
    const engine = engineOf((x, y) => own(x, y).map((v, c) => 3 * v * Math.max(0.02, Math.sin(40 * x + 2 * c))), SMALL);
    const [before, after] = [{}, { haze: 0.6 }].map((change) => average(lightOf(engine, change, SMALL)));
    expect(Math.abs(lightToStops(after) - lightToStops(before))).toBeLessThan(0.25);
  });
});

const average = (values: Float32Array) => values.reduce((sum, v) => sum + v, 0) / values.length;

describe("capture sharpening", () => {
  const blurred = (x: number, sigma: number) => {
    // The step after a Gaussian blur, by the logistic curve that is within 1 % of it.
    const t = ((x - 0.5) * SIZE.width) / sigma;
    return 0.1 + 0.3 / (1 + Math.exp(-1.702 * t));
  };
  const SHARP = { sharpening: { amount: 1, radius: 1, sparing: 0.5 } };
  test("makes a blurred edge steeper, and neither rings nor touches what is flat", () => {
    const engine = new Engine(
      heap,
      tilesOf(heap, SIZE, (x) => new Array<number>(3).fill(blurred(x, 1))),
      { ...PLAIN_FACTS, noise: { slope: 1e-5, offset: 1e-8 } },
    );
    const [before, after] = [{}, SHARP].map((change) => lightOf(engine, change, { y: 300, height: 1 }));
    const steepest = (row: Float32Array) => Math.max(...Array.from(row.subarray(1), (v, i) => v - row[i]));
    expect(steepest(after) / steepest(before)).toBeGreaterThan(1.3);
    expect(Math.max(...after)).toBeLessThan(0.4 + 0.08 * 0.3);
    expect(Math.min(...after)).toBeGreaterThan(0.1 - 0.08 * 0.3);
    for (const x of [100, 500, 700, 1100]) expect(after[x]).toBe(before[x]);
  });
  test("noise of flat areas stays as it is", () => {
    const random = seeded(5);
    const noise = { slope: 2e-4, offset: 1e-6 };
    const sigma = Math.sqrt(noise.slope * 0.2 + noise.offset);
    const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
    const engine = new Engine(heap, tilesOf(heap, SMALL, () => new Array<number>(3).fill(0.2 + sigma * normal())), { ...PLAIN_FACTS, noise }); // prettier-ignore
    const spread = (light: Float32Array) => Math.sqrt(average(light.map((v) => (v - 0.2) ** 2)));
    const view = { x: 100, y: 60, width: 400, height: 300 };
    const [before, after] = [{}, SHARP].map((change) => spread(lightOf(engine, change, view)));
    expect(before).toBeGreaterThan(0.8 * sigma);
    expect(after / before).toBeLessThan(1.05);
  });
});

test("halation lies about highlights alone, as wide as stated on the film of its format, and only adds light", () => {
  // A lamp above the threshold, and a card below it.
  const engine = engineOf((x, y) => (Math.hypot(x - 0.3, y - 0.33) < 0.02 ? 1 : x > 0.6 && x < 0.7 ? 0.3 : 0.01));
  const base = defaultRecipe();
  const lit = (radiusUm: number, format: "small" | "medium", amount = 1) => {
    const finish = { ...base.finish, grain: { ...base.finish.grain, format }, halation: { amount, radiusUm } };
    return engine.renderLight(engine.prepare({ ...base, finish }), WHOLE);
  };
  const plain = engine.renderLight(engine.prepare(base), WHOLE).slice();
  const small = lit(200, "small").slice();
  const added = small.map((v, i) => v - plain[i]);
  expect(added.reduce((least, v) => Math.min(least, v), 0)).toBeGreaterThan(-1e-4);
  const along = (light: Float32Array, x: number) =>
    light[Math.round(0.33 * SIZE.width) * SIZE.width + Math.round(x * SIZE.width)];
  expect(along(added, 0.325)).toBeGreaterThan(0.01);
  expect(along(added, 0.325)).toBeGreaterThan(2 * along(added, 0.34));
  expect(Math.abs(along(added, 0.72))).toBeLessThan(2e-4);
  // As far on a larger film is a smaller share of the picture; with the film's own measure it is the same.
  const medium = lit(200 * (56 / 36), "medium");
  for (const x of [0.325, 0.335, 0.35]) expect(Math.abs(along(medium, x) - along(small, x))).toBeLessThan(1e-3);
  expect(bytesOf(lit(200, "small", 0)).equals(bytesOf(plain))).toBe(true);
});

test("a blown sun in a sky that is held back stays as blown as it was, without a ring", () => {
  const engine = engineOf((x, y) => {
    // A skirt of warm light about it, as a lens lays it, and the sensor's end.
    const skirt = Math.exp(-((Math.hypot(x - 0.5, y - 0.33) / 0.11) ** 2));
    return [0.24 + 2.2 * skirt, 0.33 + 1.9 * skirt, 0.5 + 1.3 * skirt].map((v) => Math.min(1, v));
  });
  const base = defaultRecipe();
  const sky = { ...newFamily("sky", "sky", familyPlace([0.24, 0.33, 0.5])), stops: -0.8 };
  const sun = newFamily("sun", "sun", familyPlace([0.9, 0.85, 0.7]));
  const held = { ...base, weigh: { ...base.weigh, families: [sky, sun] } };
  const [plain, after] = [base, held].map((recipe) => engine.renderLight(engine.prepare(recipe), WHOLE).slice());
  const blown = [...plain.keys()].filter((i) => plain[i] > 0.9999);
  expect(blown.length).toBeGreaterThan(3000);
  for (const i of blown) if (after[i] < 0.97 * plain[i]) throw new Error(`Darkened at ${i % SIZE.width}: ${after[i]}.`);
  expect(after[5] / plain[5]).toBeLessThan(0.65);
});

test("old glass softens toward the corners alone and loses no light", () => {
  // Fine bars all over.
  const engine = engineOf((x) => (Math.floor(x * 160) % 2 === 0 ? 0.5 : 0.1));
  const base = defaultRecipe();
  const through = (corners: number) => {
    const finish = { ...base.finish, oldGlass: { ...base.finish.oldGlass, corners } };
    return engine.renderLight(engine.prepare({ ...base, finish }), WHOLE);
  };
  const plain = through(0).slice();
  const soft = through(1);
  const piece = (light: Float32Array, left: number, top: number) => {
    const values: number[] = [];
    for (let y = 0; y < 40; y++) for (let x = 0; x < 60; x++) values.push(light[(top + y) * SIZE.width + left + x]);
    const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
    return { mean, spread: Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length) };
  };
  const middle = [SIZE.width / 2 - 30, SIZE.height / 2 - 20] as const;
  expect(piece(soft, ...middle).spread).toBeCloseTo(piece(plain, ...middle).spread, 5);
  for (const [x, y] of [
    [12, 12],
    [SIZE.width - 72, SIZE.height - 52],
  ] as const) {
    // prettier-ignore
    expect(piece(soft, x, y).spread).toBeLessThan(0.4 * piece(plain, x, y).spread);
    expect(piece(soft, x, y).mean / piece(plain, x, y).mean).toBeCloseTo(1, 1);
  }
});

test("with all of it on, a coarse view shows what the full size does", () => {
  const engine = engineOf(busyScene);
  const change = {
    ...OPEN,
    detail: { fine: 0.5, middle: 0.3, broad: 0.5 },
    haze: 0.4,
    scatter: { glow: 0.4, reach: 0.02, softness: 0.4 },
  };
  const fine = lightOf(engine, change);
  const coarse = lightOf(engine, change, { width: SIZE.width / 2, height: SIZE.height / 2, scale: 0.5, level: 1 });
  let sum = 0;
  const worst: number[] = [];
  for (let y = 0; y < SIZE.height / 2; y++)
    for (let x = 0; x < SIZE.width / 2; x++) {
      const at = (dx: number, dy: number) => fine[(2 * y + dy) * SIZE.width + 2 * x + dx];
      const mean = (at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4;
      const far = Math.abs(lightToStops(coarse[(y * SIZE.width) / 2 + x]) - lightToStops(mean));
      sum += far;
      worst.push(far);
    }
  worst.sort((a, b) => a - b);
  expect(sum / worst.length).toBeLessThan(0.03);
  expect(worst[Math.floor(0.99 * worst.length)]).toBeLessThan(0.2);
});

test("a smooth ramp through everything comes out without a step", () => {
  const engine = engineOf((x) => stopsToLight(-9 + 11.4 * x));
  const recipe = shaped({
    ...OPEN,
    localContrast: { low: 0.5, mid: 0.5, high: 0.5 },
    detail: { fine: 0.5, middle: 0.3, broad: 0.5 },
    haze: 0.4,
    scatter: { glow: 0.4, reach: 0.02, softness: 0.4 },
    sharpening: { amount: 1, radius: 0.7, sparing: 0.5 },
    characteristic: "film",
  });
  const row = engine.renderReflectance(engine.prepare(recipe), { ...WHOLE, y: 400, height: 1 });
  const codes = Array.from(row, (r) => 255 * SRGB_TRANSFER.encode(Math.min(1, r)));
  for (let x = 1; x < codes.length; x++) {
    expect([x, codes[x] - codes[x - 1] < 1.5]).toEqual([x, true]);
    expect([x, codes[x] - codes[x - 1] > -0.05]).toEqual([x, true]);
  }
});
