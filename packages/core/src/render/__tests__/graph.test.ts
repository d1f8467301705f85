import { beforeAll, describe, expect, test } from "@jest/globals";
import type { KernelHeap } from "../../kernels/heap.ts";
import { bytesOf, openHeap } from "../../kernels/__tests__/open-heap.ts";
import { PLAIN_FACTS } from "../../parts/ground/facts.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { plainMove } from "../../parts/light/schema.ts";
import { Engine } from "../engine.ts";
import { PIPELINE } from "../pipeline.ts";
import { SlotStore } from "../../graph/slots.ts";
import { StageError } from "../../graph/stage.ts";
import { hashOf } from "../../maths/hash-of.ts";
import type { LinearTiles } from "../../tiles/tiles.ts";
import { busyScene, tilesOf } from "./scene-tiles.ts";

const SIZE = { width: 1100, height: 600 };
/** Inside the frame also when it is slanted. */
const TILE = { x: 0, y: 0, width: 512, height: 512 };
const VIEW = { x: 0, y: 0, width: 1030, height: 560, scale: 1, level: 0 };
let heap: KernelHeap;
let tiles: LinearTiles;
beforeAll(async () => {
  // Room for two prints at once: what is counted here is what has to run again, not what had to go.
  heap = await openHeap(200);
  tiles = tilesOf(heap, SIZE, busyScene);
});

/** Everything is in use, so that every stage is active. */
function busyRecipe(more: Partial<Recipe["shape"]> = {}): Recipe {
  const base = defaultRecipe();
  const ellipse = {
    kind: "ellipse",
    x: 0.4,
    y: 0.3,
    radiusX: 0.2,
    radiusY: 0.2,
    angleDegrees: 0,
    softness: 1,
  } as const;
  const family = { id: "f", name: "warm", hueDegrees: 60, saturation: 0.2, lightness: 0.6, reach: 1, pinned: false };
  const { film } = base.weigh;
  const areaWeights = { by: "weights", red: 1, green: 0, blue: 0, film } as const;
  return {
    ...base,
    ground: {
      ...base.ground,
      angleDegrees: 2,
      calm: 0.4,
      clean: [
        {
          id: "d",
          kind: "heal",
          on: true,
          points: [[0.3, 0.2]],
          radius: 0.02,
          softness: 0.4,
          sourceX: 0.1,
          sourceY: 0,
        },
      ],
    },
    weigh: {
      ...base.weigh,
      families: [{ ...family, stops: 0 }],
      areas: [{ ...areaWeights, id: "s", name: "sky", on: true, invert: false, shape: { ...ellipse, y: 0.1 } }],
    },
    shape: { ...base.shape, localContrast: { low: 0.2, mid: 0.5, high: 0.1 }, ...more },
    light: {
      groups: [],
      contours: [],
      moves: [
        { id: "a", name: "a", on: true, stops: 0.5, amountPercent: 100, invert: false, ...plainMove(), shape: ellipse },
      ],
    },
  };
}

const AFTER_AREAS = ["guidedLine", "detailByTone", "develop", "encodeRgba8"];

/** Counts how often each kernel is called while `work` runs. */
function countCalls(work: () => void): Record<string, number> {
  const counts: Record<string, number> = {};
  const real = heap.kernels;
  const counted = Object.fromEntries(
    Object.entries(real).map(([name, kernel]) => [
      name,
      (...args: number[]) => {
        counts[name] = (counts[name] ?? 0) + 1;
        return (kernel as (...a: number[]) => void)(...args);
      },
    ]),
  );
  Object.defineProperty(heap, "kernels", { value: counted, configurable: true });
  try {
    work();
  } finally {
    Object.defineProperty(heap, "kernels", { value: real, configurable: true });
  }
  return counts;
}

