import { createHash } from "node:crypto";
import { beforeAll, expect, test } from "@jest/globals";
import { PyramidBuilder, tileKey, type KernelHeap } from "@yelm/core";
import { BandHelpers } from "../band-helpers.ts";
import { FinishedPicture } from "../finished-picture.ts";
import { openKernels } from "../kernels.ts";
import { linearDecode } from "../raster.ts";

const [WIDTH, HEIGHT] = [333, 1301];
const decode = [1, 1, 1].map(linearDecode);
const matrix = Float32Array.of(0.9, 0.1, 0, 0.1, 0.8, 0.1, 0, 0.2, 0.8);

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openKernels();
});

/** A blue and an ochre half, with noise of its own in each channel from one row on. */
function picture(noisyFrom: number): Uint16Array {
  let state = 7;
  const random = () => (state = (state * 48271) % 2147483647) / 2147483647 - 0.5;
  return Uint16Array.from({ length: 3 * WIDTH * HEIGHT }, (_, i) => {
    const [x, y] = [Math.floor(i / 3) % WIDTH, Math.floor(i / 3 / WIDTH)];
    const light = (x < WIDTH / 2 ? [0.2, 0.26, 0.4] : [0.3, 0.24, 0.12])[i % 3];
    return Math.round(65535 * (light + (y >= noisyFrom ? 0.06 * random() : 0)));
  });
}

const hash = (halves: Uint16Array) => createHash("sha256").update(halves).digest("hex");

/** Hashes of the tiles of a picture that comes in two parts. */
async function tilesOf(codes: Uint16Array, firstRows: number, smoothed: boolean, helping = 0) {
  const tiles: [string, string][] = [];
  const info = { width: WIDTH, height: HEIGHT, smoothed };
  const builder = new PyramidBuilder(heap, info, (place, halves) => void tiles.push([tileKey(place), hash(halves)]));
  const helpers = new BandHelpers(helping);
  const parts = new FinishedPicture(heap, { info, decode, matrix }, builder, helpers);
  await parts.push(codes.subarray(0, 3 * WIDTH * firstRows), firstRows);
  if (firstRows < HEIGHT) await parts.push(codes.subarray(3 * WIDTH * firstRows), HEIGHT - firstRows);
  await helpers.close();
  return tiles;
}

test("a picture in parts becomes what it becomes whole, smoothed or not, alone or with others", async () => {
  const codes = picture(0);
  const [smoothed, kept] = [await tilesOf(codes, HEIGHT, true), await tilesOf(codes, HEIGHT, false)];
  expect(smoothed).not.toEqual(kept);
  expect(await tilesOf(codes, 700, false, 1)).toEqual(kept);
  // Noise is told from as many rows, or it is another's.
  expect(await tilesOf(codes, 700, true, 1)).toEqual(await tilesOf(codes, 700, true));
});

test("what the first rows say of noise holds to the last", async () => {
  const codes = picture(640);
  expect(await tilesOf(codes, 600, true)).toEqual(await tilesOf(codes, 600, false));
});
