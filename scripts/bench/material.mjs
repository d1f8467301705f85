// What the bench works on: charts of any size photographed by the simulated camera, and a recipe that uses every stage.
import { existsSync, mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { node, ROOT, run } from "../run.mjs";

export const CACHE = join(ROOT, ".cache", "bench");
export const YELM = join(ROOT, "packages/server/bin/yelm.js");

/** Path of a raw file of about `megapixels`, 3:2, made once. */
export async function rawFile(megapixels) {
  mkdirSync(CACHE, { recursive: true });
  const height = Math.round(Math.sqrt((megapixels * 1e6) / 1.5) / 2) * 2;
  const width = Math.round((height * 1.5) / 2) * 2;
  const path = join(CACHE, `detail-${megapixels}.dng`);
  if (!existsSync(path)) {
    console.log(`· photographing a chart of ${width} × ${height}`);
    const size = ["--width", String(width), "--height", String(height)];
    const camera = join(ROOT, "packages/camera/bin/yelm-camera.js");
    const { code, output } = await run(
      node,
      ["--max-old-space-size=12000", camera, "--chart", "detail", ...size, "--iso", "400", "--out", path],
      { quiet: true },
    );
    if (code !== 0) throw new Error(output);
  }
  return path;
}

/** Six families of colours, all moved. */
const FAMILIES = [
  ["brick", 40, 0.16, 0.55, 0.6],
  ["leaf", 120, 0.13, 0.45, -0.4],
  ["sky", 250, 0.1, 0.7, -1.1],
  ["gold", 90, 0.18, 0.6, 0.3],
  ["plum", 330, 0.12, 0.4, 0.2],
  ["teal", 195, 0.1, 0.5, -0.3],
].map(([name, hueDegrees, saturation, lightness, stops]) => ({
  id: name,
  name,
  hueDegrees,
  saturation,
  lightness,
  reach: 1,
  stops,
  pinned: false,
}));

/** Families moved, six light moves, local contrast, a film-like curve with points, grain, toning and burned edges. */
export async function fullRecipe() {
  const { defaultRecipe, plainMove } = await import("../../packages/core/dist/index.js");
  const base = defaultRecipe();
  const ellipse = (i) => ({
    id: `e${i}`, name: `Ellipse ${i}`, on: true, stops: i % 2 ? 0.5 : -0.7, amountPercent: 100, invert: false, ...plainMove(),
    shape: { kind: "ellipse", x: 0.2 + 0.15 * i, y: 0.2 + 0.08 * i, radiusX: 0.2, radiusY: 0.14, angleDegrees: 20 * i, softness: 0.9 },
  }); // prettier-ignore
  const brush = (i) => ({
    id: `b${i}`, name: `Brush ${i}`, on: true, stops: -0.5, amountPercent: 100, invert: false, ...plainMove(),
    shape: { kind: "brush", strokes: Array.from({ length: 8 }, (_, k) => ({ id: `s${k}`, radius: 0.06, softness: 1, flow: 0.2, erase: false, points: Array.from({ length: 12 }, (_, p) => [0.1 + 0.07 * p, 0.1 * i + 0.05 * k, 1]) })) },
  }); // prettier-ignore
  return {
    ...base,
    ground: { ...base.ground, exposureEv: 0.3 },
    weigh: { ...base.weigh, red: 0.8, green: 0.5, blue: -0.3, families: FAMILIES },
    shape: {
      ...base.shape, blackPoint: -7, whitePoint: 2.3, midPoint: 0.1, grade: 2.6, characteristic: "film",
      localContrast: { low: 0.2, mid: 0.4, high: -0.1 }, curve: [[0, 0.02], [0.4, 0.38], [0.7, 0.74], [1, 0.98]],
    },
    light: { groups: [], contours: [], moves: [ellipse(0), ellipse(1), ellipse(2), ellipse(3), brush(1), brush(3)] },
    finish: {
      ...base.finish,
      grain: { granularity: 12, crystalUm: 6, format: "small", seed: 1 },
      toning: { ...base.finish.toning, toner: "sepia", strength: 0.4, balance: -0.3 },
      edgeBurn: { ...base.finish.edgeBurn, stops: -0.4, start: 0.5, roundness: 0.6 },
    },
  }; // prettier-ignore
}

/** The same print after an hour's work: twenty brush moves of fifteen strokes, one in four of them with a firm edge. */
export async function paintedRecipe() {
  const { plainMove } = await import("../../packages/core/dist/index.js");
  const recipe = await fullRecipe();
  let seed = 7;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  const stroke = (_, k) => {
    const [x, y, angle] = [random(), 0.66 * random(), 2 * Math.PI * random()];
    const points = Array.from({ length: 40 }, (_, p) => [
      x + 0.006 * p * Math.cos(angle + 0.05 * p),
      y + 0.006 * p * Math.sin(angle + 0.05 * p),
      1,
    ]);
    const softness = random() < 0.25 ? 0.3 : 1;
    return { id: `s${k}`, radius: 0.015 + 0.06 * random(), softness, flow: 0.3, erase: random() < 0.15, points };
  };
  const moves = Array.from({ length: 20 }, (_, m) => ({
    id: `m${m}`, name: `Brush ${m}`, on: true, stops: m % 2 ? 0.4 : -0.4, amountPercent: 100, invert: false, ...plainMove(),
    shape: { kind: "brush", strokes: Array.from({ length: 15 }, stroke) },
  })); // prettier-ignore
  return { ...recipe, light: { groups: [], contours: [], moves } };
}

export const recipeFile = join(CACHE, "recipe.json");
export async function writeRecipe(recipe) {
  mkdirSync(CACHE, { recursive: true });
  writeFileSync(recipeFile, JSON.stringify(recipe));
  return recipeFile;
}

export const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];
export const percentile = (values, p) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.ceil(p * values.length) - 1)];