describe("what runs again after a change", () => {
  const base = busyRecipe();
  const changed = {
    nothing: base,
    "a curve point": { ...base, shape: { ...base.shape, grade: 3 } },
    "a move's stops": { ...base, light: { groups: [], contours: [], moves: [{ ...base.light.moves[0], stops: -1 }] } },
    "a move's shape": {
      ...base,
      light: {
        groups: [],
        contours: [],
        moves: [{ ...base.light.moves[0], shape: { ...base.light.moves[0].shape, x: 0.6 } as never }],
      },
    },
    "local contrast": { ...base, shape: { ...base.shape, localContrast: { low: 0, mid: 1, high: 0 } } },
    "a weight": { ...base, weigh: { ...base.weigh, red: 0.6 } },
    "a family's stops": { ...base, weigh: { ...base.weigh, families: [{ ...base.weigh.families[0], stops: 1 }] } },
    "an area's weights": { ...base, weigh: { ...base.weigh, areas: [{ ...base.weigh.areas[0], blue: 0.5 }] } },
    "an area switched off": { ...base, weigh: { ...base.weigh, areas: [{ ...base.weigh.areas[0], on: false }] } },
    grain: { ...base, finish: { ...base.finish, grain: { ...base.finish.grain, granularity: 9 } } },
  };
  const runs = (recipe: Recipe) => {
    const engine = new Engine(heap, tiles);
    engine.renderRgba(engine.prepare(base), VIEW);
    const calls = countCalls(() => engine.renderRgba(engine.prepare(recipe), VIEW));
    return [
      "weighHalf",
      "gatherVotes",
      "weighByField",
      "sampleAffine",
      "mixByMask",
      "guidedLine",
      "detailByTone",
      "drawEllipse",
      "addScaled",
      "develop",
      "encodeRgba8",
    ].filter((name) => calls[name]);
  };
  test.each([
    ["nothing", ["develop", "encodeRgba8"]],
    ["a curve point", ["develop", "encodeRgba8"]],
    ["grain", ["develop", "encodeRgba8"]],
    ["a move's stops", ["addScaled", "develop", "encodeRgba8"]],
    ["a move's shape", ["drawEllipse", "addScaled", "develop", "encodeRgba8"]],
    ["local contrast", ["detailByTone", "develop", "encodeRgba8"]],
    ["a weight", ["weighHalf", "sampleAffine", "mixByMask", ...AFTER_AREAS]],
    ["a family's stops", ["gatherVotes", "weighByField", "sampleAffine", "mixByMask", ...AFTER_AREAS]],
    ["an area's weights", ["weighHalf", "sampleAffine", "mixByMask", ...AFTER_AREAS]],
    ["an area switched off", AFTER_AREAS],
  ] as const)("%s: %j", (name, expected) => {
    expect(runs(changed[name])).toEqual(expected);
  });
});

