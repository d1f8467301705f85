import { mkdtemp, readdir, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "@jest/globals";
import {
  drawChart,
  DYES,
  expose,
  HALDEN_ONE,
  PATCHES,
  PATTERNS,
  PLAIN_EXPOSURE,
  referenceCamera,
  resizeScene,
  shoot,
  turnScene,
  weave,
  type Scene,
  type CameraModel,
} from "@yelm/camera";
import {
  balanceGains,
  cameraToWorking,
  defaultRecipe,
  demosaicRows,
  SRGB_TRANSFER,
  type DemosaicMethod,
  type Matrix3,
  Engine,
  REC2020,
  REC709_TO_REC2020,
  transform3,
  type KernelHeap,
  type LinearTiles,
  type Size,
  type TilePlace,
  type Vector3,
} from "@yelm/core";
import { openKernels } from "../kernels.ts";
import { openCapture } from "../linear-picture.ts";
import { unpackRaw } from "../raw.ts";

let heap: KernelHeap;
let folder: string;
beforeAll(async () => {
  heap = await openKernels();
  folder = await mkdtemp(join(tmpdir(), "yelm-raw-"));
});
afterAll(() => rm(folder, { recursive: true }));

class Kept implements LinearTiles {
  size: Size = { width: 0, height: 0 };
  readonly #tiles = new Map<string, Uint16Array>();
  keep = (place: TilePlace, halves: Uint16Array) => void this.#tiles.set(JSON.stringify(place), halves);
  tile = ({ level, column, row }: TilePlace) => this.#tiles.get(JSON.stringify({ level, column, row }))!;
}

/** Takes a file through the real opening and returns the whole picture in linear working colour. */
async function open(bytes: Uint8Array, name = "test.dng") {
  const path = join(folder, name);
  await writeFile(path, bytes);
  const tiles = new Kept();
  const { info } = await openCapture(heap, path, name, (size) => {
    tiles.size = { width: size.width, height: size.height };
    return tiles.keep;
  });
  const engine = new Engine(heap, tiles);
  const print = engine.prepare(defaultRecipe());
  const view = { x: 0, y: 0, width: info.width, height: info.height, scale: 1, level: 0 };
  return { info, planes: engine.renderWorking(print, view) };
}

describe("the simulated camera's files through the unpacker", () => {
  const scene = drawChart("detail", 150, 106);
  const variants = [
    ...PATTERNS.map((pattern) => ({ pattern, bits: 14 as const, compress: true, size: [150, 106] })),
    { pattern: "RGGB" as const, bits: 12 as const, compress: true, size: [150, 106] },
    { pattern: "GBRG" as const, bits: 12 as const, compress: false, size: [150, 106] },
    { pattern: "BGGR" as const, bits: 14 as const, compress: false, size: [514, 70] },
    { pattern: "GRBG" as const, bits: 14 as const, compress: true, size: [514, 530] },
    { pattern: "RGGB" as const, bits: 14 as const, compress: true, size: [1024, 40] },
  ];
  test.each(variants)("%j: the exact mosaic, levels and phase", async ({ pattern, bits, compress, size }) => {
    const camera = { ...HALDEN_ONE, bits, blackLevel: bits === 12 ? 128 : 512 };
    const picture = size[0] === 150 ? scene : drawChart("detail", size[0], size[1]);
    const frame = expose(picture, camera, { ...PLAIN_EXPOSURE, pattern, iso: 800 });
    const dng = await shoot(picture, { camera, pattern, compress, iso: 800 });
    const opened = await unpackRaw(dng);
    if (!("mosaic" in opened)) throw new Error("Expected a mosaic.");
    const { mosaic, info } = opened;
    expect([mosaic.width, mosaic.height, info.cfa]).toEqual([...size, pattern]);
    expect([mosaic.black, mosaic.white]).toEqual([new Array(4).fill(camera.blackLevel), 2 ** bits - 1]);
    let differing = 0;
    for (let y = 0; y < mosaic.height; y++)
      for (let x = 0; x < mosaic.width; x++)
        if (mosaic.data[(mosaic.top + y) * mosaic.stride + mosaic.left + x] !== frame.data[y * frame.width + x])
          differing++;
    expect(differing).toBe(0);
    expect(info).toMatchObject({
      make: HALDEN_ONE.make,
      model: HALDEN_ONE.model,
      iso: 800,
      kind: "raw",
      demosaic: "directional",
    });
    expect(info.noise).toMatchObject({ source: "file", slope: [1 / 6500, 1 / 6500, 1 / 6500] });
  });

  test("black levels of their own for the four sites, and borders that see no light, leave a flat field flat", async () => {
    const camera: CameraModel = { ...HALDEN_ONE, blackOffsets: [0, 37, -21, 64], hotPixels: 0 };
    const flat = drawChart("flat", 160, 120, 0.02);
    const dng = await shoot(flat, { camera, noise: false, pattern: "GBRG", maskedBorder: [16, 8] });
    const { info, planes } = await open(dng);
    expect([info.width, info.height, info.black]).toEqual([160, 120, [512, 549, 491, 576]]);
    for (const plane of planes) {
      const [least, most] = [plane.reduce((a, b) => Math.min(a, b)), plane.reduce((a, b) => Math.max(a, b))];
      // Half a code of rounding on either side; wrong black levels would be ten times as far apart.
      expect(most - least).toBeLessThan(2.5 / 15871);
      expect(Math.abs((most + least) / 2 - 0.02)).toBeLessThan(3e-4);
    }
  });

  test.each([
    [1, 0],
    [3, 2],
    [6, 1],
    [8, 3],
  ])("EXIF orientation %d is turned upright", async (orientation, turns) => {
    const { info, planes } = await open(await shoot(scene, { orientation, noise: false }));
    expect([info.quarterTurns, info.width, info.height]).toEqual([turns, ...(turns % 2 ? [106, 150] : [150, 106])]);
    let turned: Scene = scene;
    // The file's turn is clockwise; the helper turns the scene the other way.
    for (let i = 0; i < (4 - turns) % 4; i++) turned = turnScene(turned);
    const [x, y] = [40, 30];
    const expected = transform3(
      REC709_TO_REC2020,
      [0, 1, 2].map((c) => turned.rgb[3 * (y * turned.width + x) + c]) as unknown as Vector3,
    );
    expect(Math.abs(planes[1][y * info.width + x] - expected[1])).toBeLessThan(0.06);
  });
});

test("a reference camera's patches come back within 0.5 % of full scale", async () => {
  const scene = drawChart("patches", 240, 160);
  const dng = await shoot(scene, {
    camera: { ...referenceCamera(REC2020.fromXyz), hotPixels: 0 },
    noise: false,
    neutral: [1, 1, 1],
  });
  const { info, planes } = await open(dng);
  expect(info.neutral).toEqual([1, 1, 1]);
  PATCHES.forEach((patch, i) => {
    const at = (20 + 40 * Math.floor(i / 6)) * 240 + 20 + 40 * (i % 6);
    const expected = transform3(REC709_TO_REC2020, patch);
    for (let c = 0; c < 3; c++) expect([i, c, Math.abs(planes[c][at] - expected[c]) < 0.005]).toEqual([i, c, true]);
  });
});

test("the other camera's own response is undone too: patches within 2 % of full scale", async () => {
  const { planes } = await open(await shoot(drawChart("patches", 240, 160), { noise: false }));
  PATCHES.forEach((patch, i) => {
    const at = (20 + 40 * Math.floor(i / 6)) * 240 + 20 + 40 * (i % 6);
    const expected = transform3(REC709_TO_REC2020, patch);
    for (let c = 0; c < 3; c++) expect(Math.abs(planes[c][at] - expected[c])).toBeLessThan(0.02);
  });
});

describe("demosaic against the scene, in grey", () => {
  const [width, height] = [480, 320];
  /** Leaves, bricks and lines of many sizes: lightness changes at every pixel, colour by region. */
  const fine: Scene = { width: 3 * width, height: 3 * height, rgb: new Float32Array(27 * width * height) };
  const hues = [
    [1, 0.85, 0.6],
    [0.45, 0.8, 0.3],
    [0.5, 0.65, 1],
    [1, 0.45, 0.35],
  ];
  for (let j = 0; j < fine.height; j++)
    for (let i = 0; i < fine.width; i++) {
      const [x, y] = [i / 3, j / 3];
      const leaf = Math.sin(0.9 * x + 3 * Math.sin(0.05 * y)) * Math.sin(0.8 * y + 2 * Math.sin(0.06 * x));
      const brick = (x + 8 * (Math.floor(y / 7) & 1)) % 16 < 2 || y % 7 < 1 ? 0.5 : 1;
      const lines = Math.sin((x * x) / 160 + y / 9) > 0.3 ? 1 : 0.6;
      const which = (Math.floor(x / 120) + Math.floor(y / 107)) % 4;
      const light = 0.35 * [1 + 0.2 * leaf, 0.7 + 0.4 * leaf, lines, brick][which];
      for (let c = 0; c < 3; c++) fine.rgb[3 * (j * fine.width + i) + c] = light * hues[which][c];
    }
  // Each pixel sees the mean of the light on it, as behind a lens.
  const scene = resizeScene(fine, width);
  const camera = { ...HALDEN_ONE, hotPixels: 0 };
  const truth = Float32Array.from({ length: width * height }, (_, i) =>
    grey(
      [0, 1, 2].map((c) => scene.rgb[3 * i + c]),
      REC709_TO_REC2020,
    ),
  );

  function grey(rgb: readonly number[], matrix: Matrix3): number {
    return transform3(matrix, rgb as unknown as Vector3).reduce((sum, v, c) => sum + REC2020.luminance[c] * v, 0);
  }
  /** Peak signal to noise of the grey, in sRGB codes, dB; the border is left out. */
  function psnr(found: (i: number) => number): number {
    let sum = 0;
    let count = 0;
    for (let y = 20; y < height - 20; y++)
      for (let x = 20; x < width - 20; x++, count++) {
        const i = y * width + x;
        sum += (SRGB_TRANSFER.encode(Math.max(0, found(i))) - SRGB_TRANSFER.encode(truth[i])) ** 2;
      }
    return -10 * Math.log10(sum / count);
  }

  test("the directional one is at least 2 dB above the linear one", async () => {
    const dng = await shoot(scene, { noise: false, camera });
    const opened = await unpackRaw(dng);
    if (!("mosaic" in opened)) throw new Error("Expected a mosaic.");
    const { mosaic, info } = opened;
    const matrix = cameraToWorking(info.calibrations, info.neutral!);
    const ours = (method: DemosaicMethod) => {
      const mark = heap.mark();
      const at = demosaicRows(heap, mosaic, balanceGains(info.neutral!), 0, height, method);
      const planes = heap.floats(at, 3 * width * height).slice();
      heap.release(mark);
      return psnr((i) =>
        grey(
          [0, 1, 2].map((c) => planes[c * width * height + i]),
          matrix,
        ),
      );
    };
    const [linear, directional] = [ours("linear"), ours("directional")];
    expect(directional).toBeGreaterThan(linear + 2);
  });
});

test("strong colours: every channel follows light and shade, at sites of its own and of the others", async () => {
  const [width, height] = [900, 200];
  const opened = await unpackRaw(
    await shoot(drawChart("cloth", width, height), { noise: false, camera: { ...HALDEN_ONE, hotPixels: 0 } }),
  );
  if (!("mosaic" in opened)) throw new Error("Expected a mosaic.");
  const { mosaic, info } = opened;
  const mark = heap.mark();
  const at = demosaicRows(heap, mosaic, balanceGains(info.neutral!), 0, height);
  const found = heap.floats(at, 3 * width * height).slice();
  heap.release(mark);
  const wide = width / DYES.length;
  for (let field = 0; field < DYES.length; field++)
    for (let c = 0; c < 3; c++) {
      const pairs: [light: number, shade: number][] = [];
      for (let y = 24; y < height - 24; y++)
        for (let x = field * wide + 24; x < (field + 1) * wide - 24; x++)
          pairs.push([found[(c * height + y) * width + x], weave(x, y)]);
      const sum = (i: 0 | 1) => pairs.reduce((total, pair) => total + pair[i], 0);
      const scale = sum(0) / sum(1);
      const off = pairs.map(([light, shade]) => Math.abs(light / scale - shade)).sort((a, b) => a - b);
      // Shades run from 0.06 to 0.94. Channels compared as they lie miss by 0.15 to 0.74.
      expect(off[Math.floor(0.99 * off.length)]).toBeLessThan(0.06);
    }
});

test("noise at ISO 1600 on a flat grey is what the file's own profile says", async () => {
  const { planes, info } = await open(
    await shoot(drawChart("flat", 400, 300, 0.18), { iso: 1600, camera: { ...HALDEN_ONE, hotPixels: 0 } }),
  );
  const green = planes[1];
  const mean = green.reduce((s, v) => s + v, 0) / green.length;
  expect(Math.abs(mean - 0.18)).toBeLessThan(0.002);
  const sigma = Math.sqrt(green.reduce((s, v) => s + (v - mean) ** 2, 0) / green.length);
  const { slope, offset } = info.noise!;
  const site = Math.sqrt(slope[1] * 0.18 + offset[1]);
  expect(sigma / site).toBeGreaterThan(0.5);
  expect(sigma / site).toBeLessThan(2);
});

describe("files that are no picture", () => {
  test.each([
    ["empty", new Uint8Array(0), "the file is empty"],
    ["noise", Uint8Array.from({ length: 5000 }, (_, i) => (i * 7919) & 255), "Expected a raw file"],
    ["text", new TextEncoder().encode("this is no picture".repeat(50)), "Expected a raw file"],
  ])("%s gives its reason", async (_name, bytes, reason) => {
    await expect(open(bytes)).rejects.toThrow(reason);
  });
  test("a raw file cut short at any place either opens or gives a reason, and never more", async () => {
    const dng = await shoot(drawChart("patches", 200, 150));
    for (let share = 0.05; share < 1; share += 0.1) {
      const cut = dng.slice(0, Math.floor(share * dng.length));
      const outcome = await open(cut).then(
        () => "opened",
        (error: Error & { code?: string }) => error.code ?? error.message,
      );
      expect(["opened", "unreadable_file"]).toContain(outcome);
    }
  });
  test("a raw file called .tif is still opened as the raw file it is", async () => {
    const { info } = await open(await shoot(drawChart("patches", 200, 150)), "wrong.tif");
    expect([info.kind, info.width]).toEqual(["raw", 200]);
  });
});

test("nothing is left in the folder but the files that the tests wrote", async () => {
  expect((await readdir(folder)).every((name) => /^(test|wrong)\.(dng|tif)$/.test(name))).toBe(true);
});
