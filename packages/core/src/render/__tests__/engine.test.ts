import { beforeAll, describe, expect, test } from "@jest/globals";
import { luminanceToLightness } from "../../colour/lab.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { bytesOf, openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import { SRGB_TRANSFER } from "../../colour/transfer.ts";
import { PLAIN_FACTS } from "../../parts/ground/facts.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { outputSigma } from "../../parts/finish/output-sharpening.ts";
import { plainMove } from "../../parts/light/schema.ts";
import { cubicWeights } from "../../maths/cubic-weights.ts";
import { Engine } from "../engine.ts";
import { levelCount, type LinearTiles } from "../../tiles/tiles.ts";
import { levelForScale, ownLevel, scaledSize, type View } from "../../tiles/view.ts";
import { busyScene, tilesOf } from "./scene-tiles.ts";

const SIZE = { width: 1300, height: 870 };
let heap: KernelHeap;
let tiles: LinearTiles;
let engine: Engine;
beforeAll(async () => {
  heap = await openHeap();
  tiles = tilesOf(heap, SIZE, busyScene);
  engine = new Engine(heap, tiles, { ...PLAIN_FACTS, noise: { slope: 2e-6, offset: 1e-8 } });
});

/** A recipe from random numbers, grain off; every part is in use. */
function randomRecipe(random: () => number): Recipe {
  const recipe = defaultRecipe();
  const between = (a: number, b: number) => a + (b - a) * random();
  const moves: Recipe["light"]["moves"] = [
    { id: "e", name: "e", on: true, stops: between(-1.5, 1.5), amountPercent: 100, invert: random() > 0.7, ...plainMove(), shape: { kind: "ellipse", x: random(), y: 0.6 * random(), radiusX: between(0.05, 0.4), radiusY: between(0.05, 0.4), angleDegrees: between(0, 180), softness: between(0.4, 1) } }, // prettier-ignore
    { id: "b", name: "b", on: true, stops: between(-1.5, 1.5), amountPercent: 80, invert: false, ...plainMove(), shape: { kind: "brush", strokes: [{ id: "s", radius: between(0.03, 0.15), softness: 1, flow: 0.5, erase: false, points: [[random(), 0.5 * random(), 1], [random(), 0.5 * random(), 0.6]] }] } }, // prettier-ignore
  ];
  return {
    ...recipe,
    ground: {
      whiteBalance: { mode: "set", kelvin: between(3000, 9000), tint: between(-10, 10), follow: random() },
      exposureEv: between(-1, 1),
      angleDegrees: random() > 0.5 ? between(-6, 6) : 0,
      quarterTurns: Math.floor(4 * random()),
      crop: random() > 0.6 ? { centreX: 0.03, centreY: -0.02, width: 0.5, height: 0.4 } : null,
      lens:
        random() > 0.5
          ? {
              fallOffStops: between(0, 1),
              distortion: between(-0.05, 0.05),
              keystoneVertical: between(-0.1, 0.1),
              keystoneHorizontal: between(-0.1, 0.1),
            }
          : recipe.ground.lens,
      calm: random() > 0.5 ? random() : 0,
      clean: [
        {
          id: "h",
          kind: "heal",
          on: random() > 0.3,
          points: [[random(), 0.6 * random()]],
          radius: between(0.004, 0.012),
          softness: 0.4,
          sourceX: between(-0.1, 0.1),
          sourceY: between(-0.1, 0.1),
        },
        {
          id: "c",
          kind: "clone",
          on: true,
          points: [
            [random(), 0.6 * random()],
            [random(), 0.6 * random()],
          ],
          radius: between(0.003, 0.006),
          softness: 0.3,
          sourceX: 0.05,
          sourceY: 0.02,
        },
      ],
    },
    weigh: randomWeigh(recipe.weigh, random),
    shape: { ...recipe.shape, blackPoint: between(-9, -5), whitePoint: between(1.8, 3), midPoint: between(-0.5, 0.5), grade: between(1, 3.5), characteristic: random() > 0.5 ? "film" : "straight" }, // prettier-ignore
    light: { groups: [], contours: [], moves },
    finish: {
      ...recipe.finish,
      edgeBurn: {
        ...recipe.finish.edgeBurn,
        stops: between(-1, 0.3),
        start: 0.4,
        roundness: random(),
        centreX: between(0.2, 0.8),
      },
    },
  };
}

