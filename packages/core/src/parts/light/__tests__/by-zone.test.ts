import { beforeAll, describe, expect, test } from "@jest/globals";
import { lightToStops, printZone, stopsToLight } from "../../../colour/stops.ts";
import type { KernelHeap } from "../../../kernels/heap.ts";
import { openHeap, seeded } from "../../../kernels/__tests__/open-heap.ts";
import { lightQuestions } from "../../../questions/light.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import type { Recipe } from "../../../recipe/schema.ts";
import { tilesOf } from "../../../render/__tests__/scene-tiles.ts";
import { Engine } from "../../../render/engine.ts";
import { outline } from "../../../shapes/outline.ts";
import { toneCurve } from "../../shape/tone-curve.ts";
import type { LightMove } from "../schema.ts";
import { move } from "./a-move.ts";
import { stopsOnZone } from "../tone-table.ts";

const SIZE = { width: 900, height: 300 };
const WHOLE = { x: 0, y: 0, ...SIZE, scale: 1, level: 0 };
let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(96);
});

const recipeWith = (moves: LightMove[]): Recipe => ({ ...defaultRecipe(), light: { groups: [], contours: [], moves } });

describe("moves by zone", () => {
  // Steps of a whole zone, wide enough that their base is their own.
  const stepped = (x: number) => {
    const zone = 0.5 + Math.min(8, Math.floor(9 * x));
    return ((10 * zone + 16) / 116) ** 3;
  };
  const engine = () =>
    new Engine(
      heap,
      tilesOf(heap, SIZE, (x) => new Array<number>(3).fill(stepped(x))),
    );
  const lifts = (one: Engine, moves: LightMove[]) => {
    const [plain, moved] = [[], moves].map((list) => one.renderLight(one.prepare(recipeWith(list)), { ...WHOLE, y: 150, height: 1 })); // prettier-ignore
    return Array.from(moved, (v, x) => lightToStops(v) - lightToStops(plain[x]));
  };
  const inStep = (k: number) => Math.round((100 * k + 50) * (SIZE.width / 900));

  test("lift and burn each zone by what is said of it, also outside of a shape and at another amount", () => {
    const random = seeded(4);
    const one = engine();
    const byZone = Array.from({ length: 11 }, () => 2 * random() - 1);
    for (const change of [
      { byZone, stops: 0 },
      { byZone, stops: 0.5, amountPercent: 50 },
      { zones: { from: 3, to: 5 }, stops: -1 },
      { zones: { from: 4, to: 10 }, byZone, stops: 0.7 },
    ]) {
      const all = move(change);
      const found = lifts(one, [all]);
      for (let k = 0; k < 9; k++) {
        const light = stepped((inStep(k) + 0.5) / 900);
        const zone = printZone(toneCurve(defaultRecipe().shape)(light));
        const wanted = (stopsOnZone(all, zone) * all.amountPercent) / 100;
        expect([k, Math.abs(found[inStep(k)] - wanted) < 0.02]).toEqual([k, true]);
      }
    }
    const ellipse = { kind: "ellipse", x: 0.2, y: 0.15, radiusX: 0.05, radiusY: 0.05, angleDegrees: 0, softness: 0.1 } as const; // prettier-ignore
    const outside = lifts(one, [move({ byZone, stops: 0, invert: true, shape: ellipse })]);
    expect(Math.abs(outside[180])).toBeLessThan(0.01);
    expect(Math.abs(outside[inStep(6)])).toBeGreaterThan(0.02);
  });
  test("add up with others to within a hundredth of a stop", () => {
    const one = engine();
    const [a, b] = [move({ id: "a", zones: { from: 2, to: 6 } }), move({ id: "b", stops: -0.4 })];
    const [both, first, second] = [[a, b], [a], [b]].map((moves) => lifts(one, moves));
    for (let x = 0; x < SIZE.width; x++) expect(Math.abs(both[x] - first[x] - second[x])).toBeLessThan(0.01);
  });
  test("texture in a zone keeps its contrast", () => {
    const texture = (x: number) => stopsToLight(-1 + 0.25 * Math.sin(2 * Math.PI * 150 * x));
    const one = new Engine(
      heap,
      tilesOf(heap, SIZE, (x) => new Array<number>(3).fill(texture(x))),
    );
    const spread = (list: LightMove[]) => {
      const row = one.renderLight(one.prepare(recipeWith(list)), { ...WHOLE, x: 200, width: 500, y: 150, height: 1 });
      const stops = Array.from(row, lightToStops);
      return Math.max(...stops) - Math.min(...stops);
    };
    const byZone = [0, 0, 0, 0, 1, -1, 0, 0, 0, 0, 0];
    expect(Math.abs(spread([move({ stops: 0, byZone })]) / spread([]) - 1)).toBeLessThan(0.25);
  });
  test("the zones inside a shape are told with their shares", async () => {
    const tiles = tilesOf(heap, SIZE, (x) => new Array<number>(3).fill(stepped(x)));
    const reader = {
      engine: new Engine(heap, tiles),
      size: SIZE,
      capture: {} as never,
      fetch: () => Promise.resolve(),
    };
    const box = { kind: "outline", spread: 0.001, points: [[0, 0], [3 / 9, 0], [3 / 9, 1 / 3], [0, 1 / 3]] } as const; // prettier-ignore
    const shape = structuredClone(box) as unknown as LightMove["shape"];
    const shares = await lightQuestions.zonesInside(reader, { recipe: recipeWith([move({ shape })]), moveId: "m" });
    // Zones 0½, I½ and II½ fall to one side or the other.
    expect(shares!.slice(4).every((share) => share < 0.01)).toBe(true);
    expect(shares!.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 6);
    expect(await lightQuestions.zonesInside(reader, { recipe: recipeWith([]), moveId: "m" })).toBeNull();
  });
});

