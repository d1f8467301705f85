import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "@jest/globals";
import {
  iccProfile,
  invert3,
  readMatrixProfile,
  REC2020,
  REC709,
  rgbSpace,
  SRGB_TRANSFER,
  transform3,
  type KernelHeap,
  type Transfer,
  type Vector3,
  writeTiff,
} from "@yelm/core";
import sharp from "sharp";
import { openKernels } from "../kernels.ts";
import { openCapture } from "../linear-picture.ts";

const GAMMA22: Transfer = { encode: (v) => v ** (1 / 2.2), decode: (v) => v ** 2.2 };
/** A space wider than any screen's. */
const WIDE = rgbSpace([0.7347, 0.2653], [0.1152, 0.8264], [0.1566, 0.0177], [0.3127, 0.329]);
let heap: KernelHeap;
let folder: string;
beforeAll(async () => {
  heap = await openKernels();
  folder = await mkdtemp(join(tmpdir(), "yelm-formats-"));
});
afterAll(() => rm(folder, { recursive: true }));

/** Working colour of a file's first pixel. */
async function open(bytes: Uint8Array, name: string) {
  const path = join(folder, name);
  await writeFile(path, bytes);
  let first: Vector3 = [0, 0, 0];
  const { info } = await openCapture(heap, path, name, ({ width, height }) => (place, halves) => {
    if (place.level > 0) return;
    const mark = heap.mark();
    const from = heap.place(halves);
    const to = heap.allocate(4 * halves.length);
    heap.kernels.halfToFloat(from, to, halves.length);
    const floats = heap.floats(to, halves.length);
    const n = width * height;
    const over = halves.length > 3 * n ? floats[3 * n] : 0;
    first = [floats[0] + over, floats[n] + over, floats[2 * n] + over];
    heap.release(mark);
  });
  return { info, first };
}

/** A file of one colour, codes 0–1. */
function image(colour: readonly number[], width = 8, height = 6) {
  const channels = colour.length as 1 | 3;
  const codes = Uint16Array.from({ length: width * height * channels }, (_, i) =>
    Math.round(65535 * colour[i % channels]),
  );
  return sharp(codes, { raw: { width, height, channels } }).toColourspace(channels === 1 ? "grey16" : "rgb16");
}

/** A 16-bit TIFF of one colour with a profile, its codes as they are. */
function tiffWith(colour: readonly number[], icc: Uint8Array, width = 8, height = 6): Uint8Array {
  const codes = Uint16Array.from({ length: width * height * colour.length }, (_, i) =>
    Math.round(65535 * colour[i % colour.length]),
  );
  const blocks = [new Uint8Array(codes.buffer)];
  return writeTiff({
    fields: [
      { tag: 256, type: "long", values: [width] },
      { tag: 257, type: "long", values: [height] },
      { tag: 258, type: "short", values: colour.map(() => 16) },
      { tag: 259, type: "short", values: [1] },
      { tag: 262, type: "short", values: [colour.length === 1 ? 1 : 2] },
      { tag: 277, type: "short", values: [colour.length] },
      { tag: 278, type: "long", values: [height] },
      { tag: 34675, type: "undefined", values: Array.from(icc) },
    ],
    data: { offsetTag: 273, lengthTag: 279, blocks },
  });
}

/** Puts a profile into a JPEG in place of its own, after its first marker (ICC.1:2010, B.4). */
function jpegWith(jpeg: Uint8Array, icc: Uint8Array): Uint8Array {
  const name = new TextEncoder().encode("ICC_PROFILE\0");
  const length = 2 + name.length + 2 + icc.length;
  const kept: number[] = [];
  let at = 2;
  while (jpeg[at + 1] !== 0xda) {
    const size = 2 + 256 * jpeg[at + 2] + jpeg[at + 3];
    if (jpeg[at + 1] !== 0xe2) kept.push(...jpeg.subarray(at, at + size));
    at += size;
  }
  return Uint8Array.from([
    0xff, 0xd8, 0xff, 0xe2, length >> 8, length & 255, ...name, 1, 1, ...icc, ...kept, ...jpeg.subarray(at),
  ]); // prettier-ignore
}