/** Weights or film, three families, sometimes an area with a conversion of its own. */
function randomWeigh(plain: Recipe["weigh"], random: () => number): Recipe["weigh"] {
  const between = (a: number, b: number) => a + (b - a) * random();
  const weights = () => ({
    by: random() > 0.5 ? ("film" as const) : ("weights" as const),
    red: between(-0.2, 1.2),
    green: between(0, 0.8),
    blue: between(-0.4, 0.6),
    film: { ...plain.film, film: "orthochromatic" as const, filter: "deep yellow" as const },
  });
  const families = [30, 100, 250].map((hueDegrees, i) => ({
    id: `f${i}`,
    name: "family",
    hueDegrees: hueDegrees + between(-15, 15),
    saturation: between(0.1, 0.25),
    lightness: between(0.4, 0.8),
    reach: between(0.7, 1.4),
    stops: between(-1, 1),
    pinned: false,
  }));
  const shape = { kind: "ellipse" as const, x: random(), y: 0.6 * random(), radiusX: 0.25, radiusY: 0.2, angleDegrees: 20, softness: between(0.4, 1) }; // prettier-ignore
  const area = { id: "a", name: "area", on: true, invert: random() > 0.5, shape, ...weights() };
  return { ...plain, ...weights(), lockSum: false, families, softness: random(), areas: random() > 0.5 ? [area] : [] };
}

function wholeView(
  recipe: Recipe,
  scale: number,
  density: 1 | 2 | "own",
): { print: ReturnType<Engine["prepare"]>; view: View } {
  const print = engine.prepare(recipe);
  const levels = levelCount(SIZE);
  const level = density === "own" ? ownLevel(scale, levels) : levelForScale(scale, levels, density);
  return { print, view: { x: 0, y: 0, ...scaledSize(print.frame, scale), scale, level } };
}

/** Scales a full-size render down in JavaScript, apart from the engine. */
function shrink(source: Float32Array, width: number, height: number, scale: number) {
  const out = scaledSize({ width, height }, scale);
  const x = cubicWeights(scale, 0, out.width, width);
  const y = cubicWeights(scale, 0, out.height, height);
  const rows = new Float32Array(out.width * height);
  for (let j = 0; j < height; j++)
    for (let i = 0; i < out.width; i++)
      for (let k = 0; k < x.taps; k++)
        rows[j * out.width + i] += x.weights[i * x.taps + k] * source[j * width + x.start + x.first[i] + k];
  const small = new Float32Array(out.width * out.height);
  for (let j = 0; j < out.height; j++)
    for (let i = 0; i < out.width; i++)
      for (let k = 0; k < y.taps; k++)
        small[j * out.width + i] += y.weights[j * y.taps + k] * rows[(y.start + y.first[j] + k) * out.width + i];
  return small;
}

function lightnessDifference(a: Float32Array, b: Float32Array): { mean: number; p99: number } {
  expect(a.length).toBe(b.length);
  const d = Array.from(a, (v, i) =>
    Math.abs(luminanceToLightness(Math.min(1, v)) - luminanceToLightness(Math.min(1, b[i]))),
  ).sort((p, q) => p - q);
  return { mean: d.reduce((s, v) => s + v, 0) / d.length, p99: d[Math.floor(0.99 * d.length)] };
}

describe("contract", () => {
  test("straight curve, nothing else: reflectance is the weighted sum, clipped to 0–1, at every pixel", () => {
    const recipe = { ...defaultRecipe(), weigh: { ...defaultRecipe().weigh, red: 0.95, green: 0.4, blue: -0.35 } };
    const { print, view } = wholeView(recipe, 1, 1);
    const found = engine.renderReflectance(print, view);
    const [red, green, blue] = engine.renderWorking(print, view);
    let worst = 0;
    for (let i = 0; i < found.length; i++) {
      const expected = Math.min(1, Math.max(0, 0.95 * red[i] + 0.4 * green[i] - 0.35 * blue[i]));
      worst = Math.max(worst, Math.abs(found[i] - expected));
    }
    expect(worst).toBeLessThan(2e-4);
    const x = 900;
    const y = 300;
    const scene = busyScene((x + 0.5) / 1300, (y + 0.5) / 1300);
    expect(red[y * 1300 + x]).toBeCloseTo(scene[0], 2);
  });

  test("an 18 % neutral prints L* 49.5 and sRGB 117–118", () => {
    const grey = new Engine(
      heap,
      tilesOf(heap, { width: 64, height: 64 }, () => [0.18, 0.18, 0.18]),
    );
    const print = grey.prepare(defaultRecipe());
    const view = { x: 0, y: 0, width: 64, height: 64, scale: 1, level: 0 };
    expect(Math.abs(luminanceToLightness(grey.renderReflectance(print, view)[100]) - 49.5)).toBeLessThan(0.3);
    const codes = new Set(grey.renderRgba(print, view).filter((_, i) => i % 4 === 0));
    expect([...codes].sort()).toEqual([117, 118]);
  });
});

