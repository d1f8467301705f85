import { beforeAll, describe, expect, test } from "@jest/globals";
import { PLAIN_FACTS } from "../../parts/ground/facts.ts";
import { bytesOf, openHeap } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { plainMove } from "../../parts/light/schema.ts";
import { applyChanges } from "../../recipe/changes.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { fieldsOf, itemSchema, RECIPE_SCHEMA, type AnySchema, type Item } from "../../recipe/walk.ts";
import { newShape, SHAPE_NAMES } from "../../shapes/shapes.ts";
import { levelCount } from "../../tiles/tiles.ts";
import { ownLevel, type View } from "../../tiles/view.ts";
import { Engine } from "../engine.ts";
import { busyScene, tilesOf } from "./scene-tiles.ts";

const SIZE = { width: 530, height: 130 };
const FACTS = { ...PLAIN_FACTS, noise: { slope: 2e-6, offset: 1e-8 } };
let heap: KernelHeap;
let spare: KernelHeap;
let tiles: ReturnType<typeof tilesOf>;
beforeAll(async () => {
  heap = await openHeap(120);
  spare = await openHeap(120);
  tiles = tilesOf(heap, SIZE, busyScene);
});

/** Fields that only count where a move looks at the picture, and which of them. */
const RICH: readonly (readonly ["effects" | "pictured" | "finished", RegExp])[] = [
  ["finished", /^finish\/(halation|oldGlass|output|wear)\//],
  ["effects", /light\/groups|light\/moves\/m0\/(group|limits|effects)/],
  ["pictured", /light\/moves\/m[56]\/shape\/(runs|parts\/p1\/(how|invert))/],
];

/**
 * Everything is in use, every kind of shape in moves and areas.
 * @param rich - with moves that look at the picture, which take their time: by their effects and limits, or by their shapes.
 */
function fullRecipe(rich: "effects" | "pictured" | "finished" | "all" | "none" = "none"): Recipe {
  const base = defaultRecipe();
  const { by, red, green, blue, film } = base.weigh;
  const own = { name: "own", points: [[400, 0.2], [700, 0.9]] as [number, number][] }; // prettier-ignore
  return {
    ...base,
    ground: {
      ...base.ground,
      exposureEv: 0.2,
      angleDegrees: 1.5,
      crop: { centreX: 0.02, centreY: 0.01, width: 0.86, height: 0.74 },
      whiteBalance: { mode: "set", kelvin: 4300, tint: 5, follow: 0.8 },
      lens: { fallOffStops: 0.4, distortion: 0.02, keystoneVertical: 0.05, keystoneHorizontal: 0.02 },
      calm: 0.5,
      clean: [{ id: "d", kind: "heal", on: true, points: [[0.5, 0.4]], radius: 0.03, softness: 0.4, sourceX: 0.1, sourceY: 0.02 }], // prettier-ignore
    },
    weigh: {
      ...base.weigh,
      film: { ...film, ownFilm: own, ownFilter: own },
      families: [
        { id: "f", name: "warm", hueDegrees: 60, saturation: 0.2, lightness: 0.6, reach: 1, stops: 0.5, pinned: false },
        {
          id: "g",
          name: "cold",
          hueDegrees: 240,
          saturation: 0.2,
          lightness: 0.5,
          reach: 1,
          stops: -0.4,
          pinned: false,
        },
      ],
      areas: SHAPE_NAMES.slice(0, 2).map((kind, i) => ({
        id: `a${i}`, name: kind, on: true, invert: false, shape: newShape(kind, 0.3 + 0.2 * i, 0.4), by, red: red + 0.3, green, blue, film,
      })), // prettier-ignore
    },
    shape: {
      ...base.shape,
      blackPoint: -7,
      characteristic: "film",
      localContrast: { low: 0.2, mid: 0.5, high: -0.3 },
      curve: [[0, 0.02], [0.5, 0.55], [1, 1]], // prettier-ignore
      detail: { fine: 0.3, middle: -0.2, broad: 0.2 },
      openShadows: 0.6,
      holdHighlights: 0.4,
      haze: 0.3,
      scatter: { glow: 0.3, reach: 0.02, softness: 0.2 },
      sharpening: { amount: 0.6, radius: 0.7, sparing: 0.2 },
    },
    light: {
      contours: [],
      groups: [{ id: "g", name: "g", on: true, amountPercent: 90 }],
      moves: SHAPE_NAMES.map((kind, i) => ({
        id: `m${i}`, name: kind, on: true, stops: 0.7, amountPercent: 80, invert: i === 1, shape: newShape(kind, 0.6 - 0.1 * i, 0.35), ...plainMove(),
        zones: { from: i === 0 ? 3 : 0, to: 10 }, byZone: new Array<number>(11).fill(i === 3 ? 0.2 : 0),
        ...((rich === "effects" || rich === "all") && i === 0 && {
          group: "g",
          limits: { families: ["f"], edges: 0.4, follow: 0.5 },
          effects: { grade: 0.3, gradeZone: 4, open: 0.4, hold: 0.3, local: 0.5, fine: 0.3, softness: 0.4, haze: 0.2, tone: 0.4, grain: -0.3 },
        }),
      })).filter(({ shape }, i) => rich === "all" || (rich === "effects" ? i === 0 : rich === "pictured" ? i > 4 : rich === "finished" ? i === 0 : !PICTURED.includes(shape.kind))), // prettier-ignore
    },
    finish: {
      ...base.finish,
      grain: { granularity: 12, crystalUm: 8, format: "small", seed: 3 },
      toning: { ...base.finish.toning, toner: "sepia", strength: 0.6, balance: 0.1 },
      edgeBurn: { stops: -0.4, start: 0.4, roundness: 0.5, centreX: 0.3, centreY: 0.5 },
      ...((rich === "finished" || rich === "all") && {
        halation: { amount: 0.5, radiusUm: 120 },
        oldGlass: { corners: 0.6, spread: 0.003, start: 0.2 },
        output: { amount: 0.7, medium: "paper", paperCm: 6, viewingCm: 60 },
        wear: { fade: 0.1, edges: 0.5, yellow: 0.6 },
      }),
    },
  };
}

/** Shapes that are drawn with the picture's colours, or of several. */
const PICTURED: readonly string[] = ["region", "joined"];

/** Items of a list whose own fields are all changed; of later ones only those of their shapes, which are of other kinds. */
const WHOLE_ITEMS = 2;

/** Every field of a recipe that is one value, with another value for it. */
function otherValues(): [path: string, value: unknown][] {
  const found: [string, unknown][] = [];
  const isKnown = new Map<string, number>();
  const visit = (schema: AnySchema, value: unknown, path: string) => {
    const item = itemSchema(schema);
    if (item && Array.isArray(value)) {
      for (const one of value as Item[]) visit(item, one, `${path}/${one.id}`);
      return;
    }
    const fields = fieldsOf(schema, value);
    if (!fields) {
      const alike = path.replace(/\/(m|a)\d\//, "/*/");
      const times = isKnown.get(alike) ?? 0;
      isKnown.set(alike, times + 1);
      if (times < WHOLE_ITEMS || path.includes("/shape/")) found.push([path, otherValue(schema, value)]);
    } else
      for (const [name, field] of Object.entries(fields))
        if (!["id", "kind", "version"].includes(name))
          visit(field, (value as Record<string, unknown>)[name], path === "" ? name : `${path}/${name}`);
  };
  visit(RECIPE_SCHEMA, fullRecipe("all"), "");
  return found;
}

type Detail = AnySchema & { readonly enum?: readonly unknown[]; readonly minimum?: number; readonly maximum?: number };

function otherValue({ enum: words, minimum = 0, maximum = 1, type }: Detail, value: unknown): unknown {
  if (words) return words[(words.indexOf(value) + 1) % words.length];
  if (typeof value === "boolean") return !value;
  if (typeof value === "string") return `${value} again`;
  if (type === "integer") return value === minimum ? minimum + 1 : minimum;
  if (typeof value === "number") {
    const step = 0.04 * (maximum - minimum);
    return value + step <= maximum ? value + step : value - step;
  }
  if (value === null) return { centreX: 0, centreY: 0, width: 0.6, height: 0.5 };
  if (Array.isArray(value) && typeof value[0] === "string") return [];
  if (Array.isArray(value) && value.length === 0) return ["g"];
  if (Array.isArray(value) && typeof value[0] === "number") return value.map((v: number) => v + 0.3);
  if (Array.isArray(value)) return (value as number[][]).map((point, i) => (i === 1 || value.length === 1 ? [point[0] + 0.01, ...point.slice(1).map((v) => 0.9 * v)] : point)); // prettier-ignore
  return null;
}

const views = (recipe: Recipe, engine: Engine): View[] => {
  const { width, height } = engine.prepare(recipe).frame;
  return [
    { x: 0, y: 0, width, height, scale: 1, level: 0 },
    { x: 10, y: 20, width: 150, height: 100, scale: 0.4, level: ownLevel(0.4, levelCount(SIZE)) },
  ];
};
const render = (engine: Engine, recipe: Recipe) =>
  views(recipe, engine).map((view) => engine.renderRgba(engine.prepare(recipe), view).slice());

/** Whether two recipes' small views differ somewhere outside the part that is said to have changed. */
function hidden(engine: Engine, [before, old]: Shown, [after, next]: Shown): boolean {
  const [, view] = views(after, engine);
  const part = engine.changedPart(engine.prepare(before), engine.prepare(after), view);
  if (!Object.values(part).every((value) => Number.isInteger(value))) return true;
  for (let y = 0; y < view.height; y++)
    for (let x = 0; x < view.width; x++) {
      const [px, py] = [view.x + x, view.y + y];
      if (px >= part.x && px < part.x + part.width && py >= part.y && py < part.y + part.height) continue;
      const at = 4 * (y * view.width + x);
      if (old[at] !== next[at] || old[at + 1] !== next[at + 1] || old[at + 2] !== next[at + 2]) return true;
    }
  return false;
}
type Shown = readonly [recipe: Recipe, rgba: Uint8Array];

describe("a warm engine shows what a fresh one does, to the bit", () => {
  const plainBase = fullRecipe();
  const base = plainBase;
  test("after a change of any field", () => {
    const warm = new Engine(heap, tiles, FACTS);
    const plain = render(warm, base);
    const wrong: string[] = [];
    const hiding: string[] = [];
    const fields = otherValues();
    const bases = {
      effects: fullRecipe("effects"),
      pictured: fullRecipe("pictured"),
      finished: fullRecipe("finished"),
    };
    expect(fields.length).toBeGreaterThan(90);
    for (const [path, value] of fields) {
      // A film is of use only where it is in use.
      const [owner, inFilm] = path.split("/film/");
      const rich = RICH.find(([, fields]) => fields.test(path))?.[0];
      // What lies around the picture is no part of it.
      if (path.startsWith("finish/mount/")) continue;
      // A shape of the picture's colours takes long: what of it is geometry is changed with the other shapes.
      if (!rich && /light\/moves\/m[56]\/shape/.test(path)) continue;
      const base = rich ? bases[rich] : plainBase;
      const before = inFilm ? applyChanges(base, [{ op: "set", path: `${owner}/by`, value: "film" }]) : base;
      const changed = applyChanges(before, [{ op: "set", path, value }]);
      expect([path, changed]).not.toEqual([path, before]);
      const shown = inFilm || rich ? render(warm, before) : plain;
      const [warmly, freshly] = [render(warm, changed), render(new Engine(spare, tiles, FACTS), changed)];
      if (warmly.some((pixels, i) => !bytesOf(pixels).equals(bytesOf(freshly[i])))) wrong.push(path);
      if (hidden(warm, [before, shown[1]], [changed, warmly[1]])) hiding.push(path);
    }
    expect([wrong, hiding]).toEqual([[], []]);
  }, 300_000);

  test("as the crop's lower edge is pulled within a tile, with moves and areas in it", () => {
    const warm = new Engine(heap, tiles, FACTS);
    for (const height of [0.5, 0.62, 0.7, 0.55]) {
      const recipe = {
        ...base,
        ground: { ...base.ground, crop: { centreX: 0, centreY: height / 2 - 0.4, width: 0.8, height } },
      };
      const [warmly, freshly] = [render(warm, recipe), render(new Engine(spare, tiles, FACTS), recipe)];
      warmly.forEach((pixels, i) => expect(bytesOf(pixels).equals(bytesOf(freshly[i]))).toBe(true));
    }
  }, 60_000);
});

test("sixty-four moves and sixteen areas need no more slots than one of each", async () => {
  const base = fullRecipe();
  const [move] = base.light.moves;
  const [area] = base.weigh.areas;
  const recipe: Recipe = {
    ...base,
    weigh: { ...base.weigh, areas: Array.from({ length: 16 }, (_, i) => ({ ...area, id: `a${i}`, shape: newShape("ellipse", i / 16, 0.4) })) }, // prettier-ignore
    light: { groups: [], contours: [], moves: Array.from({ length: 64 }, (_, i) => ({ ...move, id: `m${i}`, shape: newShape("ellipse", i / 64, 0.4) })) }, // prettier-ignore
  };
  const few = new Engine(await openHeap(31), tiles, FACTS);
  const many = new Engine(spare, tiles, FACTS);
  expect(bytesOf(render(few, recipe)[1]).equals(bytesOf(render(many, recipe)[1]))).toBe(true);
}, 60_000);

test("one more mended place computes only the tiles it touches", async () => {
  const base = { ...fullRecipe(), weigh: defaultRecipe().weigh };
  const engine = new Engine(await openHeap(200), tiles, FACTS);
  render(engine, base);
  const counted = (recipe: Recipe) => engine.tilesFor(engine.prepare(recipe), views(recipe, engine)[0]).length;
  expect(counted(base)).toBe(0);
  const spot = { ...base.ground.clean[0], id: "e", points: [[0.05, 0.05]] as [number, number][], sourceX: 0.05 };
  const mended = counted({ ...base, ground: { ...base.ground, clean: [...base.ground.clean, spot] } });
  // Light that was weighed serves on: no tile of the negative is read.
  expect(mended).toBe(0);
  const reweighed = counted({ ...base, weigh: { ...base.weigh, red: 0.5 } });
  expect(reweighed).toBe(3);
});
