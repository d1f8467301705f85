import { beforeAll, expect, test } from "@jest/globals";
import type { KernelHeap } from "../../../kernels/heap.ts";
import { openHeap } from "../../../kernels/__tests__/open-heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import type { Recipe } from "../../../recipe/schema.ts";
import type { WeighArea } from "../schema.ts";
import { Engine } from "../../../render/engine.ts";
import { tilesOf } from "../../../render/__tests__/scene-tiles.ts";
import { newFamily } from "../find-families.ts";
import { familyPlace } from "../family.ts";

const SIZE = { width: 700, height: 300 };
const COLOUR = [0.3, 0.12, 0.06] as const;
const VIEW = { x: 0, y: 0, ...SIZE, scale: 1, level: 0 };
let engine: Engine;
let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
  engine = new Engine(
    heap,
    tilesOf(heap, SIZE, () => COLOUR),
  );
});

const base = defaultRecipe();
const area = (id: string, x: number, change: Partial<WeighArea> = {}): WeighArea => ({
  id, name: id, on: true, invert: false, by: "weights", red: 1, green: 0, blue: 0, film: base.weigh.film,
  shape: { kind: "ellipse", x, y: 0.2, radiusX: 0.12, radiusY: 0.12, angleDegrees: 0, softness: 0.5 },
  ...change,
}); // prettier-ignore
const recipeOf = (areas: WeighArea[], change: Partial<Recipe["weigh"]> = {}): Recipe => ({
  ...base,
  weigh: { ...base.weigh, ...change, areas },
});
/** Light at places, in shares of the width, on the middle row. */
function lightAt(recipe: Recipe, ...places: number[]): number[] {
  const light = engine.renderLight(engine.prepare(recipe), VIEW);
  const row = Math.round(0.2 * SIZE.width) * SIZE.width;
  return places.map((x) => light[row + Math.round(x * SIZE.width)]);
}
const PLAIN = 0.2627 * COLOUR[0] + 0.678 * COLOUR[1] + 0.0593 * COLOUR[2];

test("inside its own weights, outside the base, between them a mixture that falls steadily", () => {
  const [middle, outside] = lightAt(recipeOf([area("a", 0.3)]), 0.3, 0.7);
  expect(middle).toBeCloseTo(COLOUR[0], 3);
  expect(outside).toBeCloseTo(PLAIN, 3);
  const way = lightAt(recipeOf([area("a", 0.3)]), ...Array.from({ length: 13 }, (_, i) => 0.3 + 0.01 * i));
  way.slice(1).forEach((light, i) => expect(light).toBeLessThanOrEqual(way[i] + 1e-6));
  expect(way.filter((light) => light > PLAIN + 0.01 && light < COLOUR[0] - 0.01).length).toBeGreaterThan(2);
});

test("later areas lie over earlier ones; turned outside in, and off", () => {
  const blue = { red: 0, green: 0, blue: 1 };
  expect(lightAt(recipeOf([area("a", 0.3), area("b", 0.3, blue)]), 0.3)[0]).toBeCloseTo(COLOUR[2], 3);
  expect(lightAt(recipeOf([area("b", 0.3, blue), area("a", 0.3)]), 0.3)[0]).toBeCloseTo(COLOUR[0], 3);
  const [inside, outside] = lightAt(recipeOf([area("a", 0.3, { invert: true })]), 0.3, 0.8);
  expect(inside).toBeCloseTo(PLAIN, 3);
  expect(outside).toBeCloseTo(COLOUR[0], 3);
  expect(lightAt(recipeOf([area("a", 0.3, { on: false })]), 0.3)[0]).toBeCloseTo(PLAIN, 3);
});

test("families act in areas too, over film as over weights", () => {
  const families = [{ ...newFamily("f", "brick", familyPlace(COLOUR)), stops: 1 }];
  const [inside, outside] = lightAt(recipeOf([area("a", 0.3)], { families }), 0.3, 0.8);
  expect(inside / COLOUR[0]).toBeCloseTo(2, 1);
  expect(outside / PLAIN).toBeCloseTo(2, 1);
  const film = { ...base.weigh.film, film: "orthochromatic" as const };
  const [ortho] = lightAt(recipeOf([area("a", 0.3, { by: "film", film })]), 0.3);
  expect(ortho).toBeLessThan(0.8 * PLAIN);
});

test("an area stays on what it was drawn on when the frame is turned and cropped", () => {
  const turned = recipeOf([area("a", 0.3)]);
  turned.ground = { ...turned.ground, quarterTurns: 2 };
  const print = engine.prepare(turned);
  const light = engine.renderLight(print, { ...VIEW, width: print.frame.width, height: print.frame.height });
  const at = (x: number, y: number) => light[Math.round(y) * print.frame.width + Math.round(x)];
  expect(at(0.7 * SIZE.width, SIZE.height - 0.2 * SIZE.width)).toBeCloseTo(COLOUR[0], 3);
  expect(at(0.3 * SIZE.width, SIZE.height - 0.2 * SIZE.width)).toBeCloseTo(PLAIN, 3);
});
