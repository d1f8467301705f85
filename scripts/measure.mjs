// Measures what the handbook states, against the simulated camera's truth. Usage: npm run measure [-- PART …]
// Takes about a quarter of an hour; every figure is printed with what it is compared with.
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import * as camera from "@yelm/camera";
import * as core from "@yelm/core";
import { banding, detail } from "./measure-detail.mjs";
import { families } from "./measure-families.mjs";
import { grain } from "./measure-grain.mjs";
import { halvedColour } from "./measure-halved.mjs";
import { judging } from "./measure-judge.mjs";
import { mixtures, sparks } from "./measure-mixtures.mjs";
import { price } from "./measure-price.mjs";
import { opening, skylines } from "./measure-opening.mjs";
import { sharpening } from "./measure-sharpening.mjs";
import { ROOT } from "./run.mjs";

const server = await import("../packages/server/dist/index.js");
const { openEngine } = await import("../packages/server/dist/cli/open-engine.js");
const require = createRequire(join(ROOT, "packages/server/package.json"));
const { default: createLibRaw } = await import(require.resolve("libraw-wasm/dist/libraw.js"));
const libRaw = await createLibRaw({ wasmBinary: readFileSync(require.resolve("libraw-wasm/dist/libraw.wasm")) });
const heap = await server.openKernels();
const CAMERA = { ...camera.HALDEN_ONE, hotPixels: 0 };
const BORDER = 24;
/** Pictures of the demo with a sky that meets land. */
const SKYLINES = ["orrow-0101.dng", "orrow-0102.dng", "orrow-0103.dng", "orrow-0110.dng", "orrow-0112.dng"];

/** Balanced camera planes of a DNG by one method. */
function demosaic({ mosaic, info }, method) {
  const { width, height } = info;
  const planes = [0, 1, 2].map(() => new Float32Array(width * height));
  for (let top = 0; top < height; top += 256) {
    const rows = Math.min(256, height - top);
    const mark = heap.mark();
    const at = core.demosaicRows(heap, mosaic, core.balanceGains(info.neutral), top, rows, method);
    planes.forEach((plane, c) => plane.set(heap.floats(at + 4 * c * width * rows, width * rows), top * width));
    heap.release(mark);
  }
  return planes;
}

/** The same by the unpacker's adaptive method (AHD). */
function unpackerAdaptive(dng, n) {
  const raw = new libRaw.LibRaw();
  raw.open(dng, {
    outputBps: 16, outputColor: 0, useCameraMatrix: 0, useCameraWb: true, noAutoBright: true,
    gamm: [1, 1, 0, 0, 0, 0], adjustMaximumThr: 0, userQual: 3,
  }); // prettier-ignore
  const { data } = raw.imageData();
  const planes = [0, 1, 2].map((c) => Float32Array.from({ length: n }, (_, i) => data[3 * i + c] / 65535));
  raw.delete();
  return planes;
}

const code = (light) => core.SRGB_TRANSFER.encode(Math.min(1, Math.max(0, light)));
const luminance = (v) => core.REC2020.luminance.reduce((sum, w, c) => sum + w * v[c], 0);
const table = (title, rows) => {
  console.log(`\n${title}`);
  for (const row of rows) console.log("  " + row.map((cell, i) => String(cell).padEnd(i ? 12 : 20)).join(""));
};

