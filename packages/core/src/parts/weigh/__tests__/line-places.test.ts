import { expect, test } from "@jest/globals";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { linePlaces } from "../line-places.ts";
import type { FamilyMap } from "../picture-colours.ts";

const [WIDTH, HEIGHT] = [240, 160];
const plane = (at: (x: number, y: number) => number) =>
  Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => at(i % WIDTH, Math.floor(i / WIDTH)));
/** Two groups that meet at x = 120, and a third in a corner. */
const map = {
  width: WIDTH, height: HEIGHT, facts: [0, 1, 2, 3], boundaries: [],
  labels: Uint8Array.from(plane((x, y) => (x < 40 && y < 40 ? 2 : x < 120 ? 0 : 1))),
} as unknown as FamilyMap; // prettier-ignore

const random = seeded(3);
const grain = plane(() => 0.004 * (random() - 0.5));
const sides = (line: (x: number, y: number) => number) =>
  plane((x, y) => (x < 120 ? 0.2 : 0.3) + line(x, y)).map((v, i) => v + grain[i]);
const line = (depth: number) => (x: number, y: number) => (y > 90 && y < 130 && Math.abs(x - 120) < 3 ? -depth : 0);

test("places lie where the print shows a line that plain luminance does not, with the groups that meet there", async () => {
  const prints = { width: WIDTH, height: HEIGHT, print: sides(line(0.15)), plain: sides(() => 0) };
  const found = await linePlaces(map, prints, 4);
  expect(found.length).toBeGreaterThanOrEqual(2);
  for (const { x, y, first, second } of found) {
    expect(Math.abs(x * WIDTH - 120)).toBeLessThan(4);
    expect(y * HEIGHT).toBeGreaterThan(86);
    expect(y * HEIGHT).toBeLessThan(134);
    expect([first, second].sort()).toEqual([0, 1]);
  }
});

test("a line of the scene itself, an even edge and a line within one group are none", async () => {
  const among = (print: Float32Array, plain: Float32Array) => linePlaces(map, { width: WIDTH, height: HEIGHT, print, plain }, 4); // prettier-ignore
  expect(await among(sides(line(0.15)), sides(line(0.14)))).toEqual([]);
  expect(await among(sides(() => 0), sides(() => 0))).toEqual([]); // prettier-ignore
  const within = sides((x) => (Math.abs(x - 180) < 3 ? -0.15 : 0));
  expect(await among(within, sides(() => 0))).toEqual([]); // prettier-ignore
});