describe("profiles", () => {
  test("read back what was written: curve, primaries, adaptation", () => {
    for (const space of [REC709, REC2020, WIDE]) {
      const profile = readMatrixProfile(iccProfile({ description: "x", transfer: GAMMA22, model: "rgb", space }))!;
      expect(profile.curves.map((curve) => Number(curve(0.5).toFixed(4)))).toEqual(Array(3).fill(0.2176));
      const white = transform3(profile.toWorking, [1, 1, 1]);
      const red = transform3(profile.toWorking, [1, 0, 0]);
      const truth = transform3(REC2020.fromXyz, transform3(space.toXyz, [1, 0, 0]));
      for (const c of [0, 1, 2]) {
        expect(Math.abs(white[c] - 1)).toBeLessThan(1e-3);
        expect(Math.abs(red[c] - truth[c])).toBeLessThan(2e-3);
      }
    }
    const grey = readMatrixProfile(iccProfile({ description: "x", transfer: GAMMA22, model: "grey" }))!;
    expect([grey.model, Number(grey.curves[0](0.5).toFixed(4))]).toEqual(["grey", 0.2176]);
  });

  test("what is no matrix profile, or is cut short, is refused without harm", () => {
    const whole = iccProfile({ description: "x", transfer: GAMMA22, model: "rgb" });
    expect(readMatrixProfile(new Uint8Array(0))).toBeNull();
    for (let length = 0; length < whole.length; length += 37) {
      const found = readMatrixProfile(whole.slice(0, length));
      expect(found === null || found.curves.length === 3).toBe(true);
    }
    for (let i = 0; i < whole.length; i += 3) {
      const bent = whole.slice();
      bent[i] ^= 0xff;
      expect(() => readMatrixProfile(bent)).not.toThrow();
    }
  });

  test("a 16-bit TIFF in a wide space keeps colours that a screen's space would lose", async () => {
    const profile = iccProfile({ description: "wide", transfer: GAMMA22, model: "rgb", space: WIDE });
    const colour: Vector3 = [0.8, 0.12, 0.05];
    const coded = colour.map((v) => GAMMA22.encode(v));
    const { info, first } = await open(tiffWith(coded, profile), "wide.tif");
    const truth = transform3(REC2020.fromXyz, transform3(WIDE.toXyz, colour));
    expect(info).toMatchObject({ kind: "tiff", grey: false });
    // In the screen's space its green would be negative, and lost.
    expect(transform3(invert3(REC709.toXyz), transform3(WIDE.toXyz, colour))[1]).toBeLessThan(0);
    for (const c of [0, 1, 2]) expect(Math.abs(first[c] - truth[c])).toBeLessThan(4e-3);
  });

  test("without a profile, codes are sRGB; PNG and TIFF agree", async () => {
    const colour: Vector3 = [0.5, 0.3, 0.1];
    const coded = colour.map((v) => SRGB_TRANSFER.encode(v));
    const truth = transform3(REC2020.fromXyz, transform3(REC709.toXyz, colour));
    for (const [name, bytes] of [
      ["plain.png", await image(coded).png().toBuffer()],
      ["plain.tif", await image(coded).tiff({ compression: "none" }).toBuffer()],
    ] as const) {
      const { first } = await open(bytes, name);
      for (const c of [0, 1, 2]) expect(Math.abs(first[c] - truth[c])).toBeLessThan(1e-3);
    }
  });

  test("a JPEG's profile and orientation are honoured", async () => {
    const profile = iccProfile({ description: "wide", transfer: GAMMA22, model: "rgb", space: REC2020 });
    const coded = [0.4, 0.3, 0.2].map((v) => GAMMA22.encode(v));
    const codes = Uint8Array.from({ length: 24 * 16 * 3 }, (_, i) => Math.round(255 * coded[i % 3]));
    const plain = await sharp(codes, { raw: { width: 24, height: 16, channels: 3 } })
      .withMetadata({ orientation: 6 })
      .jpeg({ quality: 100, chromaSubsampling: "4:4:4" })
      .toBuffer();
    const jpeg = jpegWith(plain, profile);
    const { info, first } = await open(jpeg, "turned.jpg");
    expect([info.kind, info.width, info.height]).toEqual(["jpeg", 16, 24]);
    for (const [c, v] of [0.4, 0.3, 0.2].entries()) expect(Math.abs(first[c] - v)).toBeLessThan(0.006);
  });
});

describe("files without colour", () => {
  test("a grey TIFF with a gamma profile, and a colour file whose channels are one, are told as grey", async () => {
    const light = 0.2;
    const plain = await open(
      await image([SRGB_TRANSFER.encode(light)])
        .tiff({ compression: "none" })
        .toBuffer(),
      "g.tif",
    );
    const gamma = iccProfile({ description: "grey", transfer: GAMMA22, model: "grey" });
    const profiled = await open(tiffWith([GAMMA22.encode(light)], gamma), "p.tif");
    expect([profiled.info.grey, Math.abs(profiled.first[1] - light) < 1e-3]).toEqual([true, true]);
    const same = await open(await image(new Array<number>(3).fill(0.5)).png().toBuffer(), "same.png");
    expect([plain.info.grey, same.info.grey]).toEqual([true, true]);
    for (const c of [0, 1, 2]) expect(Math.abs(plain.first[c] - light)).toBeLessThan(1e-3);
    const coloured = await open(await image([0.5, 0.51, 0.5]).png().toBuffer(), "almost.png");
    expect(coloured.info.grey).toBe(false);
  });
});
