import { beforeAll, expect, test } from "@jest/globals";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { MOST_ROUGHNESS } from "../../parts/weigh/roughness.ts";
import { newFamily } from "../../parts/weigh/find-families.ts";
import { familyPlace } from "../../parts/weigh/family.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { tilesOf } from "../../render/__tests__/scene-tiles.ts";
import { Engine } from "../../render/engine.ts";
import { QUESTIONS } from "../questions.ts";
import type { PictureReader } from "../reader.ts";

const SIZE = { width: 480, height: 320 };
const FUR: Vector3 = [0.22, 0.158, 0.105];
const EYES: Vector3 = [0.205, 0.158, 0.052];

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(120);
});

/** Fur and eyes of one grey; the file's colour is off in blocks of four pixels, blue the most, by up to so many stops. */
function animal(blocks: number): PictureReader {
  const random = seeded(5);
  const jitter = Float32Array.from({ length: 3 * 121 * 81 }, () => blocks * (2 * random() - 1));
  const tiles = tilesOf(heap, SIZE, (u, v) => {
    const [x, y] = [u * SIZE.width, v * SIZE.width];
    const eye = Math.hypot(x - 160, y - 150) < 45 || Math.hypot(x - 320, y - 150) < 45;
    const block = 3 * (121 * Math.floor(y / 4) + Math.floor(x / 4));
    const [r, g, b] = eye ? EYES : FUR;
    return [r * 2 ** (0.5 * jitter[block]), g * 2 ** (0.3 * jitter[block + 1]), b * 2 ** jitter[block + 2]];
  });
  const capture = { kind: "png", noise: null, neutral: null, calibrations: [] } as never;
  return { engine: new Engine(heap, tiles), size: SIZE, capture, fetch: () => Promise.resolve() };
}

const recipe: Recipe = (() => {
  const fresh = defaultRecipe();
  const families = [newFamily("f1", "fur", familyPlace(FUR)), newFamily("f2", "eyes", familyPlace(EYES))];
  return { ...fresh, weigh: { ...fresh.weigh, families } };
})();

test("parting stops where the print would show the noise of a file's colour, and says so", async () => {
  const goal = { kind: "part", first: 0, second: 1, apart: 24 } as const;
  const roughest = async (reader: PictureReader, weigh: Recipe["weigh"]) => {
    const about = { recipe: { ...recipe, weigh } };
    const places = await QUESTIONS.innerPlaces(reader, about);
    expect(places.length).toBeGreaterThan(5);
    const all = await Promise.all(places.map((place) => QUESTIONS.roughness(reader, { ...about, place })));
    return Math.max(...all);
  };
  const clean = animal(0);
  const whole = await QUESTIONS.solve(clean, { recipe, goal });
  expect(whole).toMatchObject({ reached: true, stoppedBy: null });
  expect(await roughest(clean, whole.weigh)).toBeLessThan(0.3);
  const noisy = animal(0.5);
  const following = (weigh: Recipe["weigh"]) => ({ ...weigh, noisyColours: "followed" }) as const;
  expect(await roughest(noisy, following(whole.weigh))).toBeGreaterThan(MOST_ROUGHNESS);
  const part = await QUESTIONS.solve(noisy, { recipe: { ...recipe, weigh: following(recipe.weigh) }, goal });
  expect(part).toMatchObject({ reached: false, stoppedBy: { kind: "noise" } });
  expect(part.changes.length).toBeGreaterThan(0);
  expect(await roughest(noisy, part.weigh)).toBeLessThanOrEqual(MOST_ROUGHNESS);
  // Held to its surroundings, light may go all the way.
  expect(await roughest(noisy, whole.weigh)).toBeLessThan(MOST_ROUGHNESS);
  expect(await QUESTIONS.solve(noisy, { recipe, goal })).toMatchObject({ reached: true });
  expect(await QUESTIONS.innerPlaces(noisy, { recipe })).toHaveLength(0);
});