describe("moves are summed on coarser grids, and from what was summed before", () => {
  const base = defaultRecipe();
  const ground = { ...base.ground, angleDegrees: 1.5 };
  const stroke = (id: string, softness: number, points: [number, number, number][], erase = false) => ({ id, radius: 0.09, softness, flow: 0.6, erase, points }); // prettier-ignore
  const move = (id: string, stops: number, shape: Recipe["light"]["moves"][number]["shape"], invert = false) => ({ id, name: id, on: true, stops, amountPercent: 100, invert, ...plainMove(), shape }); // prettier-ignore
  const line = (n: number): [number, number, number][] => Array.from({ length: n }, (_, i) => [0.2 + 0.05 * i, 0.3 + 0.02 * i, 1]); // prettier-ignore
  const brush = (...strokes: ReturnType<typeof stroke>[]) => ({ kind: "brush" as const, strokes });
  const ellipse = {
    kind: "ellipse",
    x: 0.4,
    y: 0.3,
    radiusX: 0.3,
    radiusY: 0.2,
    angleDegrees: 20,
    softness: 1,
  } as const;
  const soft = stroke("s", 1, line(4));
  const hard = stroke("h", 0.2, [[0.6, 0.2, 1], [0.7, 0.4, 0.4]]); // prettier-ignore
  const moves = (last: ReturnType<typeof stroke>[], stops: number) => [
    move("a", 0.7, brush(soft, hard)),
    move("b", -0.4, brush(soft, ...last)),
    move("c", stops, ellipse, true),
    move("d", 0.3, { kind: "ramp", x: 0.5, y: 0.2, angleDegrees: 80, reach: 0.3, sides: "one" }),
  ];
  const recipeOf = (list: ReturnType<typeof moves>): Recipe => ({
    ...base, ground, light: { groups: [], contours: [], moves: list }, finish: { ...base.finish, edgeBurn: { ...base.finish.edgeBurn, stops: -0.5, start: 0.4, roundness: 0.5 } },
  }); // prettier-ignore
  const light = (engine: Engine, recipe: Recipe) => engine.renderLight(engine.prepare(recipe), VIEW);

  test("stroke by stroke, point by point, stops there and back: to the bit what a cold engine gives", () => {
    const warm = new Engine(heap, tiles);
    const steps = [
      moves([], 0.2),
      ...[1, 2, 3, 5].map((n) => moves([stroke("n", 1, line(n))], 0.2)),
      moves([stroke("n", 1, line(5)), stroke("e", 0.6, line(3), true)], 0.2),
      moves([stroke("n", 1, line(5)), stroke("e", 0.6, line(3), true)], -0.9),
      moves([stroke("n", 1, line(5))], -0.9),
      moves([stroke("n", 1, line(5))], 0.2).slice(1),
    ];
    const seen = steps.map((step) => light(warm, recipeOf(step)));
    const coldly = steps.map((step) => light(new Engine(heap, tiles), recipeOf(step)));
    expect(coldly.map((plane, i) => Buffer.compare(bytesOf(plane), bytesOf(seen[i])))).toEqual(steps.map(() => 0));
    expect(Buffer.compare(bytesOf(seen[0]), bytesOf(seen[1]))).not.toBe(0);
  });

  test("what is drawn coarser lies within 0.01 stop of what is drawn finely", () => {
    const engine = new Engine(heap, tiles);
    const finer = { ...VIEW };
    const stops = (list: ReturnType<typeof moves>) => {
      const [with_, none] = [recipeOf(list), recipeOf([])].map((recipe) => engine.renderLight(engine.prepare({ ...recipe, finish: base.finish }), finer)); // prettier-ignore
      return with_.map((v, i) => Math.log2(v / none[i]));
    };
    // Beside a stroke that breaks off at once, a shape's mask is drawn on the picture's own pixels.
    const sharp = stroke("x", 0, [[0.95, 0.5, 1]]); // prettier-ignore
    const coarse = stops([move("a", 1, brush(soft))]);
    const fine = stops([move("a", 1, brush(soft, { ...sharp, radius: 0.001, flow: 0.005 }))]);
    const worst = coarse.reduce((most, v, i) => Math.max(most, Math.abs(v - fine[i])), 0);
    expect(worst).toBeLessThan(0.01);
    const formula = stops([move("c", 1, ellipse)]);
    const { toFlat } = engine.prepare(recipeOf([])).frame;
    const long = SIZE.width;
    let far = 0;
    for (let y = 0; y < VIEW.height; y += 7)
      for (let x = 0; x < VIEW.width; x += 7) {
        const px = (toFlat.ax * (x + 0.5) + toFlat.bx * (y + 0.5) + toFlat.cx) / long - ellipse.x;
        const py = (toFlat.ay * (x + 0.5) + toFlat.by * (y + 0.5) + toFlat.cy) / long - ellipse.y;
        const angle = (ellipse.angleDegrees * Math.PI) / 180;
        const u = (px * Math.cos(angle) + py * Math.sin(angle)) / ellipse.radiusX;
        const v = (py * Math.cos(angle) - px * Math.sin(angle)) / ellipse.radiusY;
        const t = Math.max(0, 1 - Math.hypot(u, v));
        far = Math.max(far, Math.abs(formula[y * VIEW.width + x] - t ** 3 * (t * (6 * t - 15) + 10)));
      }
    expect(far).toBeLessThan(0.004);
  });
});

