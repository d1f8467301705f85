import { beforeAll, expect, test } from "@jest/globals";
import type { KernelHeap } from "../../kernels/heap.ts";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import { move } from "../../parts/light/__tests__/a-move.ts";
import type { LightMove } from "../../parts/light/schema.ts";
import { copyParts } from "../../recipe/copied-parts.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { tilesOf } from "../../render/__tests__/scene-tiles.ts";
import { Engine } from "../../render/engine.ts";
import { regionCells, type RegionShape } from "../../shapes/region.ts";
import type { MaskShape } from "../../shapes/shapes.ts";
import { QUESTIONS } from "../questions.ts";
import type { PictureReader } from "../reader.ts";
import { refitWish } from "../refit.ts";

const LYING = { width: 900, height: 600 };
const STANDING = { width: 600, height: 900 };
let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(120);
});

interface Disc {
  readonly x: number;
  readonly y: number;
  readonly radius: number;
}

/** A red disc on a meadow, and a blue one when there is any; places in long edges. */
function pictureOf(size: typeof LYING, red: Disc, blue?: Disc): PictureReader {
  const random = seeded(size.width);
  const rough = Float32Array.from({ length: 4096 }, () => 1 + 0.1 * (random() - 0.5));
  const edge = Math.max(size.width, size.height);
  const isIn = (x: number, y: number, disc?: Disc) => disc && Math.hypot(x - disc.x, y - disc.y) < disc.radius;
  const tiles = tilesOf(heap, size, (x, y) => {
    const grain = rough[(Math.floor(x * edge) * 31 + Math.floor(y * edge) * 57) & 4095];
    const colour = isIn(x, y, red) ? [0.3, 0.06, 0.05] : isIn(x, y, blue) ? [0.04, 0.09, 0.3] : [0.09, 0.16, 0.05];
    return colour.map((c) => c * grain);
  });
  return { engine: new Engine(heap, tiles), size, capture: {} as never, fetch: () => Promise.resolve() };
}

const covered = (shape: RegionShape, { x, y, radius }: Disc) => {
  const k = Math.max(shape.width, shape.height);
  let [both, either] = [0, 0];
  regionCells(shape).forEach((cell, i) => {
    const [u, v] = [((i % shape.width) + 0.5) / k, (Math.floor(i / shape.width) + 0.5) / k];
    const truth = Math.hypot(u - x, v - y) < radius;
    if (cell && truth) both++;
    if (cell || truth) either++;
  });
  return both / either;
};

const near = (value: number) => expect.closeTo(value, 6) as unknown as number;
const withShapes = (recipe: Recipe, shapes: MaskShape[]): Recipe => ({
  ...recipe,
  light: { ...recipe.light, moves: shapes.map((shape, i) => move({ id: `m${i}`, shape })) },
});

test("a region is found anew in another picture, of another format too; what is not there lies where it lay", async () => {
  const [red, blue] = [{ x: 0.4, y: 0.3, radius: 0.12 }, { x: 0.8, y: 0.5, radius: 0.1 }]; // prettier-ignore
  const from = pictureOf(LYING, red, blue);
  const fresh = defaultRecipe();
  const clicked = async ({ x, y }: Disc) => {
    const seeds = [{ id: "s", inside: true, points: [[x, y] as [number, number]] }];
    return (await QUESTIONS.findRegion(from, { recipe: fresh, of: "strokes", seeds }))!;
  };
  const [first, second] = [await clicked(red), await clicked(blue)];
  expect(Math.min(covered(first, red), covered(second, blue))).toBeGreaterThan(0.9);
  const ramp: MaskShape = { kind: "ramp", x: 0.5, y: 0.2, angleDegrees: 90, reach: 0.2, sides: "one" };
  const held: MaskShape = {
    kind: "joined",
    parts: [
      { id: "p", how: "join", invert: false, shape: first },
      { id: "q", how: "subtract", invert: false, shape: ramp },
    ],
  };
  const source = withShapes(fresh, [first, ramp, held, second]);
  const laidOn = async (reader: PictureReader, own: Recipe, source: Recipe) => {
    const wish = refitWish(copyParts(source, own, ["moves"]), ["moves"], source, from.size)!;
    const { recipe, ...counts } = await QUESTIONS.refitted(reader, wish);
    return { shapes: recipe.light.moves.map(({ shape }: LightMove) => shape), counts };
  };

  // Elsewhere, larger, in an upright picture, which has nothing blue.
  const there = { x: 0.3, y: 0.48, radius: 0.16 };
  const { shapes, counts } = await laidOn(pictureOf(STANDING, there), fresh, source);
  expect(counts).toEqual({ found: 1, placed: 1 });
  const [region, along, joined, placed] = shapes;
  expect(covered(region as RegionShape, there)).toBeGreaterThan(0.9);
  // Thirty per cent down the one is thirty per cent down the other.
  expect(along).toMatchObject({ kind: "ramp", angleDegrees: 90, y: near(0.3), reach: near(0.3) });
  expect(joined.kind === "joined" && joined.parts.map(({ shape }) => shape)).toEqual([region, along]);
  // Four fifths along, three quarters down; a circle of another shape of print is an ellipse.
  const cells = regionCells(placed as RegionShape);
  const { width, height } = placed as RegionShape;
  expect(cells[Math.floor(0.75 * height) * width + Math.floor(0.8 * width)]).toBe(1);
  expect(cells.filter((cell) => cell === 1).length / cells.length).toBeCloseTo((Math.PI * 0.1 ** 2) / (1 * (2 / 3)), 2);

  // By the print, not the negative: cropped to its right half, the ramp lies as it lay in the print; and where it came from, as it is.
  const crop = { centreX: 0.75 - 0.5, centreY: 0, width: 0.5, height: 1 / 3 };
  const simple = withShapes(fresh, [ramp]);
  const cropped = await laidOn(from, { ...fresh, ground: { ...fresh.ground, crop } }, simple);
  expect(cropped.shapes).toMatchObject([{ y: near(1 / 6 + 0.3 / 3), reach: near(0.1) }]);
  expect((await laidOn(from, fresh, simple)).shapes).toEqual([ramp]);
});

test("without shapes among what is copied nothing has to be fitted", () => {
  const recipe = withShapes(defaultRecipe(), [{ kind: "whole" }]);
  expect(refitWish(recipe, ["points"], recipe, LYING)).toBeNull();
  expect(refitWish(defaultRecipe(), ["moves", "areas"], recipe, LYING)).toBeNull();
});