test("the preview is the export seen from afar: 20 random recipes at four zooms", () => {
  const seed = 2026;
  const random = seeded(seed);
  for (let i = 0; i < 20; i++) {
    const recipe = randomRecipe(random);
    const full = wholeView(recipe, 1, 1);
    const whole = engine.renderReflectance(full.print, full.view);
    const scale = [0.61, 0.42, 0.3, 0.17][i % 4];
    const { print, view } = wholeView(recipe, scale, 2);
    const preview = engine.renderReflectance(print, view);
    const { mean, p99 } = lightnessDifference(preview, shrink(whole, full.view.width, full.view.height, scale));
    expect([seed, i, scale, mean <= 0.5, p99 <= 2, mean, p99].slice(0, 5)).toEqual([seed, i, scale, true, true]);
    // On its own pixels, as while a hand moves, it comes less near.
    const own = wholeView(recipe, scale, "own");
    const moving = lightnessDifference(engine.renderReflectance(own.print, own.view), preview);
    expect([seed, i, scale, moving.mean <= 0.25, moving.p99 <= 3]).toEqual([seed, i, scale, true, true]);
  }
});

test("a picture cut into odd pieces is the picture in one piece, bit by bit, grain included", () => {
  const random = seeded(7);
  for (const [scale, density] of [
    [1, 1],
    [0.37, 1],
    [0.61, "own"],
  ] as const) {
    const recipe = randomRecipe(random);
    recipe.finish = { ...recipe.finish, grain: { granularity: 20, crystalUm: 8, format: "small", seed: 4 } };
    const { print, view } = wholeView(recipe, scale, density);
    const whole = engine.renderRgba(print, view);
    const fresh = new Engine(heap, tiles, { ...PLAIN_FACTS, noise: { slope: 2e-6, offset: 1e-8 } });
    for (const piece of [
      { x: 0, y: 0, width: 101, height: 57 },
      { x: 101, y: 33, width: 93, height: 80 },
      { x: 200, y: 150, width: 7, height: 3 },
      // Over a border of the strips, at no whole vector from it, and of a width that leaves no room in its rows.
      { x: 451, y: 20, width: 131, height: 70 },
      { x: 449, y: 20, width: 132, height: 70 },
    ].filter(({ x, width }) => x + width <= view.width)) {
      const part = fresh.renderRgba(fresh.prepare(recipe), { ...view, ...piece });
      let differing = 0;
      for (let y = 0; y < piece.height; y++)
        for (let b = 0; b < 4 * piece.width; b++)
          if (part[4 * y * piece.width + b] !== whole[4 * ((piece.y + y) * view.width + piece.x) + b]) differing++;
      expect([scale, piece.x, differing]).toEqual([scale, piece.x, 0]);
    }
  }
});

