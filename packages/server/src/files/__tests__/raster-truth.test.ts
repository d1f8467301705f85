import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { crc32, deflateSync } from "node:zlib";
import { afterAll, beforeAll, describe, expect, test } from "@jest/globals";
import type { KernelHeap } from "@yelm/core";
import exifr from "exifr";
import sharp from "sharp";
import { openKernels } from "../kernels.ts";
import { openCapture } from "../linear-picture.ts";
import { readRaster } from "../raster.ts";
import { shape, tiff } from "./own-tiff.ts";

// Writers of this file's own, which share no code with the readers.

let heap: KernelHeap;
let folder: string;
beforeAll(async () => {
  heap = await openKernels();
  folder = await mkdtemp(join(tmpdir(), "yelm-truth-"));
});
afterAll(() => rm(folder, { recursive: true }));

async function saved(bytes: Uint8Array, name: string): Promise<string> {
  const path = join(folder, name);
  await writeFile(path, bytes);
  return path;
}

/** Linear light of a file's own first channel values, before any matrix. */
async function light(bytes: Uint8Array, name: string): Promise<{ values: number[][]; matrix: Float32Array }> {
  const raster = await readRaster(await saved(bytes, name));
  const values: number[][] = [];
  for await (const { codes } of raster.rows(heap))
    for (let i = 0; i < codes.length; i += 3) values.push([0, 1, 2].map((c) => raster.decode[c][codes[i + c]]));
  return { values, matrix: raster.matrix };
}

/** Working colour of the first pixel. */
async function working(bytes: Uint8Array, name: string): Promise<number[]> {
  const { values, matrix } = await light(bytes, name);
  return [0, 1, 2].map((row) => values[0].reduce((sum, v, c) => sum + matrix[3 * row + c] * v, 0));
}

type Pixels = { width: number; height: number; bits: 8 | 16; channels: 1 | 3; codes: readonly number[] };

function png({ width, height, bits, channels, codes }: Pixels, extra: [string, Uint8Array][] = []): Buffer {
  const chunk = (type: string, data: Uint8Array) => {
    const out = Buffer.alloc(12 + data.length);
    out.writeUInt32BE(data.length);
    out.write(type, 4, "latin1");
    out.set(data, 8);
    out.writeUInt32BE(crc32(out.subarray(4, 8 + data.length)), 8 + data.length);
    return out;
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width);
  head.writeUInt32BE(height, 4);
  head.set([bits, channels === 1 ? 0 : 2, 0, 0, 0], 8);
  const row = width * channels;
  const lines = Array.from({ length: height }, (_, y) => {
    const line = codes.slice(y * row, (y + 1) * row);
    return [0, ...(bits === 8 ? line : line.flatMap((code) => [code >> 8, code & 255]))];
  });
  return Buffer.concat([
    Buffer.from("\x89PNG\r\n\x1a\n", "latin1"),
    chunk("IHDR", head),
    ...extra.map(([type, data]) => chunk(type, data)),
    chunk("IDAT", deflateSync(Uint8Array.from(lines.flat()))),
    chunk("IEND", new Uint8Array(0)),
  ]);
}

const words = (...values: number[]) => {
  const out = Buffer.alloc(4 * values.length);
  values.forEach((value, i) => out.writeUInt32BE(value, 4 * i));
  return out;
};

/** A profile: a header of the given space and connection space, and tags. */
function icc(space: string, pcs: string, tags: [string, Buffer][]): Buffer {
  const table = 132 + 12 * tags.length;
  const head = Buffer.alloc(table);
  let at = table;
  const bodies: Buffer[] = [];
  head.writeUInt32BE(tags.length, 128);
  tags.forEach(([name, data], i) => {
    const padded = Buffer.concat([data, Buffer.alloc(-data.length & 3)]);
    head.write(name, 132 + 12 * i, "latin1");
    head.writeUInt32BE(at, 136 + 12 * i);
    head.writeUInt32BE(data.length, 140 + 12 * i);
    bodies.push(padded);
    at += padded.length;
  });
  head.writeUInt32BE(at, 0);
  head.writeUInt32BE(0x02400000, 8);
  head.write(`scnr${space}${pcs}`, 12, "latin1");
  head.write("acsp", 36, "latin1");
  head.set(words(0xf6d6, 0x10000, 0xd32d), 68);
  return Buffer.concat([head, ...bodies]);
}

