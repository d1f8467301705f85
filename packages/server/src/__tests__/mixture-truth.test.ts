import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, test } from "@jest/globals";
import {
  judgeMixture,
  judgeSparks,
  mixtureCases,
  movedRecipe,
  shoot,
  shootJpeg,
  sparklingCase,
  type SparkError,
  unevenCase,
  type MixtureCase,
} from "@yelm/camera";
import {
  defaultRecipe,
  REC2020_TO_REC709,
  REC709_TO_REC2020,
  SRGB_TRANSFER,
  transform3,
  type Engine,
  type Family,
  type Weigh,
  type MixtureError,
  type Size,
  type Vector3,
} from "@yelm/core";
import sharp from "sharp";
import { openEngine } from "../cli/open-engine.ts";
import type { Opening } from "../files/linear-picture.ts";

/** A file's picture, opened as an import opens it. */
async function opened(file: string, bytes: Uint8Array, opening: Opening = {}): Promise<{ engine: Engine; size: Size }> {
  const folder = mkdtempSync(join(tmpdir(), "yelm-mixture-"));
  try {
    writeFileSync(join(folder, file), bytes);
    return await openEngine(join(folder, file), opening);
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** What a case's picture makes of mixed pixels. */
async function judged(one: MixtureCase, file: string, bytes: Uint8Array, bystander = 0): Promise<MixtureError> {
  const { engine, size } = await opened(file, bytes);
  return judgeMixture(engine, size, one.scene, movedRecipe(one, bystander));
}

const CASES = mixtureCases(240, 160, 12);
/** Materials whose light and colour vary by a third of a stop. */
const UNEVEN = mixtureCases(480, 320, 24)
  .slice(12)
  .map((one, i) => unevenCase(one, 0.3, [2, 4, 8][i % 3], i + 1));
const over = (errors: readonly MixtureError[], key: "mean" | "p99" | "beyond") =>
  errors.reduce((sum, one) => sum + one[key] * one.count, 0) / errors.reduce((sum, { count }) => sum + count, 0);

test.each([
  ["raw", CASES, "a.dng", (one: MixtureCase, seed: number) => shoot(one.scene, { iso: 200, seed }), 2, 8, 0.01],
  ["JPEG of halved chroma", CASES, "a.jpg", (one: MixtureCase, seed: number) => shootJpeg(one.scene, { stops: 0, quality: 88, seed }), 3, 12, 0.03],
  ["PNG of uneven materials", UNEVEN, "a.png", ({ scene }: MixtureCase) => png(scene, (x, y) => transform3(REC709_TO_REC2020, [0, 1, 2].map((c) => scene.rgb[3 * (y * scene.width + x) + c]) as unknown as Vector3)), 1.3, 5.2, 0.02],
] as const)("%s: moved families keep mixtures of materials mixtures of their lights", async (_name, cases, file, make, mean, p99, beyond) => {
  const errors: MixtureError[] = [];
  for (const [i, one] of cases.entries()) errors.push(await judged(one, file, await make(one, i + 1), cases === UNEVEN ? -1.5 : 0));
  expect(over(errors, "mean")).toBeLessThan(mean);
  expect(over(errors, "p99")).toBeLessThan(p99);
  expect(over(errors, "beyond")).toBeLessThan(beyond);
}, 120_000); // prettier-ignore

/** A 16-bit PNG of a linear working colour at each place. */
function png({ width, height }: Size, colourAt: (x: number, y: number) => Vector3): Promise<Buffer> {
  const codes = new Uint16Array(3 * width * height);
  for (let i = 0; i < width * height; i++)
    transform3(REC2020_TO_REC709, colourAt(i % width, Math.floor(i / width))).forEach((v, c) => {
      codes[3 * i + c] = Math.round(65535 * SRGB_TRANSFER.encode(Math.min(1, Math.max(0, v))));
    });
  return sharp(codes, { raw: { width, height, channels: 3 } })
    .toColourspace("rgb16")
    .png()
    .toBuffer();
}

test.each([
  ["PNG", "a.png", ({ scene }: MixtureCase) => png(scene, (x, y) => transform3(REC709_TO_REC2020, [0, 1, 2].map((c) => scene.rgb[3 * (y * scene.width + x) + c]) as unknown as Vector3)), 2.7, 13],
  ["JPEG of halved chroma", "a.jpg", ({ scene }: MixtureCase) => shootJpeg(scene, { stops: 0, quality: 85, seed: 1 }), 2.5, 10],
] as const)("%s: what sparkles beyond white keeps the stops of its material, though a full channel turns its colour", async (_name, file, make, mean, p99) => {
  const [found, before]: [SparkError[], SparkError[]] = [[], []];
  for (const [i, plain] of CASES.entries()) {
    const one = sparklingCase(plain, 0.8, 1.5, i + 1);
    const { engine, size } = await opened(file, await make(one));
    const judged = judgeSparks(engine, size, one);
    if (judged.count < 100) continue;
    found.push(judged);
    before.push(judgeSparks(engine, size, one, "colours"));
  }
  expect(found.length).toBeGreaterThan(3);
  const over = (key: "mean" | "p99", errors = found) => errors.reduce((sum, one) => sum + one[key], 0) / errors.length;
  expect(over("mean")).toBeLessThan(mean);
  expect(over("p99")).toBeLessThan(p99);
  expect(over("mean", before)).toBeGreaterThan(1.2 * over("mean"));
}, 120_000); // prettier-ignore

const mix = (a: number, one: Vector3, other: Vector3) => one.map((v, c) => a * v + (1 - a) * other[c]) as unknown as Vector3; // prettier-ignore

test.each([10, 16, 22])("a thing of uneven colour, %d pixels to its border, gets nothing of a family that is not there", async (half) => {
  const size = { width: 240, height: 160 };
  // Orange that changes from side to side and along, before even leaves: no pixel of it is as pure as theirs.
  const bytes = await png(size, (x, y) => {
    const cover = Math.min(1, Math.max(0, (half + 3 - Math.abs(x - 120)) / 6));
    const t = (x - 120 + half) / (2 * half) + 0.15 * Math.sin(y / 5);
    return mix(cover, [0.66 - 0.16 * t, 0.26 - 0.12 * t, 0.034 - 0.012 * t], [0.24, 0.34, 0.067]);
  });
  const { engine } = await opened("a.png", bytes);
  const family = (name: string, hueDegrees: number, saturation: number, lightness: number, stops: number): Family => ({ id: name, name, hueDegrees, saturation, lightness, reach: 1, stops, pinned: false }); // prettier-ignore
  const light = (stops: Vector3) => {
    const base = defaultRecipe();
    const families = [family("leaf", 126, 0.2, 0.54, stops[0]), family("sky", 258, 0.1, 0.73, stops[1]), family("amber", 62, 0.16, 0.64, stops[2])]; // prettier-ignore
    const recipe = { ...base, weigh: { ...base.weigh, families } };
    return engine.renderLight(engine.prepare(recipe), { x: 20, y: 20, width: 200, height: 120, scale: 1, level: 0 }).slice(); // prettier-ignore
  };
  const plain = light([0, 0, 0]);
  const moves = light([1, -1, 0]).map((v, i) => Math.log2(v / plain[i]));
  expect(Math.min(...moves)).toBeGreaterThan(-0.06);
  expect(Math.max(...moves)).toBeLessThan(1.06);
}, 60_000); // prettier-ignore

test("where colours of a file are noise, they are smoothed, else moved light is held to its surroundings: fewer stains, and light as far apart", async () => {
  const size = { width: 320, height: 240 };
  let state = 9;
  const random = () => (state = (state * 1664525 + 1013904223) >>> 0) / 2 ** 32 - 0.5;
  // Out of focus, from one dark colour into another, with noise of colour that goes on for some pixels.
  const stains = Array.from({ length: 81 * 61 }, () => [random(), random(), random()]);
  const bytes = await png(size, (x, y) => {
    const [a, b, c] = stains[81 * (y >> 2) + (x >> 2)];
    const [r, g, blue] = mix(Math.min(1, Math.max(0, (x - 90) / 140)), [0.034, 0.024, 0.006], [0.02, 0.028, 0.006]);
    return [r * (1 + 0.3 * a), g * (1 + 0.36 * b), blue * (1 + 0.72 * c)];
  });
  const kept = await opened("a.png", bytes, { smooth: false });
  const smoothed = await opened("a.png", bytes);
  const family = (name: string, hueDegrees: number, stops: number): Family => ({ id: name, name, hueDegrees, saturation: 0.16, lightness: 0.3, reach: 1, stops, pinned: false }); // prettier-ignore
  const view = { x: 40, y: 30, width: 240, height: 180, scale: 1, level: 0 };
  const light = ({ engine }: typeof kept, noisyColours: Weigh["noisyColours"], stops: readonly [number, number]) => {
    const base = defaultRecipe();
    const families = [family("gold", 75, stops[0]), family("moss", 118, stops[1])];
    const recipe = { ...base, weigh: { ...base.weigh, families, noisyColours } };
    return engine.renderLight(engine.prepare(recipe), view).slice();
  };
  const plain = light(kept, "held", [0, 0]);
  const moves = (of: typeof kept, noisyColours: Weigh["noisyColours"]) =>
    light(of, noisyColours, [-1.2, 0.9]).map((v, i) => Math.log2(v / plain[i]));
  const columns = (values: Float32Array) =>
    Array.from({ length: view.width }, (_, x) => {
      const column = Array.from({ length: view.height }, (_v, y) => values[y * view.width + x]);
      const mean = column.reduce((sum, v) => sum + v, 0) / column.length;
      return { mean, stain: Math.sqrt(column.reduce((sum, v) => sum + (v - mean) ** 2, 0) / column.length) };
    });
  const followed = columns(moves(kept, "followed"));
  const stain = (list: typeof followed) => list.reduce((sum, one) => sum + one.stain, 0) / list.length;
  const apart = (list: typeof followed) => list.at(0)!.mean - list.at(-1)!.mean;
  expect(stain(followed)).toBeGreaterThan(0.1);
  for (const better of [columns(moves(kept, "held")), columns(moves(smoothed, "followed"))]) {
    expect(stain(better)).toBeLessThan(0.5 * stain(followed));
    expect(apart(better)).toBeGreaterThan(apart(followed) - 0.15);
  }
}, 60_000);

test("a raw file, whose noise is smoothed at import, is not held", async () => {
  const [one] = CASES;
  const { engine } = await opened("a.dng", await shoot(one.scene, { iso: 1600, seed: 1 }));
  const light = (noisyColours: Weigh["noisyColours"]) => {
    const recipe = movedRecipe(one);
    const print = engine.prepare({ ...recipe, weigh: { ...recipe.weigh, noisyColours } });
    return engine.renderLight(print, { x: 0, y: 0, width: 200, height: 120, scale: 1, level: 0 }).slice();
  };
  expect(Buffer.from(light("held").buffer).equals(Buffer.from(light("followed").buffer))).toBe(true);
}, 60_000);