test("a move takes away or doubles the tone and the grain where it is, and leaves the light alone", () => {
  const base = defaultRecipe();
  const finish = {
    ...base.finish,
    toning: { ...base.finish.toning, toner: "sepia" as const, strength: 0.8 },
    grain: { ...base.finish.grain, granularity: 25 },
  };
  const shape = {
    kind: "ellipse" as const,
    x: 0.5,
    y: 0.33,
    radiusX: 0.2,
    radiusY: 0.2,
    angleDegrees: 0,
    softness: 0.3,
  };
  const move = { id: "m", name: "m", on: true, stops: 0, amountPercent: 100, invert: false, ...plainMove(), shape };
  const withEffects = (effects: Partial<typeof move.effects>, of = finish): Recipe => ({
    ...base,
    finish: of,
    light: { ...base.light, moves: [{ ...move, effects: { ...move.effects, ...effects } }] },
  });
  const { print, view } = wholeView({ ...base, finish }, 0.5, 1);
  const plain = engine.renderRgba(print, view).slice();
  const show = (recipe: Recipe) => engine.renderRgba(engine.prepare(recipe), view).slice();
  const at = (picture: Uint8Array, x: number, y: number) => {
    const i = 4 * (Math.round(y * view.height) * view.width + Math.round(x * view.width));
    return [...picture.subarray(i, i + 3)];
  };
  const [bare, double] = [-1, 1].map((tone) => show(withEffects({ tone })));
  for (const [x, y] of [
    [0.5, 0.5],
    [0.46, 0.55],
    [0.55, 0.45],
  ] as const) {
    // prettier-ignore
    const [r, , b] = at(plain, x, y);
    expect(Math.max(...at(bare, x, y)) - Math.min(...at(bare, x, y))).toBeLessThanOrEqual(1);
    expect(Math.abs(at(double, x, y)[0] - at(double, x, y)[2] - 2 * (r - b))).toBeLessThanOrEqual(3);
  }
  expect(at(bare, 0.05, 0.05)).toEqual(at(plain, 0.05, 0.05));
  // Grain: as without any inside, as it was outside.
  const smooth = show({ ...base, finish: { ...finish, grain: { ...finish.grain, granularity: 0 } } });
  const calm = show(withEffects({ grain: -1 }));
  expect([at(calm, 0.5, 0.5), at(calm, 0.05, 0.05)]).toEqual([at(smooth, 0.5, 0.5), at(plain, 0.05, 0.05)]);
  expect(Array.from(engine.renderLight(engine.prepare(withEffects({ tone: -1, grain: 1 })), view))).toEqual(
    Array.from(engine.renderLight(print, view)),
  );
  const part = engine.changedPart(print, engine.prepare(withEffects({ tone: -1 })), view);
  expect([part.width, part.height]).toEqual([view.width, view.height]);
});

test.each([
  ["neutral", 1],
  ["toned by place, worn at its edges, grainy", 3],
] as const)("what is written in 16 bits is what is shown in 8, band by band: %s", (_name, channels) => {
  const base = defaultRecipe();
  const shape = {
    kind: "ellipse" as const,
    x: 0.4,
    y: 0.3,
    radiusX: 0.2,
    radiusY: 0.2,
    angleDegrees: 0,
    softness: 0.5,
  };
  const effects = { ...plainMove().effects, tone: -0.8, grain: 0.6 };
  const move = {
    id: "m",
    name: "m",
    on: true,
    stops: 0.3,
    amountPercent: 100,
    invert: false,
    ...plainMove(),
    effects,
    shape,
  };
  const toned = {
    ...base.finish,
    toning: { ...base.finish.toning, toner: "sepia" as const, strength: 0.8 },
    grain: { ...base.finish.grain, granularity: 25 },
    wear: { ...base.finish.wear, edges: 0.7 },
  };
  const recipe = channels === 1 ? base : { ...base, finish: toned, light: { ...base.light, moves: [move] } };
  // An odd width, and bands and columns that begin anywhere.
  const scale = 0.4355;
  const { print, view } = wholeView(recipe, scale, 1);
  expect(view.width % 4).not.toBe(0);
  const shown = engine.renderRgba(print, view);
  const written = new Uint16Array(view.width * view.height * channels);
  for (let y = 0; y < view.height; y += 75) {
    const rows = Math.min(75, view.height - y);
    const band = new Uint16Array(view.width * rows * channels);
    for (const [x, width] of [
      [0, 201],
      [201, view.width - 201],
    ])
      // prettier-ignore
      engine.renderCoded16(print, { ...view, x, y, width, height: rows }, SRGB_TRANSFER, "srgb", band);
    written.set(band, y * view.width * channels);
  }
  const off = [...written.keys()].map((i) => {
    const pixel = Math.floor(i / channels);
    return Math.abs(written[i] / 257 - shown[4 * pixel + (i % channels)]);
  });
  // The screen's codes are dithered by up to one, and rounded again where the tone is shared out and where edges are worn.
  expect(off.reduce((sum, v) => sum + v, 0) / off.length).toBeLessThan(0.45);
  expect(off.reduce((most, v) => Math.max(most, v))).toBeLessThan(channels === 1 ? 1.01 : 2);
});

