// Weigh against scenes of known coverage: two materials that mix in pixels, their families moved apart.
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import { join } from "node:path";
import * as camera from "@yelm/camera";
import * as core from "@yelm/core";
import { ROOT } from "./run.mjs";

const server = await import("../packages/server/dist/index.js");
const sharp = createRequire(join(ROOT, "packages/server/package.json"))("sharp");

/** Linear Rec.709. */
const COLOURS = {
  straw: [0.45, 0.33, 0.14], sky: [0.3, 0.45, 0.75], red: [0.45, 0.04, 0.05], green: [0.08, 0.16, 0.04],
  leaf: [0.12, 0.22, 0.05], cloud: [0.8, 0.8, 0.82], skin: [0.55, 0.35, 0.27], foliage: [0.06, 0.12, 0.03],
  brick: [0.3, 0.12, 0.07], cloth: [0.05, 0.08, 0.3], grass: [0.15, 0.25, 0.06], twig: [0.06, 0.045, 0.035],
  sea: [0.08, 0.2, 0.25], violet: [0.3, 0.12, 0.4], yellow: [0.7, 0.55, 0.05], heather: [0.35, 0.2, 0.35],
}; // prettier-ignore
const PAIRS = [
  ["straw", "sky"], ["red", "green"], ["leaf", "cloud"], ["skin", "foliage"], ["brick", "sky"], ["cloth", "grass"],
  ["twig", "cloud"], ["straw", "sea"], ["violet", "grass"], ["yellow", "cloth"], ["heather", "sky"], ["red", "sky"],
]; // prettier-ignore
const DEFOCUS = [0.7, 1.5, 4];
const BORDER = 16;
export const MOVES = [0.8, -1];

/** Scenes of every kind, pair and defocus, spread so that each meets several of the others. */
export function coverageCases(width = 480, height = 320, count = 24) {
  return Array.from({ length: count }, (_, i) => {
    const [front, back] = PAIRS[i % PAIRS.length];
    const kind = camera.COVERAGE_KINDS[(i + Math.floor(i / PAIRS.length)) % camera.COVERAGE_KINDS.length];
    const defocusPx = DEFOCUS[Math.floor(i / 2) % DEFOCUS.length];
    const scene = camera.drawCoverage({ kind, width, height, front: COLOURS[front], back: COLOURS[back], defocusPx, seed: i + 1 }); // prettier-ignore
    return { name: `${front} on ${back}, ${kind} ${defocusPx}`, front, back, scene, turned: i % 4 > 1 };
  });
}

/** Ways from scene to file. */
export const SOURCES = {
  ...Object.fromEntries(
    [100, 400, 1600, 6400].map((iso) => [
      `raw ISO ${iso}`,
      { file: "a.dng", make: (scene, seed) => camera.shoot(scene, { iso, seed, camera: { ...camera.HALDEN_ONE, hotPixels: 0 } }) }, // prettier-ignore
    ]),
  ),
  "PNG 16 bit": { file: "a.png", make: (scene) => encoded(scene).png().toBuffer() },
  ...Object.fromEntries(
    [70, 85, 95].map((quality) => [`JPEG ${quality}`, { file: "a.jpg", jpeg: true, make: (scene) => jpeg(scene, quality) }]), // prettier-ignore
  ),
  "PNG ×1.5": { file: "a.png", enlarged: true, make: (scene) => encoded(scene).png().toBuffer() },
  "JPEG 85 ×1.5": { file: "a.jpg", jpeg: true, enlarged: true, make: (scene) => jpeg(scene, 85) },
};

function encoded({ rgb, width, height }) {
  const codes = Uint16Array.from(rgb, (v) =>
    Math.round(65535 * core.SRGB_TRANSFER.encode(Math.min(1, Math.max(0, v)))),
  );
  return sharp(codes, { raw: { width, height, channels: 3 } }).toColourspace("rgb16");
}

/** Sixteen bits are brought to eight first, as a camera does. */
async function jpeg({ rgb, width, height }, quality) {
  const codes = Uint8Array.from(rgb, (v) => Math.round(255 * core.SRGB_TRANSFER.encode(Math.min(1, Math.max(0, v)))));
  return sharp(codes, { raw: { width, height, channels: 3 } })
    .jpeg({ quality, chromaSubsampling: "4:2:0" })
    .toBuffer();
}

/** A scene with its truth, one and a half times as large. */
function enlarge(scene) {
  const width = Math.round(1.5 * scene.width);
  const larger = (rgb) => camera.resizeScene({ ...scene, rgb }, width);
  const coverage = larger(Float32Array.from({ length: 3 * scene.coverage.length }, (_, i) => scene.coverage[Math.floor(i / 3)])); // prettier-ignore
  return {
    ...larger(scene.rgb),
    coverage: coverage.rgb.filter((_, i) => i % 3 === 0),
    front: larger(scene.front).rgb,
    back: larger(scene.back).rgb,
  };
}

