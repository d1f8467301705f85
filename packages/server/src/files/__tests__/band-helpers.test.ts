import { createHash } from "node:crypto";
import { beforeAll, expect, test } from "@jest/globals";
import { drawChart, shoot } from "@yelm/camera";
import { tileKey, type KernelHeap } from "@yelm/core";
import { BandHelpers } from "../band-helpers.ts";
import { openKernels } from "../kernels.ts";
import { developRaw } from "../linear-picture.ts";
import { unpackRaw } from "../raw.ts";

/** Three rows of tiles, the last one short. */
const SIZE = { width: 540, height: 1300 };

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
    const hash = (halves: Uint16Array) => createHash("sha256").update(halves).digest("hex");
    await developRaw(heap, opened, (place, halves) => tiles.push([tileKey(place), hash(halves)]), helpers);
    await helpers.close();
    return tiles;
  };
  const alone = await develop(new BandHelpers(0));
  expect(new Set(alone.map(([key]) => key)).size).toBe(alone.length);
  expect(await develop(new BandHelpers(count))).toEqual(alone);
});
