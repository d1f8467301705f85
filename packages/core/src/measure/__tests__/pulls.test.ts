import { expect, test } from "@jest/globals";
import { lightnessToLuminance } from "../../colour/lab.ts";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { squint } from "../pulls.ts";

const SIZE = { width: 120, height: 80 };

/** A composition of soft bodies, with one light spot that stands out most; sometimes upright, textured, low or high in key. */
function composition(seed: number) {
  const random = seeded(seed);
  const key = 20 + 40 * random();
  const bodies = Array.from({ length: 5 }, () => ({
    x: SIZE.width * random(), y: SIZE.height * random(), r: 7 + 17 * random(), by: 24 * (random() - 0.5),
  })); // prettier-ignore
  const planted = {
    x: 17 + (SIZE.width - 34) * random(),
    y: 14 + (SIZE.height - 28) * random(),
    r: 3.5 + 3.5 * random(),
  };
  const top = Math.min(97, key + 42);
  const reflectance = Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) => {
    const [x, y] = [i % SIZE.width, Math.floor(i / SIZE.width)];
    let lightness = key + 3 * (random() - 0.5) + (8 * x) / SIZE.width;
    for (const { x: bx, y: by, r, by: change } of bodies)
      lightness += change * Math.exp(-((x - bx) ** 2 + (y - by) ** 2) / r ** 2);
    const near = Math.exp(-((x - planted.x) ** 2 + (y - planted.y) ** 2) / planted.r ** 2);
    return lightnessToLuminance(Math.min(99, Math.max(1, lightness + (top - lightness) * near)));
  });
  return { reflectance, planted };
}

test("the first pull is the planted light of the greatest contrast, in at least 38 of 40 compositions", () => {
  let found = 0;
  for (let seed = 1; seed <= 40; seed++) {
    const { reflectance, planted } = composition(seed);
    const [first] = squint(reflectance, SIZE).pulls;
    if (first && Math.hypot(first.x * SIZE.width - planted.x, first.y * SIZE.height - planted.y) < 6) found++;
  }
  expect(found).toBeGreaterThanOrEqual(38);
});

test("an even print pulls nowhere; texture too fine to see neither; pulls are ranked and apart", () => {
  expect(squint(new Float32Array(SIZE.width * SIZE.height).fill(0.2), SIZE).pulls).toEqual([]);
  const random = seeded(4);
  const noise = Float32Array.from({ length: SIZE.width * SIZE.height }, () => 0.15 + 0.03 * random());
  expect(squint(noise, SIZE).pulls).toEqual([]);
  const { pulls } = squint(composition(7).reflectance, SIZE);
  expect(pulls[0].strength).toBe(1);
  pulls.forEach(({ strength }, i) => expect(strength).toBeLessThanOrEqual(pulls[Math.max(0, i - 1)].strength));
});
