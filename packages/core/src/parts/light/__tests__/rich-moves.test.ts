import { beforeAll, describe, expect, test } from "@jest/globals";
import { luminanceToLightness } from "../../../colour/lab.ts";
import { curveThrough } from "../../../maths/curve-points.ts";
import { lightToStops, stopsToLight } from "../../../colour/stops.ts";
import type { KernelHeap } from "../../../kernels/heap.ts";
import { bytesOf, farthest, openHeap, seeded } from "../../../kernels/__tests__/open-heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import type { Recipe } from "../../../recipe/schema.ts";
import { tilesOf } from "../../../render/__tests__/scene-tiles.ts";
import { Engine } from "../../../render/engine.ts";
import { regionOf } from "../../../shapes/region.ts";
import type { MaskShape } from "../../../shapes/shapes.ts";
import { lightPart } from "../part.ts";
import { isRich } from "../print.ts";
import { plainMove, type LightMove } from "../schema.ts";
import { move } from "./a-move.ts";

const SIZE = { width: 960, height: 640 };
let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(160);
});

const effects = (change: Partial<LightMove["effects"]>) => ({ ...plainMove().effects, ...change });
const limits = (change: Partial<LightMove["limits"]>) => ({ ...plainMove().limits, ...change });
const recipeWith = (moves: LightMove[], change: Partial<Recipe> = {}): Recipe => ({
  ...defaultRecipe(),
  ...change,
  light: { groups: [], contours: [], moves },
});

/** Two materials of one luminance on both sides of a slanted edge, a little textured. */
const SLANT = 0.12;
const EDGE_AT = (y: number) => 0.5 + SLANT * (y - 1 / 3);
const texture = seeded(3);
const NOISE = Float32Array.from({ length: 4096 }, () => 1 + 0.06 * (texture() - 0.5));
function slanted(x: number, y: number): [number, number, number] {
  const grain = NOISE[(Math.floor(x * 960) * 31 + Math.floor(y * 960) * 57) & 4095];
  const pixel = 1 / SIZE.width;
  const right = Math.min(1, Math.max(0, 0.5 + (x - EDGE_AT(y)) / pixel));
  // Rec.2020 luminance of both is 0.2.
  const [left, other] = [[0.32, 0.159, 0.22], [0.12, 0.239, 0.15]]; // prettier-ignore
  return left.map((v, c) => grain * (v + (other[c] - v) * right)) as [number, number, number];
}
let tiles: ReturnType<typeof tilesOf> | undefined;
const slantedEngine = () => new Engine(heap, (tiles ??= tilesOf(heap, SIZE, slanted)));

/** Stops by which moves lift each pixel of a view. */
function liftsOf(
  engine: Engine,
  moves: LightMove[],
  view: Partial<Parameters<Engine["renderLight"]>[1]> = {},
  change: Partial<Recipe> = {},
) {
  const whole = { x: 0, y: 0, ...SIZE, scale: 1, level: 0, ...view };
  const [plain, moved] = [[], moves].map((list) => engine.renderLight(engine.prepare(recipeWith(list, change)), whole));
  return Float32Array.from(moved, (v, i) => lightToStops(v) - lightToStops(plain[i]));
}

/** Cells right of the edge, known only roughly. */
function roughRegion(): MaskShape {
  const [width, height] = [480, 320];
  const random = seeded(11);
  const inside = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    const edge = EDGE_AT((y + 0.5) / width) * width + 3 * (random() - 0.5);
    for (let x = 0; x < width; x++) inside[y * width + x] = x + 0.5 > edge ? 1 : 0;
  }
  return regionOf({ width, height, inside }, "strokes", []);
}