describe("outline", () => {
  const grid = { width: 512, height: 512, toFlat: { ax: 1 / 512, bx: 0, cx: 0, ay: 0, by: 1 / 512, cy: 0 } };
  const drawn = (points: [number, number][], spread: number) => {
    const out = heap.allocate(4 * 512 * 512);
    outline.draw(heap, { kind: "outline", points, spread }, grid, out);
    return heap.floats(out, 512 * 512).slice();
  };
  const sum = (mask: Float32Array) => mask.reduce((total, v) => total + v, 0) / 512 ** 2;
  test("covers the area of its polygon, soft or hard, and fades by a smooth step over its spread", () => {
    const random = seeded(9);
    for (const spread of [0.002, 0.02, 0.06]) {
      const points = Array.from({ length: 9 }, (_, i): [number, number] => {
        const [angle, radius] = [(i / 9) * 2 * Math.PI, 0.22 + 0.1 * random()];
        return [0.5 + radius * Math.cos(angle), 0.5 + radius * Math.sin(angle)];
      });
      const area = points.reduce((total, [ax, ay], i) => {
        const [bx, by] = points[(i + 1) % 9];
        return total + (ax * by - bx * ay) / 2;
      }, 0);
      expect(Math.abs(sum(drawn(points, spread)) / area - 1)).toBeLessThan(0.01);
    }
    const square: [number, number][] = [[0.2, 0.2], [0.8, 0.2], [0.8, 0.8], [0.2, 0.8]]; // prettier-ignore
    const mask = drawn(square, 0.1);
    for (const [d, wanted] of [
      [-0.06, 0],
      [-0.025, 0.15625],
      [0, 0.5],
      [0.025, 0.84375],
      [0.06, 1],
    ] as const)
      // prettier-ignore
      expect(mask[256 * 512 + Math.round((0.2 + d) * 512 - 0.0)]).toBeCloseTo(wanted, 1);
  });
  test("a line that crosses itself is inside by turns; too few corners are nothing", () => {
    const bow = drawn([[0.2, 0.2], [0.8, 0.8], [0.8, 0.2], [0.2, 0.8]], 0.01); // prettier-ignore
    const at = (x: number, y: number) => bow[Math.round(y * 512) * 512 + Math.round(x * 512)];
    expect([at(0.3, 0.5), at(0.7, 0.5), at(0.5, 0.3), at(0.5, 0.7)].map(Math.round)).toEqual([1, 1, 0, 0]);
    expect(sum(drawn([[0.1, 0.1], [0.9, 0.9]], 0.02))).toBe(0); // prettier-ignore
  });
});