/** Scenes and charts: grey PSNR, false colour and zipper of three methods. */
async function demosaicing() {
  const rows = [["grey PSNR, dB", "directional", "unpacker AHD", "linear"]];
  const colour = [["false colour, %", "directional", "unpacker AHD", "linear"]];
  const scenes = ["dye-works", "reed-marsh", "dyers-table", "puppet-window"];
  for (const name of [...scenes, "cloth", "zone-plate", "edge"]) {
    const isChart = !scenes.includes(name);
    const scene = isChart
      ? camera.drawChart(name, 900, 600)
      : await camera.readScene(join(ROOT, "demo/scenes", `${name}.json`));
    const stops = isChart ? 0 : -0.5;
    const dng = await camera.shoot(scene, { noise: false, stops, camera: CAMERA });
    const opened = await server.unpackRaw(dng);
    const { width, height } = scene;
    const n = width * height;
    const matrix = core.cameraToWorking(opened.info.calibrations, opened.info.neutral);
    const toCamera = core.invert3(matrix);
    const truth = Float32Array.from({ length: n }, (_, i) =>
      luminance(
        core.transform3(
          core.REC709_TO_REC2020,
          [0, 1, 2].map((c) => 2 ** stops * scene.rgb[3 * i + c]),
        ),
      ),
    );
    const cameraTruth = [0, 1, 2].map((c) =>
      Float32Array.from({ length: n }, (_, i) => {
        const light = [0, 1, 2].map((k) => 2 ** stops * scene.rgb[3 * i + k]);
        return core.transform3(toCamera, core.transform3(core.REC709_TO_REC2020, light))[c];
      }),
    );
    const judge = (planes) => {
      // Each method has a scale of its own.
      const gains = planes.map((plane, c) => {
        let a = 0;
        let b = 0;
        for (let i = 0; i < n; i += 7)
          if (cameraTruth[c][i] < 0.9) {
            a += plane[i] * cameraTruth[c][i];
            b += plane[i] * plane[i];
          }
        return a / b;
      });
      let squares = 0;
      let tint = 0;
      let count = 0;
      for (let y = BORDER; y < height - BORDER; y++)
        for (let x = BORDER; x < width - BORDER; x++) {
          const i = y * width + x;
          if (Math.max(...cameraTruth.map((plane) => plane[i])) > 0.95) continue;
          const light = core.transform3(
            matrix,
            planes.map((plane, c) => gains[c] * plane[i]),
          );
          squares += (code(luminance(light)) - code(truth[i])) ** 2;
          tint += (code(light[0]) - code(light[1])) ** 2 + (code(light[2]) - code(light[1])) ** 2;
          count++;
        }
      return {
        psnr: (-10 * Math.log10(squares / count)).toFixed(1),
        tint: (100 * Math.sqrt(tint / 2 / count)).toFixed(2),
      };
    };
    const judged = [demosaic(opened, "directional"), unpackerAdaptive(dng, n), demosaic(opened, "linear")].map(judge);
    rows.push([name, ...judged.map(({ psnr }) => psnr)]);
    if (name === "zone-plate" || name === "edge") colour.push([name, ...judged.map(({ tint }) => tint)]);
  }
  table("Demosaicing: grey against the scene's own light", rows);
  table("Neutral charts: deviation of red and blue from green", colour);
}

/** Working planes of a DNG as the tiles hold them. */
async function develop(dng) {
  const opened = await server.unpackRaw(dng);
  const tiles = new Map();
  const key = ({ level, column, row }) => `${level}/${column}/${row}`;
  const info = await server.developRaw(heap, opened, (place, halves) => tiles.set(key(place), halves));
  const size = { width: info.width, height: info.height };
  return { info, engine: new core.Engine(heap, { size, tile: (place) => tiles.get(key(place)) }, core.factsOf(info)) };
}

const EXTREMES = [[3, -2, 0], [3, 0, -2], [-2, 3, 0], [0, 3, -2], [-2, 0, 3], [0, -2, 3], [3, -1, -1], [-1, 3, -1], [-1, -1, 3]]; // prettier-ignore

async function noise() {
  const rows = [["ISO, light", "worst weights", "neutral", "calmed fully"]];
  for (const [iso, level] of [
    [100, 0.18],
    [1600, 0.18],
    [6400, 0.05],
    [6400, 0.4],
    [25600, 0.18],
  ]) {
    // prettier-ignore
    const { engine } = await develop(await camera.shoot(camera.drawChart("flat", 400, 300, level), { iso, camera: CAMERA }));
    const deviation = (weights, calm = 0) => {
      const recipe = core.defaultRecipe();
      [recipe.weigh.red, recipe.weigh.green, recipe.weigh.blue] = weights;
      recipe.ground.calm = calm;
      const light = engine.renderLight(engine.prepare(recipe), {
        x: 40,
        y: 40,
        width: 320,
        height: 220,
        scale: 1,
        level: 0,
      });
      const mean = light.reduce((a, b) => a + b, 0) / light.length;
      return Math.sqrt(light.reduce((sum, v) => sum + (v - mean) ** 2, 0) / light.length);
    };
    const neutral = deviation(core.REC2020.luminance);
    const worst = Math.max(...EXTREMES.map((weights) => deviation(weights) / neutral));
    const calmed = deviation(core.REC2020.luminance, 1) / neutral;
    rows.push([
      `${iso}, ${level}`,
      `${worst.toFixed(2)} ×`,
      `${((100 * neutral) / level).toFixed(1)} %`,
      `${calmed.toFixed(2)} ×`,
    ]);
  }
  table("Noise of grey in flat areas: weights at their extremes against neutral ones", rows);
}

function edgeScene(left, right, size = 400) {
  const { rgb } = camera.drawChart("edge", size, size);
  const [dark, light] = [rgb[0], rgb[3 * (size - 1)]];
  const mixed = rgb.map((v, i) => {
    const share = (v - dark) / (light - dark);
    return left[i % 3] * (1 - share) + right[i % 3] * share;
  });
  return { width: size, height: size, rgb: mixed };
}

