import { copyFile, mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { afterAll, beforeAll, describe, expect, test } from "@jest/globals";
import { rebuildHalvedColour, type KernelHeap } from "@yelm/core";
import sharp from "sharp";
import { openKernels } from "../kernels.ts";
import { readJpegColour } from "../jpeg-colour.ts";
import { readRaster } from "../raster.ts";

/** Yarn before a wall, 141 × 106 pixels, its colour halved across alone, written by an encoder that this project has nothing to do with. */
const HALVED_ACROSS = fileURLToPath(new URL("fixtures/halved-across.jpg", import.meta.url));
const [WIDTH, HEIGHT] = [57, 43];
const NONE = { halved: null, rebuilt: null, coarse: false, noise: 0 };
let heap: KernelHeap;
let folder: string;
beforeAll(async () => {
  heap = await openKernels();
  folder = await mkdtemp(join(tmpdir(), "yelm-jpeg-"));
});
afterAll(() => rm(folder, { recursive: true }));

const noise = (channels: 1 | 3) => {
  const data = Buffer.from(Array.from({ length: WIDTH * HEIGHT * channels }, (_, i) => (i * 7919) % 251));
  return sharp(data, { raw: { width: WIDTH, height: HEIGHT, channels } });
};

/** A JPEG of which each pixel has its own colour, its header changed. */
async function withHeader(change: (bytes: Buffer, frame: number) => void, quality = 95): Promise<string> {
  const bytes = await noise(3).jpeg({ quality, chromaSubsampling: "4:4:4" }).toBuffer();
  const frame = bytes.indexOf(Buffer.from([0xff, 0xc0]));
  change(bytes, frame);
  const path = join(folder, "header.jpg");
  await writeFile(path, bytes);
  return path;
}
/** Where a frame's components state their sampling. */
const factorsAt = (frame: number, component: number) => frame + 11 + 3 * component;
const cells = async (factors: number, orientation: number) => {
  const path = await withHeader((bytes, frame) => (bytes[factorsAt(frame, 0)] = factors));
  const turned = orientation > 4;
  const { halved } = await readJpegColour(path, orientation, turned ? HEIGHT : WIDTH, turned ? WIDTH : HEIGHT);
  return halved && [halved.width, halved.height, halved.left, halved.top];
};

describe("a JPEG's header", () => {
  test.each([
    [0x11, 1, null],
    [0x22, 1, [2, 2, 0, 0]],
    [0x21, 1, [2, 1, 0, 0]],
    [0x12, 1, [1, 2, 0, 0]],
    [0x41, 1, [4, 1, 0, 0]],
    // Turned over, odd widths and heights begin amid a cell; turned by a quarter, across is down.
    [0x22, 2, [2, 2, 1, 0]],
    [0x22, 3, [2, 2, 1, 1]],
    [0x41, 3, [4, 1, 1, 0]],
    [0x21, 6, [1, 2, 0, 0]],
    [0x21, 8, [1, 2, 0, 1]],
    [0x12, 6, [2, 1, 1, 0]],
    [0x31, 1, null],
  ])("of sampling %p, stored in orientation %i, has cells %p", async (factors, orientation, expected) => {
    expect(await cells(factors, orientation)).toEqual(expected);
  });

  test("that rounds colour coarsely has it rebuilt in cells, halved or not", async () => {
    const of = async (quality: number) => readJpegColour(await withHeader(() => 0, quality), 1, WIDTH, HEIGHT);
    const [fine, coarse] = [await of(92), await of(75)];
    expect(fine).toEqual({ ...NONE, noise: fine.noise });
    expect(coarse).toMatchObject({ halved: null, rebuilt: { width: 2, height: 2, left: 0, top: 0 }, coarse: true });
    // The usual tables' steps at these qualities are as 16 to 50, and rounded.
    expect(coarse.noise / fine.noise).toBeGreaterThan(8);
    expect(coarse.noise / fine.noise).toBeLessThan(12);
  });

  test("that is grey, cut short, without an end or of unlike colours says nothing", async () => {
    const path = join(folder, "odd.jpg");
    await noise(1).toColourspace("b-w").jpeg().toFile(path);
    expect(await readJpegColour(path, 1, WIDTH, HEIGHT)).toEqual(NONE);
    const unlike = await withHeader((bytes, frame) => (bytes[factorsAt(frame, 1)] = 0x21));
    expect(await readJpegColour(unlike, 1, WIDTH, HEIGHT)).toEqual(NONE);
    const whole = await readFile(await withHeader(() => 0));
    for (let length = 0; length < 700; length += 3) {
      await writeFile(path, whole.subarray(0, length));
      // Steps are told as soon as they and the frame are there.
      const told = await readJpegColour(path, 1, WIDTH, HEIGHT);
      expect(told).toEqual({ ...NONE, noise: told.noise });
    }
    for (const fill of [0xff, 0x00, 0xdb]) {
      await writeFile(path, Buffer.concat([whole.subarray(0, 2), Buffer.alloc(5000, fill)]));
      expect(await readJpegColour(path, 1, WIDTH, HEIGHT)).toEqual(NONE);
    }
  });
});

test("colour that is halved across alone is rebuilt across alone, upright or turned", async () => {
  const path = join(folder, "across.jpg");
  await copyFile(HALVED_ACROSS, path);
  const turned = join(folder, "turned.png");
  await sharp(HALVED_ACROSS).rotate(90).png().toFile(turned);
  for (const [file, width, height] of [
    [path, 2, 1],
    [turned, 1, 2],
  ] as const) {
    const raster = await readRaster(file);
    const { data, info } = await sharp(file).raw().toBuffer({ resolveWithObject: true });
    const expected = new Uint8Array(data);
    const sloped = { across: width === 2, down: height === 2 };
    rebuildHalvedColour(heap, expected, info.width, info.height, { width, height, left: 0, top: 0, sloped });
    const seen: Uint8Array[] = [];
    for await (const { codes } of raster.rows(heap)) seen.push(Uint8Array.from(codes));
    expect(raster.halvedColour()).toBe(true);
    expect(Buffer.compare(Buffer.concat(seen), expected)).toBe(0);
    expect(Buffer.compare(expected, data)).not.toBe(0);
  }
});
