import { beforeAll, describe, expect, test } from "@jest/globals";
import { SRGB_TRANSFER } from "../../colour/transfer.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { openHeap } from "../../kernels/__tests__/open-heap.ts";
import { move } from "../../parts/light/__tests__/a-move.ts";
import { plainMove } from "../../parts/light/schema.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { Engine } from "../engine.ts";
import { tilesOf } from "./scene-tiles.ts";

const SIZE = { width: 1536, height: 192 };
/** The ramp goes over this part of the picture, so that no border of it counts. */
const [FROM, TO] = [0.06, 0.94];
/** From this stop below Zone V to that above. */
const [DARKEST, LIGHTEST] = [-3, 1.5];
let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(200);
});

/** A ramp of light in 16-bit steps, a little warm. */
function ramp(): Engine {
  const step = (v: number) => Math.round(65535 * v) / 65535;
  const tiles = tilesOf(heap, SIZE, (x) => {
    const light = 0.18 * 2 ** (DARKEST + (LIGHTEST - DARKEST) * x);
    return [step(1.12 * light), step(light), step(0.86 * light)];
  });
  return new Engine(heap, tiles);
}

const base = defaultRecipe();
const shape = (change: Partial<Recipe["shape"]>): Partial<Recipe> => ({ shape: { ...base.shape, ...change } });
const finish = (change: Partial<Recipe["finish"]>): Partial<Recipe> => ({ finish: { ...base.finish, ...change } });
const family = { id: "f", name: "f", hueDegrees: 40, saturation: 0.1, lightness: 0.5, reach: 1, stops: 0.7, pinned: false }; // prettier-ignore
const everything: Partial<Recipe> = {
  ground: { ...base.ground, exposureEv: 0.3, angleDegrees: 0.7 },
  weigh: { ...base.weigh, by: "film", film: { ...base.weigh.film, filter: "orange" }, families: [family] },
  ...shape({
    grade: 2.6,
    characteristic: "film",
    localContrast: { low: 0.4, mid: 0.6, high: 0.3 },
    detail: { fine: 0.3, middle: 0.3, broad: 0.2 },
    openShadows: 0.5,
    holdHighlights: 0.4,
    haze: 0.2,
    scatter: { glow: 0.3, reach: 0.02, softness: 0.2 },
    sharpening: { amount: 0.5, radius: 0.7, sparing: 0.2 },
    curve: [[0, 0.02], [0.5, 0.53], [1, 1]], // prettier-ignore
  }),
  light: {
    ...base.light,
    moves: [
      move({ id: "a", stops: 0.3, shape: { kind: "ramp", x: 0.5, y: 0.05, angleDegrees: 10, reach: 0.6, sides: "two" } }),
      move({ id: "b", stops: 0, curve: [[0, 0.02], [0.4, 0.36], [1, 1]], effects: { ...plainMove().effects, grade: 0.2, open: 0.3 } }),
    ], // prettier-ignore
  },
  ...finish({
    toning: { ...base.finish.toning, toner: "selenium", strength: 0.5 },
    edgeBurn: { ...base.finish.edgeBurn, stops: -0.4 },
  }),
};

const recipes: Record<string, Partial<Recipe>> = {
  nothing: {},
  "weights and a family": { weigh: { ...base.weigh, red: 0.6, green: 0.5, blue: -0.1, families: [family] } },
  "points, grade, film and curve": shape({ blackPoint: -7, grade: 3, characteristic: "film", curve: [[0, 0.03], [0.4, 0.33], [1, 1]] }), // prettier-ignore
  "opened and held": shape({ openShadows: 1, holdHighlights: 1 }),
  "contrast in space": shape({ localContrast: { low: 1, mid: 1, high: 1 }, detail: { fine: 0.6, middle: 0.5, broad: 0.5 } }), // prettier-ignore
  "haze, glow, sharpening": shape({ haze: 0.5, scatter: { glow: 0.5, reach: 0.03, softness: 0.4 }, sharpening: { amount: 1, radius: 0.7, sparing: 0 } }), // prettier-ignore
  "everything together": everything,
};

describe.each(Object.entries(recipes))("a ramp of 16 bits through %s", (_name, change) => {
  const recipe = { ...base, ...change };
  let codes: Float64Array;
  let means: Float64Array;
  beforeAll(() => {
    const engine = ramp();
    const print = engine.prepare(recipe);
    // A frame that is turned is a little smaller than the negative.
    const view = { x: 0, y: 0, width: print.frame.width, height: print.frame.height, scale: 1, level: 0 };
    const middle = Math.floor(view.height / 2);
    const line = { ...view, y: middle, height: 1 };
    codes = Float64Array.from(engine.renderReflectance(print, line), (r) => 255 * SRGB_TRANSFER.encode(Math.min(1, r)));
    const rows = { ...view, y: middle - 32, height: 64 };
    const rgba = engine.renderRgba(print, rows);
    means = Float64Array.from({ length: view.width }, (_, x) => {
      let sum = 0;
      for (let y = 0; y < rows.height; y++) {
        const at = 4 * (y * view.width + x);
        sum += 0.2126 * rgba[at] + 0.7152 * rgba[at + 1] + 0.0722 * rgba[at + 2];
      }
      return sum / rows.height;
    });
  });
  const inside = <T>(values: ArrayLike<T>): T[] => Array.from(values).slice(Math.floor(FROM * values.length), Math.ceil(TO * values.length)); // prettier-ignore

  test("makes no step over a code and a half, and never goes back", () => {
    const line = inside(codes);
    const steps = line.slice(1).map((code, i) => code - line[i]);
    expect(Math.max(...steps)).toBeLessThan(1.5);
    expect(Math.min(...steps)).toBeGreaterThan(-0.05);
    expect(line.at(-1)! - line[0]).toBeGreaterThan(60);
  });

  test("is dithered, so that no code stands as a band", () => {
    const line = inside(means);
    // Beside the ramp without dither a mean over 64 rows is off by the dither's own noise only, however far it lies from a whole code.
    const trend = (i: number) => line.slice(i - 6, i + 7).reduce((sum, v) => sum + v, 0) / 13;
    const off = line.map((mean, i) => (i < 6 || i >= line.length - 6 ? 0 : mean - trend(i)));
    expect(Math.sqrt(off.reduce((sum, v) => sum + v * v, 0) / off.length)).toBeLessThan(0.15);
    // Where it rises, means rise too: never do more than three columns stand on the same whole code exactly.
    let [run, longest] = [1, 1];
    for (let i = 1; i < line.length; i++) {
      run = line[i] === line[i - 1] ? run + 1 : 1;
      longest = Math.max(longest, run);
    }
    expect(longest).toBeLessThanOrEqual(3);
  });
});
