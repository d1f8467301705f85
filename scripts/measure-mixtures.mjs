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
const CAMERA = { ...camera.HALDEN_ONE, hotPixels: 0 };
const CASES = 24;
/** How much materials vary from place to place where they are uneven, and how far a shade goes on. */
const UNEVEN_STOPS = 0.3;
const UNEVEN_PX = [2, 4, 8];

/** How much light of a front that sparkles varies, and over how many pixels. */
const SPARK_STOPS = 0.8;
const SPARK_PX = [1.5, 3, 6];
/** Sparks in fewer pixels say nothing. */
const FEWEST_SPARKS = 200;

/** Ways from scene to file. */
export const raw = (iso) => ({
  file: "a.dng",
  make: (scene, seed) => camera.shoot(scene, { iso, seed, camera: CAMERA }),
});
export const jpeg = (quality) => ({ file: "a.jpg", make: (scene, seed) => camera.shootJpeg(scene, { stops: 0, quality, seed }) }); // prettier-ignore
export const PNG = { file: "a.png", make: png };
const SOURCES = {
  "raw ISO 100": raw(100),
  "raw ISO 400": raw(400),
  "raw ISO 1600": raw(1600),
  "raw ISO 6400": raw(6400),
  "PNG 16 bit": PNG,
  "JPEG 70": jpeg(70),
  "JPEG 85": jpeg(85),
  "JPEG 95": jpeg(95),
  "PNG ×1.5": { ...PNG, enlarged: true },
  "JPEG 85 ×1.5": { ...jpeg(85), enlarged: true },
  "PNG, uneven": { ...PNG, uneven: true },
  "JPEG 85, uneven": { ...jpeg(85), uneven: true },
};

function png({ rgb, width, height }) {
  const codes = Uint16Array.from(rgb, (v) => Math.round(65535 * core.SRGB_TRANSFER.encode(Math.min(1, Math.max(0, v))))); // prettier-ignore
  return sharp(codes, { raw: { width, height, channels: 3 } })
    .toColourspace("rgb16")
    .png()
    .toBuffer();
}

/** A scene with its truth, one and a half times as large. */
function enlarge(scene) {
  const width = Math.round(1.5 * scene.width);
  const larger = (rgb) => camera.resizeScene({ ...scene, rgb }, width);
  const coverage = larger(Float32Array.from({ length: scene.rgb.length }, (_, i) => scene.coverage[Math.floor(i / 3)]));
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
    const sink = () => (place, halves) => tiles.set(core.tileKey(place), halves);
    const { info } = await server.openCapture(heap, join(folder, file), file, sink);
    const size = { width: info.width, height: info.height };
    const source = { size, tile: (place) => tiles.get(core.tileKey(place)) };
    return { info, size, source, engine: new core.Engine(heap, source, core.factsOf(info)) };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** Errors of all cases by source, and of families that are not moved beside them: what noise and the file itself make. */
export async function mixtures(heap, table, only) {
  const cases = camera.mixtureCases(480, 320, CASES);
  const rows = [
    ["source", "mean L*", "p99 L*", "beyond", "pure stops", "flat stops", "still, mean", "still, p99", "still, beyond"],
  ];
  for (const [name, { file, enlarged, uneven, make }] of Object.entries(SOURCES)) {
    if (only && !name.includes(only)) continue;
    const moved = [];
    const still = [];
    for (const [i, drawn] of cases.entries()) {
      const rough = uneven ? camera.unevenCase(drawn, UNEVEN_STOPS, UNEVEN_PX[i % UNEVEN_PX.length], i + 1) : drawn;
      const one = enlarged ? { ...rough, scene: enlarge(rough.scene) } : rough;
      const { engine, size } = await open(heap, await make(one.scene, i + 1), file);
      // Families of colours that are not there, moved far, must not matter.
      const judge = (stops) =>
        camera.judgeMixture(engine, size, one.scene, camera.movedRecipe({ ...one, stops }, uneven ? -1.5 : 0));
      moved.push(judge(one.stops));
      still.push(judge([0, 0]));
      const { mean, p99, beyond, flatStops } = moved.at(-1);
      if (only) console.log(`    ${one.name.padEnd(44)} ${mean.toFixed(2)} ${p99.toFixed(2)} ${(100 * beyond).toFixed(2)} % ${flatStops.toFixed(3)}`); // prettier-ignore
    }
    const pixels = moved.reduce((sum, { count }) => sum + count, 0);
    const mean = (list, key) => list.reduce((sum, one) => sum + one[key] * one.count, 0) / pixels;
    rows.push([
      name,
      mean(moved, "mean").toFixed(2),
      mean(moved, "p99").toFixed(2),
      `${(100 * mean(moved, "beyond")).toFixed(2)} %`,
      Math.max(...moved.map(({ pureStops }) => pureStops)).toFixed(3),
      Math.max(...moved.map(({ flatStops }) => flatStops)).toFixed(3),
      mean(still, "mean").toFixed(2),
      mean(still, "p99").toFixed(2),
      `${(100 * mean(still, "beyond")).toFixed(2)} %`,
    ]);
  }
  table(`Mixed pixels of ${CASES} scenes, families moved +0.8 and −1 stops, against the mixture of their lights`, rows);
}

/** Errors at what has a full channel of a front that sparkles. */
export async function sparks(heap, table) {
  const rows = [["source, size", "scenes", "mean L*", "p99 L*", "worst mean"]];
  for (const [name, size] of ["PNG 16 bit", "JPEG 85"].flatMap((source) => SPARK_PX.map((px) => [source, px]))) {
    const { file, make } = SOURCES[name];
    const found = [];
    for (const [i, drawn] of camera.mixtureCases(480, 320, CASES).entries()) {
      const one = camera.sparklingCase(drawn, SPARK_STOPS, size, i + 1);
      const opened = await open(heap, await make(one.scene, i + 1), file);
      const judged = camera.judgeSparks(opened.engine, opened.size, one);
      if (judged.count >= FEWEST_SPARKS) found.push(judged);
    }
    const mean = (key) => found.reduce((sum, one) => sum + one[key], 0) / found.length;
    const worst = Math.max(...found.map((one) => one.mean));
    rows.push([
      `${name}, ${size} px`,
      String(found.length),
      mean("mean").toFixed(2),
      mean("p99").toFixed(2),
      worst.toFixed(2),
    ]);
  }
  table("Fronts that sparkle: pixels of which a channel is full, against the file's light at the front's stops", rows);
}
