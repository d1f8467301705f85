import { createHash } from "node:crypto";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { beforeAll, expect, test } from "@jest/globals";
import { drawChart, shoot, shootJpeg } from "@yelm/camera";
import { tileKey, type KernelHeap, type TilePlace } from "@yelm/core";
import { BandHelpers } from "../band-helpers.ts";
import { openKernels } from "../kernels.ts";
import { developRaw, openCapture } from "../linear-picture.ts";
import { unpackRaw } from "../raw.ts";

/** Three rows of tiles, the last one short. */
const SIZE = { width: 540, height: 1300 };

const hash = (halves: Uint16Array) => createHash("sha256").update(halves).digest("hex");
let heap: KernelHeap;
let dng: Uint8Array;
beforeAll(async () => {
  heap = await openKernels();
  dng = await shoot(drawChart("detail", SIZE.width, SIZE.height));
});

test.each([
  ["one helps", 1, false],
  ["three help", 3, false],
  ["all of them die at once", 2, true],
])("a mosaic is developed to the same bits, and once each, when %s", async (_name, count, die) => {
  const develop = async (helpers: BandHelpers) => {
    const tiles: [string, string][] = [];
    const opened = await unpackRaw(dng);
    if (die) await helpers.close();
    await developRaw(heap, opened, (place, halves) => tiles.push([tileKey(place), hash(halves)]), helpers);
    await helpers.close();
    return tiles;
  };
  const alone = await develop(new BandHelpers(0));
  expect(new Set(alone.map(([key]) => key)).size).toBe(alone.length);
  expect(await develop(new BandHelpers(count))).toEqual(alone);
});

test("finished colours become the same bits, alone and with others, smoothed and as they are", async () => {
  const folder = await mkdtemp(join(tmpdir(), "yelm-bands-"));
  try {
    const path = join(folder, "a.jpg");
    const jpeg = await shootJpeg(drawChart("detail", SIZE.width, SIZE.height), { stops: 0, quality: 80, seed: 1 });
    await writeFile(path, jpeg);
    const develop = async (helping: number, smooth: boolean) => {
      const tiles: [string, string][] = [];
      const sink = () => (place: TilePlace, halves: Uint16Array) => void tiles.push([tileKey(place), hash(halves)]);
      await openCapture(heap, path, "a.jpg", sink, { helping, smooth });
      return tiles;
    };
    const [smoothed, kept] = [await develop(0, true), await develop(0, false)];
    expect(kept).not.toEqual(smoothed);
    expect(new Set(kept.map(([key]) => key)).size).toBe(kept.length);
    expect(await develop(2, true)).toEqual(smoothed);
    expect(await develop(1, false)).toEqual(kept);
  } finally {
    await rm(folder, { recursive: true });
  }
});