/** Tables from linear codes (gamma 1) to XYZ of D50, as a scanner's profile has them: exact for any matrix. */
function tableProfile(toXyz: readonly number[]): Buffer {
  const out = Buffer.alloc(52 + 2 * (6 + 24 + 6));
  out.write("mft2", 0, "latin1");
  out.set([3, 3, 2, 0], 8);
  [1, 0, 0, 0, 1, 0, 0, 0, 1].forEach((v, i) => out.writeInt32BE(65536 * v, 12 + 4 * i));
  out.writeUInt16BE(2, 48);
  out.writeUInt16BE(2, 50);
  let at = 52;
  const put = (value: number) => (at = out.writeUInt16BE(Math.round(Math.min(65535, Math.max(0, value))), at));
  for (let c = 0; c < 3; c++) [0, 65535].forEach(put);
  for (let i = 0; i < 8; i++) {
    const rgb = [(i >> 2) & 1, (i >> 1) & 1, i & 1];
    for (let row = 0; row < 3; row++) put(32768 * rgb.reduce<number>((sum, v, c) => sum + v * toXyz[3 * row + c], 0));
  }
  for (let c = 0; c < 3; c++) [0, 65535].forEach(put);
  const white = Buffer.concat([Buffer.from("XYZ \0\0\0\0"), words(0xf6d6, 0x10000, 0xd32d)]);
  const text = (type: string, value: string) => Buffer.from(`${type}\0\0\0\0${value}\0`, "latin1");
  return icc("RGB ", "XYZ ", [
    ["cprt", text("text", "none")],
    ["wtpt", white],
    ["A2B0", out],
  ]);
}

const decodeSrgb = (c: number) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
/** ITU-R BT.709 → BT.2020, linear (BT.2087). */
const M709 = [0.6274, 0.3293, 0.0433, 0.0691, 0.9195, 0.0114, 0.0164, 0.088, 0.8956];
const in2020 = (rgb: readonly number[], m: readonly number[] = M709) =>
  [0, 1, 2].map((row) => rgb.reduce((sum, v, c) => sum + m[3 * row + c] * v, 0));
const near = (found: readonly number[], truth: readonly number[], tolerance: number) =>
  found.forEach((v, c) => expect(Math.abs(v - truth[c])).toBeLessThan(tolerance));

describe("codes", () => {
  const ramp8 = Array.from({ length: 256 }, (_, i) => i);
  test.each([
    ["PNG, grey", "g8.png", png({ width: 256, height: 1, bits: 8, channels: 1, codes: ramp8 })],
    [
      "PNG, colour",
      "c8.png",
      png({ width: 256, height: 1, bits: 8, channels: 3, codes: ramp8.flatMap((v) => [v, v, v]) }),
    ],
    ["TIFF, grey", "g8.tif", tiff(shape(256, 1, 1, 8), Buffer.from(ramp8))],
  ])("every tone of an 8-bit file arrives, exactly: %s", async (_, name, bytes) => {
    const { values } = await light(bytes, name);
    values.forEach(([r, g, b], code) => near([r, g, b], Array<number>(3).fill(decodeSrgb(code / 255)), 1e-6));
  });

  test("every code of a 16-bit file arrives, grey and colour", async () => {
    const codes = Array.from({ length: 4096 }, (_, i) => i * 16 + (i & 15));
    const raster = await readRaster(
      await saved(png({ width: 64, height: 64, bits: 16, channels: 1, codes }), "g16.png"),
    );
    for await (const { codes: found } of raster.rows(heap))
      codes.forEach((code, i) => expect(found[3 * i + 1]).toBe(code));
    const colour = await readRaster(
      await saved(png({ width: 32, height: 42, bits: 16, channels: 3, codes: codes.slice(0, 4032) }), "c16.png"),
    );
    for await (const { codes: found } of colour.rows(heap)) expect(Array.from(found)).toEqual(codes.slice(0, 4032));
  });

  test("a picture read in several parts is the picture read in one", async () => {
    const [width, height] = [4000, 7000];
    const codes = Buffer.alloc(width * height, 7);
    for (let y = 0; y < height; y++) codes[y * width + (y % width)] = y % 251;
    const raster = await readRaster(await saved(tiff(shape(width, height, 1, 8), codes), "parts.tif"));
    let [row, parts, wrong] = [0, 0, 0];
    for await (const { codes: found, rows } of raster.rows(heap)) {
      for (let i = 0; i < width * rows; i++) if (found[3 * i] !== codes[width * row + i]) wrong++;
      row += rows;
      parts++;
    }
    expect([row, parts > 1, wrong]).toEqual([height, true, 0]);
  });
});

