// What moved families do to fine detail and to smooth tones: sharpness within and between materials, bands in a sky.
import * as camera from "@yelm/camera";
import * as core from "@yelm/core";
import { jpeg, open, PNG, raw } from "./measure-mixtures.mjs";

const SIZE = 400;
const BANDED = { width: 640, height: 384 };
const STRAW = [0.45, 0.33, 0.14];
const SKY = [0.3, 0.45, 0.75];
const times = (colour, by) => colour.map((v) => by * v);

/** A slanted edge between two colours; below it a field of a third, so that the families have something to be moved against. */
function edgeBeside(left, right, beside) {
  const { rgb } = camera.drawChart("edge", SIZE, SIZE);
  const [dark, light] = [rgb[0], rgb[3 * (SIZE - 1)]];
  const mixed = rgb.map((v, i) => {
    if (i >= 3 * SIZE * (SIZE - 80)) return beside[i % 3];
    const share = (v - dark) / (light - dark);
    return left[i % 3] * (1 - share) + right[i % 3] * share;
  });
  return { width: SIZE, height: SIZE, rgb: mixed };
}

/** A recipe whose families are straw and sky, moved. */
function moved(stops) {
  const recipe = core.defaultRecipe();
  const families = [STRAW, SKY].map((rgb, i) => ({
    ...core.newFamily(`f${i}`, `f${i}`, core.familyPlace(core.transform3(core.REC709_TO_REC2020, rgb))),
    stops: stops[i],
  }));
  return { ...recipe, weigh: { ...recipe.weigh, families } };
}

const light = ({ engine, size }, recipe) =>
  engine.renderLight(engine.prepare(recipe), { x: 0, y: 0, ...size, scale: 1, level: 0 });

/** Slanted edge under moved families against the same with none moved. */
export async function detail(heap, table) {
  const rows = [["source", "straw, light–dark", "sky, light–dark", "straw–sky"]];
  const scenes = [
    edgeBeside(times(STRAW, 0.4), STRAW, SKY),
    edgeBeside(times(SKY, 0.4), SKY, STRAW),
    edgeBeside(times(STRAW, 0.15), SKY, times(SKY, 0.5)),
  ];
  for (const [name, { file, make }] of Object.entries({
    "raw ISO 100": raw(100),
    "PNG 16 bit": PNG,
    "JPEG 90": jpeg(90),
  })) {
    const cells = [];
    for (const scene of scenes) {
      const opened = await open(heap, await make(scene, 1), file);
      const sharpness = (stops) => {
        const grey = light(opened, moved(stops));
        return core.measureSlantedEdge(grey.slice(SIZE * 40, SIZE * 280), SIZE, 240).mtf50;
      };
      const still = sharpness([0, 0]);
      const change = [[0.8, -1], [-1, 0.8]].map((stops) => 100 * (sharpness(stops) / still - 1)); // prettier-ignore
      cells.push(change.map((v) => `${v > 0 ? "+" : ""}${v.toFixed(1)}`).join(" / ") + " %");
    }
    rows.push([name, ...cells]);
  }
  table("Sharpness (MTF50, slanted edge) with families moved +0.8 / −1.0 and the other way, against none moved", rows);
}

/** A clear sky from horizon to zenith: how far rows lie from a smooth course, and the largest step from row to row. */
export async function banding(heap, table) {
  const { width, height } = BANDED;
  const rgb = new Float32Array(3 * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const t = y / height;
      const colour = x < 60 ? STRAW : SKY.map((v, c) => (1 - t) * 0.6 * v + t * [0.62, 0.72, 0.84][c]);
      colour.forEach((v, c) => (rgb[3 * (y * width + x) + c] = v));
    }
  const scene = { width, height, rgb };
  const rows = [["source", "still, L*", "−1 stop", "−2 stops", "step, still", "−1 stop", "−2 stops"]];
  const sources = { "raw ISO 100": raw(100), "PNG 16 bit": PNG, "JPEG 70": jpeg(70), "JPEG 85": jpeg(85), "JPEG 95": jpeg(95) }; // prettier-ignore
  for (const [name, { file, make }] of Object.entries(sources)) {
    const opened = await open(heap, await make(scene, 3), file);
    const judged = [0, -1, -2].map((stops) => bands(light(opened, moved([0, stops])), width, height));
    rows.push([name, ...judged.map(({ off }) => off.toFixed(3)), ...judged.map(({ step }) => step.toFixed(3))]);
  }
  table(
    "Bands in a smooth sky: rows' deviation from a smooth course, and the step beyond it from row to row, L*",
    rows,
  );
}

function bands(grey, width, height) {
  const rows = [];
  for (let y = 12; y < height - 12; y++) {
    let sum = 0;
    for (let x = 120; x < width - 12; x++) sum += grey[y * width + x];
    rows.push(core.luminanceToLightness(sum / (width - 132)));
  }
  const reach = 12;
  const off = [];
  for (let i = reach; i < rows.length - reach; i++) off.push(rows[i] - meanOf(rows.slice(i - reach, i + reach + 1)));
  const steps = off.slice(1).map((v, i) => Math.abs(v - off[i]));
  return { off: Math.sqrt(meanOf(off.map((v) => v * v))), step: Math.max(...steps) };
}

const meanOf = (list) => list.reduce((sum, v) => sum + v, 0) / list.length;