describe("found regions", () => {
  test("are as sharp as the picture's colours, though their cells are rough, at every level", () => {
    const engine = slantedEngine();
    for (const level of [0, 1]) {
      const step = 2 ** level;
      const [width, height] = [SIZE.width / step, SIZE.height / step].map(Math.floor);
      const lifts = liftsOf(engine, [move({ shape: roughRegion() })], { width, height, scale: 1 / step, level });
      let [error, beside, leaks, far] = [0, 0, 0, 0];
      for (let y = 10; y < height - 10; y++)
        for (let x = 0; x < width; x++) {
          const distance = x + 0.5 - EDGE_AT(((y + 0.5) * step) / SIZE.width) * width;
          const truth = distance > 0 ? 1 : 0;
          if (Math.abs(distance) > 2 && Math.abs(distance) < 30) [error, beside] = [error + Math.abs(lifts[y * width + x] - truth), beside + 1]; // prettier-ignore
          if (Math.abs(distance) > 2) [leaks, far] = [leaks + (Math.abs(lifts[y * width + x] - truth) > 0.1 ? 1 : 0), far + 1]; // prettier-ignore
        }
      expect(error / beside).toBeLessThan(0.02);
      expect(leaks / far).toBeLessThan(0.005);
    }
  });
  test("and what lies outside of them add up to the whole, subtracted too", () => {
    const engine = slantedEngine();
    const shape = roughRegion() as never;
    const part = (how: "join" | "subtract", of: MaskShape, id: string) => ({
      id,
      how,
      invert: false,
      shape: of as never,
    });
    const ellipse = { kind: "ellipse", x: 0.5, y: 0.33, radiusX: 0.3, radiusY: 0.2, angleDegrees: 0, softness: 0.5 } as const; // prettier-ignore
    const view = { x: 384, y: 192, width: 192, height: 128 };
    const inner = liftsOf(engine, [move({ shape })], view);
    const outer = liftsOf(engine, [move({ shape, invert: true })], view);
    expect(farthest(inner.length, (i) => inner[i] + outer[i] - 1)).toBeLessThan(1e-4);
    const [whole, without, within] = (
      [
        ellipse,
        { kind: "joined", parts: [part("join", ellipse, "a"), part("subtract", shape, "b")] },
        { kind: "joined", parts: [part("join", ellipse, "a"), { ...part("join", shape, "b"), how: "intersect" }] },
      ] as MaskShape[]
    ).map((one) => liftsOf(engine, [move({ shape: one })], view));
    expect(farthest(whole.length, (i) => whole[i] - without[i] - within[i])).toBeLessThan(2e-3);
  });
});

describe("limits", () => {
  const soft: MaskShape = {
    kind: "brush",
    strokes: [{ id: "s", radius: 0.12, softness: 1, flow: 1, erase: false, points: [[0.53, 0.2, 1], [0.55, 0.45, 1]] }],
  }; // prettier-ignore
  test("edge-following leaks no more than 2 % across the slanted edge, and spills when it is off", () => {
    const engine = slantedEngine();
    const share = (follow: number) => {
      const lifts = liftsOf(engine, [move({ shape: soft, limits: limits({ follow }) })]);
      let [across, along] = [0, 0];
      lifts.forEach((stops, i) => {
        const [x, y] = [(i % SIZE.width) + 0.5, Math.floor(i / SIZE.width) + 0.5];
        const distance = x - EDGE_AT(y / SIZE.width) * SIZE.width;
        if (distance < -2) across += stops;
        if (distance > 2) along += stops;
      });
      return { leak: across / (across + along), along };
    };
    const [spilt, followed] = [share(0), share(1)];
    expect(spilt.leak).toBeGreaterThan(0.08);
    expect(followed.leak).toBeLessThan(0.02);
    expect(followed.along / spilt.along).toBeGreaterThan(0.9);
  });
  test("families: only the material that belongs to them is lifted", () => {
    const engine = slantedEngine();
    const families = [
      { id: "warm", name: "warm", hueDegrees: 20, saturation: 0.1, lightness: 0.6, reach: 1, stops: 0 },
      { id: "cool", name: "cool", hueDegrees: 160, saturation: 0.1, lightness: 0.6, reach: 1, stops: 0 },
    ];
    const weigh = { ...defaultRecipe().weigh, families } as Recipe["weigh"];
    const lifts = liftsOf(engine, [move({ limits: limits({ families: ["cool"] }) })], { y: 320, height: 1 }, { weigh });
    const mean = (from: number, to: number) => lifts.slice(from, to).reduce((sum, v) => sum + v, 0) / (to - from);
    expect(mean(640, 900)).toBeGreaterThan(0.8);
    expect(mean(60, 320)).toBeLessThan(0.2);
    // A family that is gone limits nothing.
    const all = liftsOf(engine, [move({ limits: limits({ families: ["gone"] }) })], { y: 320, height: 1 }, { weigh });
    all.forEach((stops) => expect(stops).toBeCloseTo(1, 3));
  });
  test("edges: near them, or away from them, and both add up", () => {
    const size = { width: 600, height: 400 };
    const engine = new Engine(
      heap,
      tilesOf(heap, size, (x) => new Array<number>(3).fill(x < 0.5 ? 0.05 : 0.4)),
    );
    const row = (edges: number) =>
      liftsOf(engine, [move({ limits: limits({ edges }) })], { ...size, y: 200, height: 1 });
    const [near, away] = [row(1), row(-1)];
    expect(near[299]).toBeGreaterThan(0.8);
    expect(near[100]).toBeLessThan(0.01);
    near.forEach((stops, x) => expect(stops + away[x]).toBeCloseTo(1, 3));
  });
});