test("what a stage reads changes with the fields it says, and with no others", () => {
  const engine = new Engine(heap, tiles, { ...PLAIN_FACTS, noise: { slope: 1e-5, offset: 1e-8 } });
  const busy = busyRecipe({
    detail: { fine: 0.2, middle: 0, broad: 0.1 },
    openShadows: 0.4,
    haze: 0.3,
    scatter: { glow: 0.2, reach: 0.02, softness: 0.1 },
    sharpening: { amount: 0.5, radius: 0.8, sparing: 0.5 },
  });
  const [even] = busy.light.moves;
  const base: Recipe = {
    ...busy,
    weigh: { ...busy.weigh, families: [{ ...busy.weigh.families[0], stops: 0.5 }] },
    finish: {
      ...busy.finish,
      halation: { amount: 0.3, radiusUm: 80 },
      oldGlass: { corners: 0.5, spread: 0.002, start: 0.3 },
    },
    light: {
      groups: [],
      contours: [],
      moves: [
        even,
        { ...even, id: "z", zones: { from: 3, to: 10 } },
        { ...even, id: "e", effects: { ...even.effects, local: 0.4, fine: 0.2, softness: 0.3, haze: 0.2 } },
      ],
    },
  };
  // What follows the picture's colours is made for prints of its own, of which there are as many as shapes.
  const stages = PIPELINE.filter(({ name }) => !name.startsWith("matte"));
  const read = (recipe: Recipe) => {
    const print = engine.prepare(recipe);
    return stages.map((stage) => {
      expect([stage.name, stage.isActive(print, 0)]).toEqual([stage.name, true]);
      return [stage.name, JSON.stringify(stage.reads(print, 0, TILE))] as const;
    });
  };
  const before = new Map(read(base));
  const changedBy = (change: Partial<Recipe>) =>
    read({ ...base, ...change })
      .filter(([name, reads]) => before.get(name) !== reads)
      .map(([name]) => name)
      .sort();
  const { ground, weigh, shape, light, finish } = base;
  expect(changedBy({})).toEqual([]);
  expect(changedBy({ finish: { ...finish, toning: { ...finish.toning, toner: "sepia", strength: 1 } } })).toEqual([]);
  // Which zone a tone is on follows from the curve; nothing else before the curve does.
  expect(changedBy({ shape: { ...shape, grade: 3, blackPoint: -6 } })).toEqual(["light-rich"]);
  expect(changedBy({ shape: { ...shape, localContrast: { ...shape.localContrast, mid: 1 } } })).toEqual(["local"]);
  expect(changedBy({ shape: { ...shape, haze: 0.5 } })).toEqual(["haze"]);
  expect(changedBy({ shape: { ...shape, openShadows: 0.5 } })).toEqual(["local"]);
  expect(changedBy({ shape: { ...shape, scatter: { ...shape.scatter, glow: 0.4 } } })).toEqual(["scatter"]);
  expect(
    changedBy({
      light: { groups: [], contours: [], moves: [{ ...light.moves[0], stops: 1 }, ...light.moves.slice(1)] },
    }),
  ).toEqual(["light"]);
  expect(
    changedBy({
      light: {
        groups: [],
        contours: [],
        moves: [{ ...light.moves[0], name: "another name" }, ...light.moves.slice(1)],
      },
    }),
  ).toEqual([]);
  expect(changedBy({ weigh: { ...weigh, red: 0.7 } })).toEqual(expect.arrayContaining(["field", "weigh"]));
  expect(changedBy({ weigh: { ...weigh, families: [{ ...weigh.families[0], stops: 1 }] } })).toEqual(["field"]);
  expect(changedBy({ weigh: { ...weigh, red: 0.7 } })).not.toContain("frame");
  // An area's weights come in by what it needs: a print of its own. What it reads itself is where it lies.
  expect(changedBy({ weigh: { ...weigh, areas: [{ ...weigh.areas[0], blue: 1 }] } })).toEqual([]);
  expect(changedBy({ weigh: { ...weigh, areas: [{ ...weigh.areas[0], invert: true }] } })).toEqual(["areas"]);
  expect(changedBy({ ground: { ...ground, calm: 0.9 } })).toEqual(["calm"]);
  expect(changedBy({ ground: { ...ground, clean: [{ ...ground.clean[0], softness: 0.9 }] } })).toEqual(["clean"]);
});

test("names of results do not collide", () => {
  const names = new Set<string>();
  for (let i = 0; i < 20_000; i++) names.add(hashOf(`[[${i}],"frame",${i % 7}]`));
  expect(names.size).toBe(20_000);
});

test("a stage that fails is named, nothing stays pinned, and the next picture is whole", () => {
  let broken = true;
  const failing: LinearTiles = {
    size: SIZE,
    tile(place) {
      if (broken && place.column === 1) throw new Error("the tile is damaged");
      return tiles.tile(place);
    },
  };
  const engine = new Engine(heap, failing);
  const recipe = busyRecipe();
  const mark = heap.mark();
  for (let i = 0; i < 40; i++) {
    let caught: unknown;
    try {
      engine.renderRgba(engine.prepare(recipe), VIEW);
    } catch (error) {
      caught = error;
    }
    expect(caught).toBeInstanceOf(StageError);
    expect((caught as StageError).message).toBe("The picture stopped at “weigh”: the tile is damaged");
  }
  expect(heap.mark()).toBe(mark);
  broken = false;
  const whole = engine.renderRgba(engine.prepare(recipe), VIEW);
  const fresh = new Engine(heap, tiles);
  expect(Buffer.compare(whole, fresh.renderRgba(fresh.prepare(recipe), VIEW))).toBe(0);
});

