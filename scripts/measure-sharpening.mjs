// What capture sharpening does to a slanted edge and to flat areas, through the simulated camera.
import * as camera from "@yelm/camera";
import * as core from "@yelm/core";
import { jpeg, open, raw } from "./measure-mixtures.mjs";

const SIZE = 400;

function edgeScene() {
  const { rgb } = camera.drawChart("edge", SIZE, SIZE);
  return { width: SIZE, height: SIZE, rgb };
}

function flatScene() {
  const rgb = Float32Array.from({ length: 3 * SIZE * SIZE }, (_, i) => [0.18, 0.18, 0.18][i % 3]);
  return { width: SIZE, height: SIZE, rgb };
}

const lightOf = ({ engine, size }, recipe) =>
  engine.renderLight(engine.prepare(recipe), { x: 0, y: 0, ...size, scale: 1, level: 0 });
const deviation = (values) => {
  const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
  return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length);
};

/** Greatest and least light near the edge against the two sides away from it, in % of the step. */
function overshoot(grey) {
  const rows = Array.from({ length: 200 }, (_, k) => grey.subarray((100 + k) * SIZE, (101 + k) * SIZE));
  let over = 0;
  const profile = rows.map((row) => {
    const [dark, light] = [row.subarray(20, 60), row.subarray(SIZE - 60, SIZE - 20)].map((part) => part.reduce((sum, v) => sum + v, 0) / part.length); // prettier-ignore
    return { row, dark, light };
  });
  // Rows are laid over each other by where the edge crosses them, so that noise averages out.
  const sums = new Float64Array(64);
  const crossing = ({ row, dark, light }) => row.findIndex((v) => v > (dark + light) / 2);
  const whole = profile.filter((one) => crossing(one) > 60 && crossing(one) < SIZE - 60);
  for (const one of whole) {
    const { row, dark, light } = one;
    const cross = crossing(one);
    for (let k = 0; k < 64; k++) sums[k] += (row[cross - 32 + k] - dark) / (light - dark) / whole.length;
  }
  for (const v of sums) over = Math.max(over, v - 1, -v);
  return 100 * over;
}

/** MTF50, overshoot and flat noise of raw files at several speeds, sharpened at full strength against as they come. */
export async function sharpening(heap, table) {
  const rows = [["source", "radius, px", "MTF50 before", "after", "gain", "overshoot", "flat noise ×"]];
  const sources = { "raw ISO 100": raw(100), "raw ISO 800": raw(800), "raw ISO 3200": raw(3200), "JPEG 90": jpeg(90) }; // prettier-ignore
  for (const [name, { file, make }] of Object.entries(sources)) {
    const edge = await open(heap, await make(edgeScene(), 1), file);
    const flat = await open(heap, await make(flatScene(), 2), file);
    for (const radius of [0.6, 0.8, 1]) {
      const plain = core.defaultRecipe();
      const recipe = { ...plain, shape: { ...plain.shape, sharpening: { amount: 1, radius, sparing: 0.5 } } };
      const [before, after] = [plain, recipe].map((one) => lightOf(edge, one));
      const mtf = [before, after].map((grey) => core.measureSlantedEdge(grey.slice(SIZE * 40, SIZE * 280), SIZE, 240).mtf50); // prettier-ignore
      const noise = [plain, recipe].map((one) => deviation(lightOf(flat, one)));
      rows.push([
        name, radius, mtf[0].toFixed(3), mtf[1].toFixed(3), `${(100 * (mtf[1] / mtf[0] - 1)).toFixed(0)} %`,
        `${overshoot(after).toFixed(1)} %`, (noise[1] / noise[0]).toFixed(3),
      ]); // prettier-ignore
    }
  }
  table("Capture sharpening at full strength: a slanted edge and a flat grey", rows);
}