test("what two prints differ in lies in the part that is said to have changed, and that is small for a dab", () => {
  const random = seeded(31);
  const light = (recipe: Recipe, change: (moves: Recipe["light"]["moves"]) => unknown): Recipe => {
    const next = structuredClone(recipe);
    change(next.light.moves);
    return next;
  };
  type Brush = Extract<Recipe["light"]["moves"][number]["shape"], { kind: "brush" }>;
  const changes: ((recipe: Recipe) => Recipe)[] = [
    (recipe) =>
      light(recipe, ([, { shape }]) => (shape as Brush).strokes[0].points.push([random(), 0.5 * random(), 1])),
    (recipe) =>
      light(
        recipe,
        ([, { shape }]) =>
        (shape as Brush).strokes.push({ id: "t", radius: 0.03, softness: 0.7, flow: 0.6, erase: random() > 0.5, points: [[0.12, 0.1, 1]] }), // prettier-ignore
      ),
    (recipe) => light(recipe, (moves) => (moves[0].stops += 0.4)),
    (recipe) => light(recipe, (moves) => (moves[1].on = false)),
    // Shapes without an end, of nothing, and one in place of another.
    ...([[0, "one"], [37, "two"], [90, "two"], [180, "one"]] as const).map(
      ([angleDegrees, sides]) => (recipe: Recipe) =>
        light(recipe, ([move]) => (move.shape = { kind: "ramp", x: 0.4, y: 0.3, angleDegrees, reach: 0.2, sides })),
    ), // prettier-ignore
    (recipe) => light(recipe, ([move]) => (move.shape = { kind: "whole" })),
    (recipe) => light(recipe, ([, { shape }]) => ((shape as Brush).strokes = [])),
    (recipe) => light(recipe, ([move]) => (move.shape = { kind: "outline", points: [], spread: 0.1 })),
    (recipe) => ({ ...recipe, shape: { ...recipe.shape, grade: recipe.shape.grade + 0.3 } }),
    (recipe) => ({ ...recipe, ground: { ...recipe.ground, exposureEv: recipe.ground.exposureEv + 0.2 } }),
    (recipe) => ({ ...recipe, finish: { ...recipe.finish, edgeBurn: { ...recipe.finish.edgeBurn, stops: -0.7 } } }),
  ];
  const shares: number[] = [];
  for (const [scale, density] of [
    [0.7, 1],
    [0.37, 1],
    [0.61, "own"],
  ] as const)
    // prettier-ignore
    changes.forEach((change, k) => {
      const recipe = randomRecipe(random);
      const { print, view } = wholeView(recipe, scale, density);
      const after = engine.prepare(change(recipe));
      const before = engine.renderRgba(print, view).slice();
      const part = engine.changedPart(print, after, view);
      const whole = engine.renderRgba(after, view);
      let outside = 0;
      for (let y = 0; y < view.height; y++)
        for (let x = 0; x < view.width; x++) {
          const inside = x >= part.x && x < part.x + part.width && y >= part.y && y < part.y + part.height;
          const at = 4 * (y * view.width + x);
          if (!inside && whole[at] !== before[at]) outside++;
        }
      expect([scale, k, outside]).toEqual([scale, k, 0]);
      if (k === 1) shares.push((part.width * part.height) / (view.width * view.height));
    });
  expect(Math.min(...shares)).toBeLessThan(0.4);
  const { print, view } = wholeView(randomRecipe(random), 1, 1);
  expect(engine.changedPart(print, print, view)).toMatchObject({ width: 0, height: 0 });
});

test("renders again the same after other recipes were rendered in between (caches do not leak)", () => {
  const random = seeded(21);
  const recipes = Array.from({ length: 6 }, () => randomRecipe(random));
  const first = recipes.map((recipe) => {
    const { print, view } = wholeView(recipe, 0.3, 1);
    return engine.renderRgba(print, view);
  });
  recipes.forEach((recipe, i) => {
    const { print, view } = wholeView(recipe, 0.3, 1);
    expect(Buffer.compare(engine.renderRgba(print, view), first[i])).toBe(0);
    const fresh = new Engine(heap, tiles, { ...PLAIN_FACTS, noise: { slope: 2e-6, offset: 1e-8 } });
    expect(Buffer.compare(fresh.renderRgba(fresh.prepare(recipe), view), first[i])).toBe(0);
  });
});

