import { beforeAll, describe, expect, test } from "@jest/globals";
import { bytesOf, farthest, openHeap, seeded } from "../../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../../kernels/heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import { plainMove } from "../../light/schema.ts";
import type { CleanSpot } from "../schema.ts";
import type { Recipe } from "../../../recipe/schema.ts";
import { tilesOf } from "../../../render/__tests__/scene-tiles.ts";
import { Engine } from "../../../render/engine.ts";
import { frameOf, wholeCrop } from "../geometry.ts";
import { lensMap } from "../lens.ts";
import { withLens } from "../../../recipe/with-lens.ts";
import { membrane } from "../membrane.ts";

const SIZE = { width: 900, height: 600 };
let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(64);
});

function withGround(change: Partial<Recipe["ground"]>): Recipe {
  const recipe = defaultRecipe();
  return { ...recipe, ground: { ...recipe.ground, ...change } };
}

const LENS = { fallOffStops: 0, distortion: 0.08, keystoneVertical: 0.15, keystoneHorizontal: -0.07 };

describe("lens", () => {
  test("flat and negative are each other's inverse over the whole picture", () => {
    const map = lensMap(SIZE, LENS)!;
    for (let x = 0; x <= 900; x += 90)
      for (let y = 0; y <= 600; y += 60) {
        const [fx, fy] = map.toFlat(x, y);
        const [nx, ny] = map.toNegative(fx, fy);
        expect(Math.hypot(nx - x, ny - y)).toBeLessThan(1e-6);
      }
    expect(lensMap(SIZE, { ...LENS, distortion: 0, keystoneVertical: 0, keystoneHorizontal: 0 })).toBeNull();
  });

  test("what the frame shows is the negative at the mapped place, at every level, and nothing from outside", () => {
    // Light that says where it comes from.
    const tiles = tilesOf(heap, SIZE, (x, y) => [0.2 + 0.5 * x, 0.2 + 0.5 * y, 0.3]);
    const engine = new Engine(heap, tiles);
    const recipe = withGround({ lens: LENS, angleDegrees: 3 });
    const print = engine.prepare(recipe);
    const { frame } = print;
    expect(frame.width).toBeLessThan(900);
    for (const level of [0, 1]) {
      const scale = 1 / 2 ** level;
      const width = Math.ceil(frame.width * scale);
      const height = Math.ceil(frame.height * scale);
      const [red, green] = engine.renderWorking(print, { x: 0, y: 0, width, height, scale, level });
      let worst = 0;
      for (let y = 2; y < height - 2; y += 7)
        for (let x = 2; x < width - 2; x += 7) {
          const [fx, fy] = [(x + 0.5) / scale, (y + 0.5) / scale];
          const m = frame.toFlat;
          const flat = [m.ax * fx + m.bx * fy + m.cx, m.ay * fx + m.by * fy + m.cy] as const;
          const [nx, ny] = frame.lens!.toNegative(...flat);
          if (!(nx > -1 && ny > -1 && nx < 901 && ny < 601)) expect([x, y]).toBe(null);
          worst = Math.max(worst, Math.abs(red[y * width + x] - 0.2 - (0.5 * nx) / 900));
          worst = Math.max(worst, Math.abs(green[y * width + x] - 0.2 - (0.5 * ny) / 900));
        }
      expect(worst).toBeLessThan(1.5e-3);
    }
  });

  test("light moves stay on what they were drawn on when the lens is corrected later", () => {
    const recipe = defaultRecipe();
    const drawn: Recipe = {
      ...recipe,
      light: { groups: [], contours: [], moves: [{
        id: "a", name: "a", on: true, stops: 1, amountPercent: 100, invert: false, ...plainMove(),
        shape: { kind: "ellipse", x: 0.8, y: 0.55, radiusX: 0.1, radiusY: 0.1, angleDegrees: 0, softness: 1 },
      }] },
    }; // prettier-ignore
    const corrected = withLens(drawn, SIZE, LENS);
    const { x, y } = corrected.light.moves[0].shape as { x: number; y: number };
    const [nx, ny] = lensMap(SIZE, LENS)!.toNegative(x * 900, y * 900);
    expect([nx / 900, ny / 900].map((v) => Number(v.toFixed(6)))).toEqual([0.8, 0.55]);
    const back = withLens(corrected, SIZE, recipe.ground.lens);
    expect((back.light.moves[0].shape as { x: number }).x).toBeCloseTo(0.8, 6);
  });

  test("fall-off given back makes an evenly lit wall even", () => {
    const edge = 900;
    const radius = Math.hypot(900, 600) / 2 / edge;
    const wall = (x: number, y: number) => {
      const r2 = ((x - 0.5) ** 2 + (y - 1 / 3) ** 2) / radius ** 2;
      return new Array<number>(3).fill(0.3 * 2 ** (-1.2 * r2));
    };
    const engine = new Engine(heap, tilesOf(heap, SIZE, wall));
    const lens = { ...defaultRecipe().ground.lens, fallOffStops: 1.2 };
    for (const level of [0, 1]) {
      const scale = 1 / 2 ** level;
      const print = engine.prepare(withGround({ lens }));
      const light = engine.renderLight(print, { x: 0, y: 0, width: 900 * scale, height: 600 * scale, scale, level });
      const [least, most] = [light.reduce((a, b) => Math.min(a, b)), light.reduce((a, b) => Math.max(a, b))];
      expect(most / least).toBeLessThan(1.01);
    }
  });

  test("without corrections the whole crop is the whole picture", () => {
    const { ground } = defaultRecipe();
    expect(wholeCrop(SIZE, ground)).toEqual({ centreX: 0, centreY: 0, width: 1, height: 2 / 3 });
    expect(frameOf(SIZE, ground).identity).toBe(true);
  });
});