describe("effects", () => {
  const size = { width: 900, height: 600 };
  const wave = (x: number, y: number) => Math.sin(x * 540) * Math.sin(y * 540);
  const scene = (x: number, y: number) =>
    new Array<number>(3).fill(stopsToLight(-3 + 5 * x + 0.3 * wave(x, y))) as [number, number, number];
  const deviation = (values: ArrayLike<number>) => {
    const list = Array.from(values, (v) => v);
    const mean = list.reduce((sum, v) => sum + v, 0) / list.length;
    return Math.sqrt(list.reduce((sum, v) => sum + (v - mean) ** 2, 0) / list.length);
  };
  const lights = (engine: Engine, moves: LightMove[], view: object, change: Partial<Recipe> = {}) =>
    Float32Array.from(
      engine.renderLight(engine.prepare(recipeWith(moves, change)), {
        x: 0,
        y: 0,
        ...size,
        scale: 1,
        level: 0,
        ...view,
      }),
      lightToStops,
    );
  test("a grade turns tones about its zone: there nothing moves, a stop away it moves by the gain", () => {
    const engine = new Engine(
      heap,
      tilesOf(heap, size, (x) => new Array<number>(3).fill(stopsToLight(-4 + 7 * x))),
    );
    const graded = move({ stops: 0, effects: effects({ grade: 0.5, gradeZone: 5 }), amountPercent: 50 });
    const before = lights(engine, [], { y: 300, height: 1 });
    const after = lights(engine, [graded], { y: 300, height: 1 });
    const pivot = before.find((_, i) => after[i] >= before[i])!;
    before.forEach((stops, i) => expect(after[i] - stops).toBeCloseTo(0.25 * (stops - pivot), 1));
  });
  test("opening lifts the dark and keeps texture; local contrast and detail change texture and keep the tone", () => {
    const engine = new Engine(heap, tilesOf(heap, size, scene));
    const dark = { x: 40, y: 200, width: 60, height: 60 };
    const texture = (moves: LightMove[]) => {
      const values = lights(engine, moves, dark);
      // The slope of the scene itself is taken out.
      const flat = values.map((v, i) => v - (5 * (dark.x + (i % dark.width) + 0.5)) / size.width);
      return { mean: values.reduce((sum, v) => sum + v, 0) / values.length, texture: deviation(flat) };
    };
    const plain = texture([]);
    const opened = texture([move({ stops: 0, effects: effects({ open: 1 }) })]);
    expect(opened.mean - plain.mean).toBeGreaterThan(0.5);
    expect(Math.abs(opened.texture / plain.texture - 1)).toBeLessThan(0.12);
    const rough = texture([move({ stops: 0, effects: effects({ fine: 1, local: 1 }) })]);
    expect(rough.texture / plain.texture).toBeGreaterThan(1.5);
    expect(Math.abs(rough.mean - plain.mean)).toBeLessThan(0.05);
    const soft = texture([move({ stops: 0, effects: effects({ softness: 1 }) })]);
    expect(soft.texture / plain.texture).toBeLessThan(0.8);
  });
  test("haze over the whole picture is the haze of Shape", () => {
    const engine = new Engine(
      heap,
      tilesOf(heap, size, (x, y) => [0.5 + 0.1 * wave(x, y), 0.55, 0.6]),
    );
    const view = { x: 300, y: 200, width: 200, height: 100 };
    const shape = { ...defaultRecipe().shape, haze: 0.6 };
    const whole = lights(engine, [], view, { shape });
    const moved = lights(engine, [move({ stops: 0, effects: effects({ haze: 0.6 }) })], view);
    expect(farthest(whole.length, (i) => moved[i] - whole[i])).toBeLessThan(5e-4);
  });
  test("stay where their move is: pieces are the whole, and what is off or outside is untouched", () => {
    const engine = new Engine(heap, tilesOf(heap, size, scene));
    const all = effects({ grade: 0.4, open: 0.5, hold: 0.5, local: 0.7, fine: -0.5, softness: 0.4, haze: 0.3 });
    const shape = { kind: "ellipse", x: 0.6, y: 0.35, radiusX: 0.2, radiusY: 0.15, angleDegrees: 10, softness: 0.6 } as const; // prettier-ignore
    const one = move({ shape, effects: all, zones: { from: 2, to: 8 } });
    const whole = lights(engine, [one], {});
    const piece = lights(engine, [one], { x: 431, y: 177, width: 333, height: 211 });
    for (let y = 0; y < 211; y++)
      for (let x = 0; x < 333; x++)
        if (piece[y * 333 + x] !== whole[(y + 177) * 900 + x + 431]) expect([x, y]).toBe(null);
    const plain = lights(engine, [], {});
    expect(whole[100 * 900 + 100]).toBe(plain[100 * 900 + 100]);
    expect(bytesOf(lights(engine, [{ ...one, on: false }], {})).equals(bytesOf(plain))).toBe(true);
  });
  test("a group scales its moves, and switches them off", () => {
    const engine = new Engine(heap, tilesOf(heap, size, scene));
    const grouped = (amountPercent: number, on: boolean): Recipe => ({
      ...recipeWith([move({ group: "g", amountPercent: 50 })]),
      light: { moves: [move({ group: "g", amountPercent: 50 })], contours: [], groups: [{ id: "g", name: "g", on, amountPercent }] }, // prettier-ignore
    });
    const at = (recipe: Recipe) => lightToStops(engine.renderLight(engine.prepare(recipe), { x: 400, y: 300, width: 1, height: 1, scale: 1, level: 0 })[0]); // prettier-ignore
    const plain = at(recipeWith([]));
    expect(at(grouped(150, true)) - plain).toBeCloseTo(0.75, 3);
    expect(at(grouped(150, false)) - plain).toBeCloseTo(0, 5);
  });
});