test("four quarter turns are the picture; a quarter turn moves every pixel to its place", () => {
  const turned = { ...defaultRecipe(), ground: { ...defaultRecipe().ground, quarterTurns: 1 } };
  const plain = wholeView(defaultRecipe(), 1, 1);
  const quarter = wholeView(turned, 1, 1);
  expect([quarter.view.width, quarter.view.height]).toEqual([870, 1300]);
  const a = engine.renderReflectance(plain.print, plain.view);
  const b = engine.renderReflectance(quarter.print, quarter.view);
  for (const [x, y] of [
    [0, 0],
    [1299, 0],
    [500, 333],
    [1299, 869],
  ])
    expect(b[x * 870 + (869 - y)]).toBeCloseTo(a[y * 1300 + x], 5);
});

describe("grain", () => {
  const flat = (density: number) => [10 ** -density, 10 ** -density, 10 ** -density];
  const sigmaOfDensity = (on: Engine, recipe: Recipe, scale: number) => {
    const print = on.prepare(recipe);
    const level = levelForScale(scale, levelCount({ width: 1200, height: 1200 }), 2);
    const values = on.renderReflectance(print, { x: 0, y: 0, ...scaledSize(print.frame, scale), scale, level });
    const d = Array.from(values, (r) => -Math.log10(r));
    const mean = d.reduce((s, v) => s + v, 0) / d.length;
    return Math.sqrt(d.reduce((s, v) => s + (v - mean) ** 2, 0) / d.length);
  };
  const grainy = (granularity: number, crystalUm: number): Recipe => ({
    ...defaultRecipe(),
    finish: { ...defaultRecipe().finish, grain: { granularity, crystalUm, format: "large", seed: 9 } },
  });

  test("σ(D)·√area is constant between scales (Selwyn), and σ grows with the root of density", () => {
    const on = new Engine(
      heap,
      tilesOf(heap, { width: 1200, height: 1200 }, () => flat(0.6)),
    );
    const at = [0.5, 0.25, 0.125].map((scale) => sigmaOfDensity(on, grainy(12, 3), scale) / scale);
    for (const value of at) expect(Math.abs(value / at[0] - 1)).toBeLessThan(0.05);
    const denser = new Engine(
      heap,
      tilesOf(heap, { width: 1200, height: 1200 }, () => flat(1.2)),
    );
    const ratio = sigmaOfDensity(denser, grainy(12, 3), 0.5) / (at[0] * 0.5);
    expect(Math.abs(ratio / Math.SQRT2 - 1)).toBeLessThan(0.08);
  });
  test("granularity is RMS σ·1000 at D 1 through 48 µm", () => {
    const on = new Engine(
      heap,
      tilesOf(heap, { width: 1200, height: 1200 }, () => flat(1)),
    );
    const pixelUm = 127_000 / 1200 / 0.5;
    const aperture = Math.sqrt((Math.PI * 24 ** 2) / pixelUm ** 2);
    expect(Math.abs((1000 * sigmaOfDensity(on, grainy(20, 3), 0.5)) / aperture / 20 - 1)).toBeLessThan(0.05);
  });
});