describe("slots", () => {
  test("with few of them the picture is the same, only slower", async () => {
    const small = await openHeap(16);
    const engine = new Engine(heap, tiles);
    const tight = new Engine(small, tiles);
    const recipe = busyRecipe();
    expect(
      Buffer.compare(tight.renderRgba(tight.prepare(recipe), VIEW), engine.renderRgba(engine.prepare(recipe), VIEW)),
    ).toBe(0);
  });
  test("the pinned stay, the cheap and old go first, and nothing is lost", async () => {
    const store = new SlotStore(await openHeap(4));
    const [a] = store.claim("a", 1, 100);
    store.claim("b", 1, 5);
    store.claim("c", 2, 50);
    for (const key of ["b", "c"]) store.unpin(key);
    store.claim("d", 1, 1);
    expect(["a", "b", "c", "d"].map((key) => store.has(key))).toEqual([true, false, true, true]);
    store.claim("e", 2, 1);
    expect(["a", "c", "d", "e"].map((key) => store.has(key))).toEqual([true, false, true, true]);
    expect(() => store.claim("f", 1, 1)).toThrow("more than 4 slots");
    expect(store.take("a")).toEqual([a]);
    store.drop("e");
    expect(store.claim("f", 2, 1)).toHaveLength(2);
  });
  test("what was taken over from goes before what is older", async () => {
    const store = new SlotStore(await openHeap(4));
    const put = (key: string, place: string) => {
      store.claim(key, 1, 10, place);
      store.unpin(key);
    };
    put("still", "one tile");
    for (const key of ["drag 1", "drag 2", "drag 3", "drag 4"]) put(key, "another tile");
    expect(["still", "drag 1", "drag 2", "drag 4"].map((key) => store.has(key))).toEqual([true, false, true, true]);
    // Used again, an earlier one is the latest.
    store.take("drag 2");
    store.unpin("drag 2");
    put("new", "a third tile");
    expect(["still", "drag 2", "drag 3", "new"].map((key) => store.has(key))).toEqual([true, true, false, true]);
    put("newer", "a fourth tile");
    put("newest", "a fifth tile");
    expect(["still", "drag 2", "drag 4", "newest"].map((key) => store.has(key))).toEqual([false, true, false, true]);
  });
  test("once warm, a drag takes no new memory in the heap", () => {
    const engine = new Engine(heap, tiles);
    const recipe = busyRecipe();
    const out = new Uint8Array(4 * VIEW.width * VIEW.height);
    const drag = (i: number) =>
      engine.renderRgba(engine.prepare({ ...recipe, shape: { ...recipe.shape, grade: 2 + 0.01 * i } }), VIEW, out);
    drag(0);
    const peak = heap.peakBytes;
    for (let i = 1; i < 12; i++) expect(drag(i)).toBe(out);
    expect(heap.peakBytes).toBe(peak);
  });
});

describe("local contrast", () => {
  const step = (x: number) => (x < 0.5 ? 0.06 : 0.36);
  const light = (recipe: Recipe, colour: (x: number, y: number) => number) => {
    const size = { width: 1200, height: 300 };
    const source = tilesOf(heap, size, (x, y) => new Array<number>(3).fill(colour(x, y)));
    const engine = new Engine(heap, source);
    return engine.renderLight(engine.prepare(recipe), { x: 0, y: 150, width: 1200, height: 1, scale: 1, level: 0 });
  };
  const withGain = (mid: number): Recipe => ({
    ...defaultRecipe(),
    shape: { ...defaultRecipe().shape, localContrast: { low: mid, mid, high: mid } },
  });

  test("a hard edge gets no halo worth the name: overshoot on both sides within 6 % of the step", () => {
    const found = light(withGain(0.5), step);
    const stops = Array.from(found, (e) => Math.log2(e));
    const height = Math.log2(0.36 / 0.06);
    expect((Math.max(...stops) - Math.log2(0.36)) / height).toBeLessThan(0.06);
    expect((Math.log2(0.06) - Math.min(...stops)) / height).toBeLessThan(0.06);
  });
  test("fine texture gains what was asked for", () => {
    const texture = (x: number) => 0.18 * 2 ** (0.15 * Math.sin(2 * Math.PI * 200 * x));
    const swing = (values: Float32Array) => {
      const stops = Array.from(values.subarray(300, 900), (e) => Math.log2(e));
      return Math.max(...stops) - Math.min(...stops);
    };
    const before = swing(light(defaultRecipe(), texture));
    expect(swing(light(withGain(1), texture)) / before).toBeGreaterThan(1.8);
    expect(swing(light(withGain(-1), texture)) / before).toBeLessThan(0.2);
  });
  test("flat light stays as it is", () => {
    const found = light(withGain(2), () => 0.2);
    for (const e of found) expect(Math.abs(e / 0.2 - 1)).toBeLessThan(2e-3);
  });
});