describe("a move's own curve", () => {
  // A wedge of twelve stops, as light as the scene.
  const wedge = () =>
    new Engine(
      heap,
      tilesOf(heap, SIZE, (x) => {
        const light = stopsToLight(-9 + 12 * x);
        return [light, light, light];
      }),
    );
  const curves: LightMove["curve"][] = [
    [[0, 0.1], [0.4, 0.3], [0.7, 0.8], [1, 1]],
    [[0, 0], [0.5, 0.62], [1, 0.9]],
    [[0, 0], [0.3, 0.45], [0.6, 0.45], [1, 1]],
  ]; // prettier-ignore
  const shapes: Partial<Recipe["shape"]>[] = [{}, { grade: 3, whitePoint: 1.5 }, { characteristic: "film", midPoint: 0.4 }]; // prettier-ignore

  test.each(curves.flatMap((curve, i) => shapes.map((shape, k) => ({ curve, shape, i, k }))))(
    "prints what it says: curve $i on tones $k",
    ({ curve, shape }) => {
      const engine = wedge();
      const own = curveThrough(curve)!;
      const view = { x: 0, y: 300, width: SIZE.width, height: 1, scale: 1, level: 0 };
      const change = { shape: { ...defaultRecipe().shape, ...shape } };
      const lightness = (moves: LightMove[]) =>
        Array.from(engine.renderReflectance(engine.prepare(recipeWith(moves, change)), view), (r) =>
          luminanceToLightness(Math.min(1, r)),
        );
      const plain = lightness([]);
      const curved = lightness([move({ stops: 0, curve })]);
      const half = lightness([move({ stops: 0, curve, amountPercent: 0 })]);
      expect(half).toEqual(plain);
      const off = plain.map((v, i) => Math.abs(curved[i] - 100 * own(v / 100)));
      // Where four stops are not enough, or black holds less than the least light, it does what it can.
      const reached = off.filter((_, i) => plain[i] > 3 && plain[i] < 99.5);
      expect(reached.length).toBeGreaterThan(300);
      expect(Math.max(...reached)).toBeLessThan(1);
    },
  );

  test("a straight one is nothing, to the bit, and one whose points do not rise is refused by its place", () => {
    const straight = move({ curve: [[0, 0], [0.5, 0.5], [1, 1]] as LightMove["curve"] }); // prettier-ignore
    expect(isRich(straight)).toBe(false);
    const bad = { ...straight, curve: [[0, 0], [0.5, 0.5], [0.5, 0.7]] as LightMove["curve"] }; // prettier-ignore
    expect(lightPart.check({ ...defaultRecipe().light, moves: [straight, bad] })).toMatchObject({
      field: "moves.1.curve.2",
    });
  });
});