describe("output sharpening", () => {
  const sharpened = (output: Partial<Recipe["finish"]["output"]>): Recipe => {
    const base = defaultRecipe();
    return { ...base, finish: { ...base.finish, output: { ...base.finish.output, ...output } } };
  };
  test.each([
    ["screen", 1, 40],
    ["paper", 1, 12],
    ["paper", 0.42, 8],
  ] as const)(
    "for %s at scale %d: pieces are the whole, flat parts stay, edges gain and keep within bounds",
    (medium, scale, paperCm) => {
      const recipe = sharpened({ amount: 1, medium, paperCm });
      const { print, view } = wholeView(recipe, scale, 1);
      const whole = engine.renderReflectance(print, view);
      const piece = { ...view, x: 101, y: 37, width: 97, height: 66 };
      const part = engine.renderReflectance(print, piece);
      for (let y = 0; y < piece.height; y += 5)
        for (let x = 0; x < piece.width; x += 7)
          expect(part[y * piece.width + x]).toBe(whole[(y + piece.y) * view.width + x + piece.x]);
      const plain = wholeView(defaultRecipe(), scale, 1);
      const before = engine.renderReflectance(plain.print, plain.view);
      const changes = Array.from(whole, (v, i) => Math.cbrt(v) - Math.cbrt(before[i]));
      expect(changes.reduce((most, d) => Math.max(most, Math.abs(d)), 0)).toBeLessThan(0.0605);
      expect(changes.filter((d) => Math.abs(d) > 0.01).length).toBeGreaterThan(changes.length / 1000);
      // What is screened and what is measured are one.
      const codes = engine.renderCoded(print, piece, SRGB_TRANSFER, "srgb");
      const code = (i: number) => 255 * SRGB_TRANSFER.encode(Math.min(1, part[i]));
      for (let i = 0; i < part.length; i += 11) expect(Math.abs(codes[4 * i] - code(i))).toBeLessThan(1.05);
    },
  );
  test("paper far away or a small picture asks for nothing; by nothing the picture stays to the bit", () => {
    expect(outputSigma({ amount: 1, medium: "paper", paperCm: 100, viewingCm: 20 }, 2000)).toBe(0);
    // Half a minute of arc at half a metre on 150 pixels a centimetre.
    expect(outputSigma({ amount: 1, medium: "paper", paperCm: 40, viewingCm: 50 }, 6000)).toBeCloseTo(
      0.5 * 50 * 150 * (Math.PI / 10800),
      6,
    );
    const { print, view } = wholeView(sharpened({ amount: 0 }), 0.5, 1);
    const plain = wholeView(defaultRecipe(), 0.5, 1);
    const [one, other] = [engine.renderReflectance(print, view), engine.renderReflectance(plain.print, plain.view)];
    expect(Buffer.compare(bytesOf(one), bytesOf(other))).toBe(0);
  });
});

test("toning keeps lightness: the luminance of the toned picture is that of the plain one", () => {
  const toned: Recipe = {
    ...defaultRecipe(),
    finish: { ...defaultRecipe().finish, toning: { ...defaultRecipe().finish.toning, toner: "sepia", strength: 1 } },
  };
  const { print, view } = wholeView(toned, 0.3, 1);
  const plain = wholeView(defaultRecipe(), 0.3, 1);
  const a = engine.renderRgba(plain.print, plain.view);
  const b = engine.renderRgba(print, view);
  const decode = (c: number) => (c <= 10 ? c / 255 / 12.92 : ((c / 255 + 0.055) / 1.055) ** 2.4);
  let worst = 0;
  let coloured = 0;
  for (let i = 0; i < a.length; i += 4) {
    const y = 0.2126 * decode(b[i]) + 0.7152 * decode(b[i + 1]) + 0.0722 * decode(b[i + 2]);
    worst = Math.max(worst, Math.abs(luminanceToLightness(y) - luminanceToLightness(decode(a[i]))));
    if (b[i] > b[i + 2] + 8) coloured++;
  }
  expect(worst).toBeLessThan(1.2);
  expect(coloured).toBeGreaterThan(a.length / 10);
});

test("tilesFor names every tile that a render reads, and none is missing at the borders", () => {
  const random = seeded(99);
  for (let i = 0; i < 30; i++) {
    const recipe = randomRecipe(random);
    const asked = new Set<string>();
    const recording: LinearTiles = {
      size: SIZE,
      tile(place) {
        asked.add(JSON.stringify([place.level, place.column, place.row]));
        return tiles.tile(place);
      },
    };
    const watched = new Engine(heap, recording);
    const print = watched.prepare(recipe);
    const scale = 0.15 + 1.2 * random();
    const whole = scaledSize(print.frame, scale);
    const x = Math.floor(random() * whole.width * 0.8);
    const y = Math.floor(random() * whole.height * 0.8);
    const view = {
      x,
      y,
      width: Math.min(200, whole.width - x),
      height: Math.min(150, whole.height - y),
      scale,
      level: i % 2 ? levelForScale(scale, levelCount(SIZE), 1) : ownLevel(scale, levelCount(SIZE)),
    };
    const named = new Set(watched.tilesFor(print, view).map((p) => JSON.stringify([p.level, p.column, p.row])));
    watched.renderRgba(print, view);
    expect([i, [...asked].filter((place) => !named.has(place))]).toEqual([i, []]);
  }
});