/** Opens a file as an import does. */
export async function open(heap, bytes, file) {
  const folder = mkdtempSync(join(tmpdir(), "yelm-measure-"));
  try {
    writeFileSync(join(folder, file), bytes);
    const tiles = new Map();
    const { info } = await server.openCapture(heap, join(folder, file), file, () => (place, halves) =>
      tiles.set(core.tileKey(place), halves),
    ); // prettier-ignore
    const size = { width: info.width, height: info.height };
    const source = { size, tile: (place) => tiles.get(core.tileKey(place)) };
    return { info, size, engine: new core.Engine(heap, source, core.factsOf(info)) };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

const toWorking = (rgb, i) => core.transform3(core.REC709_TO_REC2020, [rgb[3 * i], rgb[3 * i + 1], rgb[3 * i + 2]]);

/** The mean colour of one of a scene's materials, linear working. */
function meanColour(rgb) {
  const sum = [0, 0, 0];
  for (let i = 0; i < rgb.length; i++) sum[i % 3] += rgb[i];
  return toWorking(sum.map((v) => (3 * v) / rgb.length), 0); // prettier-ignore
}

/** A recipe whose families are the two materials and two bystanders. */
export function movedRecipe(scene, turned, moves = MOVES) {
  const recipe = core.defaultRecipe();
  const stops = turned ? [moves[1], moves[0]] : moves;
  const places = [scene.front, scene.back].map((rgb) => core.familyPlace(meanColour(rgb)));
  const own = places.flatMap((place, i) =>
    core.colourShare(place) > 0.5 ? [{ ...core.newFamily(`f${i}`, `f${i}`, place), stops: stops[i] }] : [],
  );
  const others = [[0.25, 0.1, 0.6], [-0.12, -0.2, 0.6], [-0.15, 0.15, 0.5], [0.1, -0.2, 0.5]].filter((place) =>
    places.every((near) => core.placeDistance(near, place) > 0.18),
  ); // prettier-ignore
  const bystanders = others.map((place, i) => core.newFamily(`o${i}`, `o${i}`, place));
  recipe.weigh.families = [...own, ...bystanders];
  return recipe;
}

/** Rendered light against the formula α·A·2^a + (1 − α)·B·2^b, a border left out. */
export function judge({ engine, size }, scene, recipe) {
  const light = engine.renderLight(engine.prepare(recipe), { x: 0, y: 0, ...size, scale: 1, level: 0 });
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++)
      if (x < BORDER || y < BORDER || x >= size.width - BORDER || y >= size.height - BORDER) light[y * size.width + x] = NaN; // prettier-ignore
  const model = core.greyModel(recipe.weigh);
  const lights = [scene.front, scene.back].map((rgb) => {
    const gain = 2 ** core.colourStops(model, meanColour(rgb));
    return Float32Array.from(scene.coverage, (_, i) => gain * core.luminanceOf(toWorking(rgb, i)));
  });
  return core.mixtureError(light, { coverage: scene.coverage, first: lights[0], second: lights[1] });
}

/** Errors of all cases by source, and of plain luminance beside them: what noise and the file itself make. */
export async function mixtures(heap, table, only) {
  const cases = coverageCases();
  const rows = [["source", "mean L*", "p99 L*", "beyond", "flat stops", "unmoved mean", "unmoved p99"]];
  for (const [name, { file, enlarged, make }] of Object.entries(SOURCES)) {
    if (only && !name.includes(only)) continue;
    const found = [];
    const still = [];
    for (const [i, { name: caseName, scene: drawn, turned }] of cases.entries()) {
      const scene = enlarged ? enlarge(drawn) : drawn;
      const opened = await open(heap, await make(scene, i + 1), file);
      found.push(judge(opened, scene, movedRecipe(scene, turned)));
      still.push(judge(opened, scene, movedRecipe(scene, turned, [0, 0])));
      if (only) {
        const { mean, p99, beyond, flatStops } = found.at(-1);
        console.log(`    ${caseName.padEnd(34)} ${mean.toFixed(2)} ${p99.toFixed(2)} ${(100 * beyond).toFixed(2)} % ${flatStops.toFixed(3)}`); // prettier-ignore
      }
    }
    const mean = (list, key) => list.reduce((sum, one) => sum + one[key] * one.count, 0) / list.reduce((sum, { count }) => sum + count, 0); // prettier-ignore
    rows.push([
      name,
      mean(found, "mean").toFixed(2),
      mean(found, "p99").toFixed(2),
      `${(100 * mean(found, "beyond")).toFixed(2)} %`,
      Math.max(...found.map(({ flatStops }) => flatStops)).toFixed(3),
      mean(still, "mean").toFixed(2),
      mean(still, "p99").toFixed(2),
    ]);
  }
  table(`Mixed pixels (coverage 0.02–0.98) of ${cases.length} scenes, families moved ${MOVES.join(" and ")} stops, against the mixture of the lights`, rows); // prettier-ignore
}