async function edges() {
  const rows = [["edge, ISO", "3 −2 0", "1 0 0", "−1 −1 3"]];
  const pairs = { "grey–grey": [[0.1, 0.1, 0.1], [0.4, 0.4, 0.4]], "red–green": [[0.45, 0.09, 0.06], [0.09, 0.2, 0.06]], "red–blue": [[0.3, 0.06, 0.05], [0.05, 0.1, 0.35]] }; // prettier-ignore
  for (const [name, [left, right]] of Object.entries(pairs))
    for (const iso of [100, 1600, 6400]) {
      const ratios = [[3, -2, 0], [1, 0, 0], [-1, -1, 3]].map(() => []); // prettier-ignore
      for (const seed of iso > 100 ? [1, 2, 3, 4] : [1]) {
        const dng = await camera.shoot(edgeScene(left, right), { iso, seed, blurPx: 0.5, camera: CAMERA });
        const { engine, info } = await develop(dng);
        const opened = await server.unpackRaw(dng);
        const matrix = core.cameraToWorking(info.calibrations, info.neutral);
        const plain = demosaic(opened, "directional");
        [[3, -2, 0], [1, 0, 0], [-1, -1, 3]].forEach((weights, k) => {
          const recipe = core.defaultRecipe();
          [recipe.weigh.red, recipe.weigh.green, recipe.weigh.blue] = weights;
          const view = { x: 0, y: 0, width: 400, height: 400, scale: 1, level: 0 };
          const after = engine.renderLight(engine.prepare(recipe), view);
          const toGrey = core.transform3(core.transpose3(matrix), weights);
          const before = plain[0].map((_, i) => toGrey.reduce((sum, w, c) => sum + w * plain[c][i], 0));
          const sharp = (grey) => core.measureSlantedEdge(grey.slice(400 * 50, 400 * 350), 400, 300).mtf50;
          try {
            const ratio = sharp(after) / sharp(before);
            if (Number.isFinite(ratio)) ratios[k].push(ratio);
          } catch (error) {
            // Under these weights the two colours are one grey, or the edge is lost in noise without smoothing.
            if (!(error instanceof RangeError)) throw error;
          }
        });
      } // prettier-ignore
      const change = (list) => 100 * (list.reduce((a, b) => a + b, 0) / list.length - 1);
      rows.push([
        `${name}, ${iso}`,
        ...ratios.map((list) => `${change(list) > 0 ? "+" : ""}${change(list).toFixed(1)} %`),
      ]);
    }
  table("Sharpness (MTF50, slanted edge) with colour smoothed against without, by weights", rows);
}

async function fallOff() {
  const rows = [["scene", "by itself", "+0.5", "+1", "+2"]];
  for (const name of ["dye-works", "reed-marsh", "puppet-window"]) {
    const scene = camera.resizeScene(await camera.readScene(join(ROOT, "demo/scenes", `${name}.json`)), 900);
    const found = [];
    for (const fallOffStops of [0, 0.5, 1, 2]) {
      const { engine } = await develop(await camera.shoot(scene, { fallOffStops, iso: 200, camera: CAMERA }));
      const print = engine.prepare(core.defaultRecipe());
      const view = { x: 0, y: 0, ...core.scaledSize(print.frame, 0.5), scale: 0.5, level: 1 };
      found.push(core.measureFallOff(engine.renderWorking(print, view), view.width, view.height).stops);
    }
    rows.push([name, ...found.map((stops, i) => (i ? `+${(stops - found[0]).toFixed(2)}` : stops.toFixed(2)))]);
  }
  table("Fall-off found, stops: the scene's own, and what a lens of known fall-off adds", rows);
}

const PARTS = {
  demosaicing,
  noise,
  edges,
  fallOff,
  detail: () => detail(heap, table),
  banding: () => banding(heap, table),
  opening: () => opening(heap, table),
  skylines: () => skylines(heap, table, SKYLINES),
  sharpening: () => sharpening(heap, table),
  grain: () => grain(heap, table),
  mixtures: () => mixtures(heap, table),
  sparks: () => sparks(heap, table),
  price: () => price(heap, table),
  families: () => families(heap, table),
  halvedColour: () => halvedColour(table, heap),
  judging: () => judging(openEngine, table),
};
const asked = process.argv.slice(2);
const unknown = asked.find((name) => !(name in PARTS));
if (unknown) throw new Error(`Expected some of ${Object.keys(PARTS).join(", ")} but received ${unknown}.`);
for (const [name, measure] of Object.entries(PARTS)) if (asked.length === 0 || asked.includes(name)) await measure();
