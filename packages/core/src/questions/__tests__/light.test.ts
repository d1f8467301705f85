import { beforeAll, expect, test } from "@jest/globals";
import type { KernelHeap } from "../../kernels/heap.ts";
import { openHeap } from "../../kernels/__tests__/open-heap.ts";
import { move } from "../../parts/light/__tests__/a-move.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { tilesOf } from "../../render/__tests__/scene-tiles.ts";
import { Engine } from "../../render/engine.ts";
import type { MaskShape } from "../../shapes/shapes.ts";
import { QUESTIONS } from "../questions.ts";
import type { PictureReader } from "../reader.ts";

const SIZE = { width: 1300, height: 900 };
const EDGE = 450 / 1300;
/** Everything above the middle of the picture. */
const above: MaskShape = { kind: "ramp", x: 0.5, y: EDGE, angleDegrees: 90, reach: 0.002, sides: "one" };

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(120);
});

/** Bright cloud behind black leaves of some pixels, and as dark ground below. */
function twigsBeforeCloud(): PictureReader {
  const tiles = tilesOf(heap, SIZE, (x, y) => {
    const leaf = y > EDGE || Math.sin(x * 900) * Math.sin(y * 700 + x * 90) > 0.35;
    return leaf ? [0.0015, 0.002, 0.001] : [0.8, 0.85, 0.9];
  });
  return { engine: new Engine(heap, tiles), size: SIZE, capture: {} as never, fetch: () => Promise.resolve() };
}

const held = (stops: number): Recipe => {
  const recipe = defaultRecipe();
  return { ...recipe, light: { ...recipe.light, moves: [move({ id: "held", stops, shape: above })] } };
};

test.each([-0.5, 0.75])(
  "what a move of %f stops is told to do is what it does, among dark leaves before bright cloud too",
  async (stops) => {
    const reader = twigsBeforeCloud();
    const extent = await QUESTIONS.moveExtent(reader, { recipe: held(stops), moveId: "held" });
    expect(extent!.most).toBeCloseTo(stops, 2);
    expect(extent!.mean).toBeCloseTo(stops, 1);
    expect(extent!.share).toBeCloseTo(EDGE / (900 / 1300), 1);
    const map = await QUESTIONS.burnMap(reader, { recipe: held(stops) });
    const found = map.stops.reduce(([least, most], here) => [Math.min(least, here), Math.max(most, here)], [0, 0]);
    expect(found[0]).toBeCloseTo(Math.min(0, stops), 2);
    expect(found[1]).toBeCloseTo(Math.max(0, stops), 2);
    expect(map.stops[20 * map.width + 20]).toBeCloseTo(stops, 2);
    expect(map.stops.at(-1)).toBeCloseTo(0, 2);
  },
);