describe("clean", () => {
  const spot = (change: Partial<CleanSpot>): CleanSpot => ({
    id: "s", kind: "heal", on: true, points: [[0.4, 0.3]], radius: 0.02, softness: 0.3, sourceX: 0.1, sourceY: 0.02, ...change,
  }); // prettier-ignore
  const texture = (x: number, y: number) => 0.02 * Math.sin(300 * x) * Math.sin(280 * y);
  const sky = (x: number, y: number) => 0.2 + 0.4 * x + 0.2 * y;
  const dusty = (x: number, y: number) => {
    const dark = Math.hypot(x - 0.4, y - 0.3) < 0.012 ? 0.5 : 1;
    return new Array<number>(3).fill((sky(x, y) + texture(x, y)) * dark);
  };

  test("a heal takes away the dust and meets the gradient around it, at every level", () => {
    const engine = new Engine(heap, tilesOf(heap, SIZE, dusty));
    for (const level of [0, 1]) {
      const scale = 1 / 2 ** level;
      const view = { x: 330 * scale, y: 240 * scale, width: 60 * scale, height: 60 * scale, scale, level };
      const light = engine.renderLight(engine.prepare(withGround({ clean: [spot({})] })), view);
      const before = engine.renderLight(engine.prepare(withGround({})), view);
      let worst = 0;
      let dust = 0;
      for (let y = 0; y < view.height; y++)
        for (let x = 0; x < view.width; x++) {
          const truth = sky((330 + (x + 0.5) / scale) / 900, (240 + (y + 0.5) / scale) / 900);
          worst = Math.max(worst, Math.abs(light[y * view.width + x] - truth));
          dust = Math.max(dust, Math.abs(before[y * view.width + x] - truth));
        }
      expect(dust).toBeGreaterThan(0.15);
      // The texture of the source, and no more.
      expect(worst).toBeLessThan(0.045);
    }
  });

  test("a heal is the same whatever the weights come before: mending light is mending colours", () => {
    const colours = (x: number, y: number) => {
      const [v] = dusty(x, y);
      return [v * 1.2, v * (0.6 + 0.5 * x), v * 0.5];
    };
    const engine = new Engine(heap, tilesOf(heap, SIZE, colours));
    const base = withGround({ clean: [spot({})] });
    const recipe = { ...base, weigh: { ...base.weigh, red: 1.4, green: -0.6, blue: 0.2 } };
    const print = engine.prepare(recipe);
    const view = { x: 330, y: 240, width: 60, height: 60, scale: 1, level: 0 };
    const grey = engine.renderLight(print, view);
    const [r, g, b] = engine.renderWorking(print, view);
    expect(farthest(grey.length, (i) => grey[i] - (1.4 * r[i] - 0.6 * g[i] + 0.2 * b[i]))).toBeLessThan(2e-3);
  });

  test("a clone copies its source pixel by pixel; a spot switched off does nothing; strokes work across tiles", () => {
    const random = seeded(4);
    const grain = Array.from({ length: 900 * 600 }, () => random());
    const noise = (x: number, y: number) =>
      new Array<number>(3).fill(0.1 + 0.5 * grain[Math.floor(y * 900) * 900 + Math.floor(x * 900)]);
    const engine = new Engine(heap, tilesOf(heap, SIZE, noise));
    const stroke = spot({ kind: "clone", points: [[0.52, 0.2], [0.62, 0.25]], softness: 0, sourceX: -0.2, sourceY: 0.1 }); // prettier-ignore
    const view = { x: 0, y: 0, width: 900, height: 600, scale: 1, level: 0 };
    const plain = engine.renderLight(engine.prepare(withGround({})), view).slice();
    const cloned = engine.renderLight(engine.prepare(withGround({ clean: [stroke] })), view);
    for (const [x, y] of [
      [470, 181],
      [511, 200],
      [512, 201],
      [540, 217],
    ])
      // prettier-ignore
      expect(cloned[y * 900 + x]).toBeCloseTo(plain[(y + 90) * 900 + x - 180], 5);
    expect(cloned[400 * 900 + 100]).toBe(plain[400 * 900 + 100]);
    const off = engine.renderLight(engine.prepare(withGround({ clean: [{ ...stroke, on: false }] })), view);
    expect(bytesOf(off).equals(bytesOf(plain))).toBe(true);
  });

  test("the membrane of a plane is the plane", () => {
    const plane = (x: number, y: number) => 0.3 + 0.01 * x - 0.02 * y;
    const area = { x: 10, y: 20, width: 50, height: 40 };
    const surface = membrane(area, plane, (x, y) => Math.hypot(x - 35, y - 40) < 15);
    for (const [x, y] of [[35, 40], [28, 33], [44, 47]]) expect(surface(x, y)).toBeCloseTo(plane(x, y), 3); // prettier-ignore
  });
});