describe("what codes mean", () => {
  // Primaries far outside any screen's; their columns sum to D50.
  const WIDE_D50 = [0.7977, 0.1352, 0.0313, 0.288, 0.7119, 0.0001, 0, 0, 0.8249];
  const BRADFORD_50_65 = [0.9556, -0.023, 0.0632, -0.0283, 1.0099, 0.021, 0.0123, -0.0205, 1.3299];
  const XYZ_2020 = [1.7167, -0.3557, -0.2534, -0.6667, 1.6165, 0.0158, 0.0176, -0.0428, 0.9421];
  const truthOf = (rgb: readonly number[]) => in2020(in2020(in2020(rgb, WIDE_D50), BRADFORD_50_65), XYZ_2020);
  const colour = [0.5, 0.25, 0.2];

  test.each([16, 8] as const)("a profile of tables keeps colours beyond a screen's, %d bits", async (bits) => {
    const most = bits === 8 ? 255 : 65535;
    const codes = colour.map((v) => Math.round(v * most));
    const pixels = Buffer.concat(
      Array.from({ length: 16 }, () => (bits === 8 ? Buffer.from(codes) : Buffer.from(Uint16Array.from(codes).buffer))),
    );
    const file = tiff([...shape(4, 4, 3, bits), [34675, 7, [...tableProfile(WIDE_D50)]]], pixels);
    near(await working(file, `table-${bits}.tif`), truthOf(codes.map((code) => code / most)), 0.004);
  });

  test("tables that no engine can read leave the codes as those of a screen", async () => {
    const profile = tableProfile(WIDE_D50);
    profile.write("none", profile.indexOf("mft2"), "latin1");
    const codes = [30000, 20000, 10000];
    const pixels = Buffer.concat(Array.from({ length: 4 }, () => Buffer.from(Uint16Array.from(codes).buffer)));
    const file = tiff([...shape(2, 2, 3, 16), [34675, 7, [...profile]]], pixels);
    near(await working(file, "broken-table.tif"), in2020(codes.map((code) => decodeSrgb(code / 65535))), 0.001);
  });

  test("grey under a profile of lightness is lightness; grey under a colour profile is its greys", async () => {
    const curve = (gamma: number) =>
      Buffer.concat([Buffer.from("curv\0\0\0\0"), words(1), Buffer.from([gamma, 0, 0, 0])]);
    const lightness = icc("GRAY", "Lab ", [["kTRC", curve(1)]]);
    const grey = (profile: Buffer) =>
      tiff(
        [...shape(2, 2, 1, 16), [34675, 7, [...profile]]],
        Buffer.from(Uint16Array.from(Array(4).fill(32768)).buffer),
      );
    near(await working(grey(lightness), "lab-grey.tif"), Array<number>(3).fill(((50 + 16) / 116) ** 3), 2e-4);
    const column = (values: number[]) =>
      Buffer.concat([Buffer.from("XYZ \0\0\0\0"), words(...values.map((v) => Math.round(v * 65536)))]);
    const colourful = icc("RGB ", "XYZ ", [
      ...(["rXYZ", "gXYZ", "bXYZ"] as const).map((name, c): [string, Buffer] => [
        name,
        column([WIDE_D50[c], WIDE_D50[3 + c], WIDE_D50[6 + c]]),
      ]),
      ...(["rTRC", "gTRC", "bTRC"] as const).map((name): [string, Buffer] => [name, curve(3)]),
    ]);
    near(await working(grey(colourful), "rgb-grey.tif"), Array<number>(3).fill(0.125), 2e-3);
  });

  test("a PNG's own words: gAMA with cHRM, cICP above a profile, sRGB above gAMA; light for projectors is refused", async () => {
    const codes = [200, 120, 40];
    const pixels = { width: 1, height: 1, bits: 8, channels: 3, codes } as const;
    const share = codes.map((code) => code / 255);
    const gamma = words(100000);
    near(await working(png(pixels, [["gAMA", gamma]]), "gama.png"), in2020(share), 2e-3);
    const chromaticities = words(31270, 32900, 70800, 29200, 17000, 79700, 13100, 4600);
    near(await working(png(pixels, [["gAMA", gamma], ["cHRM", chromaticities]]), "chrm.png"), share, 2e-3); // prettier-ignore
    near(await working(png(pixels, [["gAMA", gamma], ["sRGB", Buffer.from([0])]]), "srgb.png"), in2020(share.map(decodeSrgb)), 2e-3); // prettier-ignore
    near(await working(png(pixels, [["cICP", Buffer.from([9, 8, 0, 1])]]), "cicp.png"), share, 1e-4);
    await expect(
      readRaster(await saved(png(pixels, [["cICP", Buffer.from([9, 16, 0, 1])]]), "pq.png")),
    ).rejects.toThrow("transfer 16");
  });

  test("a profile that unpacks to 300 MB is refused before it is unpacked", async () => {
    const bomb = Buffer.concat([Buffer.from("x\0\0", "latin1"), deflateSync(Buffer.alloc(300e6), { level: 1 })]);
    const file = png({ width: 1, height: 1, bits: 8, channels: 1, codes: [9] }, [["iCCP", bomb]]);
    await expect(readRaster(await saved(file, "bomb.png"))).rejects.toThrow("at most 32 MiB");
  });
});

