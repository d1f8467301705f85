import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, expect, test } from "@jest/globals";
import { levelCount, levelSize, placesIn, tileSize } from "@yelm/core";
import { PYRAMID_FILE, TileReader, TileWriter } from "../tile-files.ts";

const SIZE = { width: 3000, height: 2000 };
let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "yelm-tiles-"));
});
afterEach(() => rmSync(folder, { recursive: true }));

/** Every tile of a picture, each of one value; the event loop turns between them. */
async function writeAll(writer: TileWriter) {
  for (let level = 0; level < levelCount(SIZE); level++)
    for (const place of placesIn({ x: 0, y: 0, ...levelSize(SIZE, level) }, level)) {
      const { width, height } = tileSize(SIZE, place);
      writer.write(place, new Uint16Array(3 * width * height).fill(1 + place.row));
      await new Promise((resolve) => setImmediate(resolve));
    }
}

test("a disk that fails once while tiles are on their way fails the whole pyramid, which is then none", async () => {
  let asked = 0;
  const writer = new TileWriter(folder, SIZE, () =>
    ++asked === 2 ? Promise.reject(Object.assign(new Error("i/o error"), { code: "EIO" })) : Promise.resolve(),
  );
  await writeAll(writer);
  await expect(writer.finish()).rejects.toMatchObject({ code: "EIO" });
  writer.close();
  expect(asked).toBeGreaterThan(2);
  expect(existsSync(join(folder, PYRAMID_FILE))).toBe(false);
});

test("one file is on its way at a time, and nothing when it is said to be whole", async () => {
  let under = 0;
  let most = 0;
  const writer = new TileWriter(folder, SIZE, async () => {
    most = Math.max(most, ++under);
    await new Promise((resolve) => setTimeout(resolve, 5));
    under--;
  });
  await writeAll(writer);
  await writer.finish();
  expect([under, most]).toEqual([0, 1]);
  const reader = new TileReader(folder);
  expect(reader.tile({ level: 0, column: 5, row: 3 })[7]).toBe(4);
  reader.close();
});