describe("what is not taken says what it is", () => {
  const open = async (bytes: Uint8Array, name: string) =>
    openCapture(heap, await saved(bytes, name), name, () => () => undefined);
  test.each([
    [
      "floating point",
      "float.tif",
      tiff([...shape(2, 2, 1, 32), [339, 3, [3]]], Buffer.from(Float32Array.of(0, 1, 2, 3).buffer)),
    ],
    ["signed 16 bits", "signed.tif", tiff([...shape(2, 2, 1, 16), [339, 3, [2]]], Buffer.alloc(8))],
    ["BigTIFF", "big.tif", Buffer.from([0x49, 0x49, 43, 0, 8, 0, 0, 0, 16, 0, 0, 0, 0, 0, 0, 0])],
    ["GIF", "a.gif", Buffer.from("GIF89a\x01\x00\x01\x00\x00;", "latin1")],
    ["WebP", "a.webp", Buffer.from("RIFF\x1a\0\0\0WEBPVP8L\r\0\0\0", "latin1")],
    ["HEIC", "a.heic", Buffer.from("\0\0\0\x18ftypheic\0\0\0\0mif1heic", "latin1")],
  ])("%s", async (word, name, bytes) => {
    await expect(open(bytes, name)).rejects.toThrow(word);
  });

  test("directories that loop end, in a sentence", async () => {
    const loop = Buffer.from([0x49, 0x49, 42, 0, 8, 0, 0, 0, 0, 0, 8, 0, 0, 0]);
    for (const name of ["loop.dng", "loop.tif", "loop.nef"]) await expect(open(loop, name)).rejects.toThrow("Expected");
    // A sub-directory list that names its own directory a hundred thousand times.
    const many = tiff([...shape(1, 1, 1, 8), [330, 4, Array<number>(100_000).fill(10)]], Buffer.from([1, 0]));
    await open(many, "many.dng").catch(() => undefined);
  });
});

test("who made a picture, whose it is and what it shows are read, whatever their letters", async () => {
  const text = (value: string) => [...Buffer.from(`${value}\0`)];
  const file = tiff(
    [
      ...shape(2, 2, 1, 8),
      [270, 2, text("Fog over the made-up weir")],
      [315, 2, text("Ines Éloïse Brandt")],
      [33432, 2, text("© 2026 nobody")],
    ],
    Buffer.alloc(4, 99),
  );
  const { info } = await readRaster(await saved(file, "authored.tif"));
  expect(info).toMatchObject({
    artist: "Ines Éloïse Brandt",
    copyright: "© 2026 nobody",
    caption: "Fog over the made-up weir",
  });
  const { writePrint } = await import("../write-print.ts");
  const { Engine, defaultRecipe, factsOf } = await import("@yelm/core");
  const { TileReader, TileWriter } = await import("../tile-files.ts");
  const tiles = join(folder, "tiles");
  const writer = new TileWriter(tiles, info);
  const opened = await openCapture(
    heap,
    join(folder, "authored.tif"),
    "authored.tif",
    () => (place, halves) => writer.write(place, halves),
  );
  await writer.finish();
  const engine = new Engine(heap, new TileReader(tiles), factsOf(opened.info));
  for (const format of ["tiff", "png", "jpeg"] as const) {
    const out = join(folder, `authored.${format}`);
    const options = {
      format, bitDepth: format === "jpeg" ? 8 : 16, encoding: "gamma22", longEdge: null, jpegQuality: 90,
      metadata: true, namePattern: "{print}",
    } as unknown as Parameters<typeof writePrint>[2]; // prettier-ignore
    await writePrint(engine, engine.prepare(defaultRecipe()), options, opened.info, out);
    const found = (await exifr.parse(await import("node:fs/promises").then((fs) => fs.readFile(out)))) as object;
    expect(found).toMatchObject({ Artist: "Ines Éloïse Brandt", Copyright: "© 2026 nobody" });
  }
  expect((await sharp(join(folder, "authored.jpeg")).metadata()).channels).toBe(1);
});
