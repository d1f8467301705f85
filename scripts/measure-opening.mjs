// What opening shadows and holding highlights do to edges and texture, beside the same on one guided filter's base.
import { readFileSync } from "node:fs";
import { join } from "node:path";
import * as core from "@yelm/core";
import { open } from "./measure-mixtures.mjs";
import { ROOT } from "./run.mjs";

const SIZE = { width: 3000, height: 2000 };
const MIDDLE = SIZE.width / 2;
const STEP = 3;
const DARK = -4;

/** An engine on a grey picture of scene stops. */
function engineOf(heap, stops) {
  const tiles = new Map();
  const builder = new core.PyramidBuilder(heap, SIZE, (place, halves) => tiles.set(core.tileKey(place), halves));
  for (let top = 0; top < SIZE.height; top += 100) {
    const light = new Float32Array(3 * SIZE.width * 100);
    const n = SIZE.width * 100;
    for (let i = 0; i < n; i++)
      light[i] = light[n + i] = light[2 * n + i] = core.stopsToLight(stops(i % SIZE.width, top + Math.floor(i / SIZE.width))); // prettier-ignore
    builder.push(light, 100);
  }
  return new core.Engine(heap, { size: SIZE, tile: (place) => tiles.get(core.tileKey(place)) });
}

const opened = (change) => {
  const recipe = core.defaultRecipe();
  return { ...recipe, shape: { ...recipe.shape, ...change } };
};
const OPEN = { openShadows: 1, holdHighlights: 1 };
const stopsOf = (engine, recipe, view) =>
  Float32Array.from(engine.renderLight(engine.prepare(recipe), { scale: 1, level: 0, ...view }), core.lightToStops);

/** Means of columns of a piece, as a profile. */
function profile(values, width) {
  const height = values.length / width;
  return Float32Array.from({ length: width }, (_, x) => {
    let sum = 0;
    for (let y = 0; y < height; y++) sum += values[y * width + x];
    return sum / height;
  });
}

/** What the same shift makes on the base of a guided filter over 0.8 % of the long edge, for comparison; one row. */
function onGuidedBase(stops, shift) {
  const radius = Math.round(0.008 * SIZE.width * Math.sqrt(3));
  const mean = (v) => {
    const at = (i) => v[Math.min(v.length - 1, Math.max(0, i))];
    return v.map((_, i) => {
      let sum = 0;
      for (let k = -radius; k <= radius; k++) sum += at(i + k);
      return sum / (2 * radius + 1);
    });
  };
  const m = mean(stops);
  const variance = mean(stops.map((v) => v * v)).map((v, i) => v - m[i] ** 2);
  const slope = variance.map((v) => v / (v + 0.16));
  const [a, b] = [mean(slope), mean(m.map((v, i) => v * (1 - slope[i])))];
  return stops.map((v, i) => v + shift(a[i] * v + b[i]));
}

const overshoot = (p) => {
  const [low, high] = [p[10], p.at(-10)];
  const half = p.length / 2;
  const under = low - Math.min(...p.slice(0, half));
  const over = Math.max(...p.slice(half)) - high;
  return `${((100 * Math.max(under, over)) / (high - low)).toFixed(1)} %`;
};
const deviation = (v) => {
  const mean = v.reduce((sum, x) => sum + x, 0) / v.length;
  return Math.sqrt(v.reduce((sum, x) => sum + (x - mean) ** 2, 0) / v.length);
};

/** What a change adds to each tone where there is no edge, as a function of scene stops. */
function shiftAt(heap, change) {
  const flat = engineOf(heap, (x) => -10 + (14 * x) / SIZE.width);
  const view = { x: 0, y: 1000, width: SIZE.width, height: 1 };
  const [plain, moved] = [{}, change].map((one) => stopsOf(flat, opened(one), view));
  return (stops) => {
    // Light is cut at sensor white, a little above 2.4 stops.
    const i = plain.findIndex((v) => v >= Math.min(stops, 2.4));
    return moved[i] - plain[i];
  };
}

/** Steps of three stops, sharp and soft, and textures of known contrast and width in the opened shadows. */
export function opening(heap, table) {
  const shift = shiftAt(heap, OPEN);
  const rows = [["3-stop edge, width", "overshoot", "guided base"]];
  for (const width of [0, 10, 30, 60, 120, 240]) {
    const edge = (x) => {
      const t = width === 0 ? (x >= MIDDLE ? 1 : 0) : Math.min(1, Math.max(0, 0.5 + (x - MIDDLE) / width));
      return core.lightToStops((1 - t) * core.stopsToLight(DARK) + t * core.stopsToLight(DARK + STEP));
    };
    const view = { x: 0, y: 990, width: SIZE.width, height: 20 };
    const engine = engineOf(heap, edge);
    const plain = stopsOf(engine, opened({}), view).slice(0, SIZE.width);
    rows.push([`${width} px`, overshoot(profile(stopsOf(engine, opened(OPEN), view), SIZE.width)), overshoot(onGuidedBase(plain, shift))]); // prettier-ignore
  }
  table(
    `Open shadows and hold highlights at full strength, ${SIZE.width} × ${SIZE.height}: overshoot in % of the step`,
    rows,
  );

  const textures = [["texture, ± stops", "period 8 px", "24 px", "60 px", "120 px", "guided, 24 px"]];
  for (const swing of [0.1, 0.3, 0.6]) {
    const cells = [8, 24, 60, 120].map((period) => {
      const engine = engineOf(heap, (x, y) => DARK + swing * Math.sin((2 * Math.PI * x) / period) * Math.sin((2 * Math.PI * y) / period)); // prettier-ignore
      const view = { x: 600, y: 600, width: 600, height: 600 };
      const [plain, moved] = [{}, OPEN].map((one) => deviation(stopsOf(engine, opened(one), view)));
      return `${(100 * (moved / plain - 1)).toFixed(1)} %`;
    });
    const wave = Float32Array.from({ length: 3000 }, (_, x) => DARK + swing * Math.sin((2 * Math.PI * x) / 24));
    const guided = deviation(onGuidedBase(wave, shift)) / deviation(wave) - 1;
    textures.push([`± ${swing}`, ...cells, `${(100 * guided).toFixed(1)} %`]);
  }
  table("Texture's contrast in shadows opened at full strength, against before", textures);
}

/** How far rows of a sky may differ to count as smooth, stops. */
const SMOOTH = 0.05;

/**
 * Skylines of pictures: within 1 % of the long edge, how far the opened sky lies from what it gets further away, in L*; the worst
 * of all, and of nineteen in twenty.
 */
export async function skylines(heap, table, files) {
  const rows = [["skylines", "found", "95 %, L*", "worst, L*"]];
  const shift = shiftAt(heap, OPEN);
  for (const file of files) {
    const { engine } = await open(heap, readFileSync(join(ROOT, "demo/negatives", file)), file);
    const [width, height] = [engine.prepare(opened({})).frame].map((f) => core.levelSize(f, 1)).flatMap((f) => [f.width, f.height]); // prettier-ignore
    const view = { x: 0, y: 0, width, height, scale: 0.5, level: 1 };
    const [plain, moved] = [{}, OPEN].map((one) => stopsOf(engine, opened(one), view));
    const reach = Math.round(0.01 * Math.max(width, height));
    const halos = [];
    for (let x = 0; x < width; x += 7) {
      const at = (y) => plain[y * width + x];
      for (let y = 3 * reach; y < height - 6; y++) {
        if (Math.abs(at(y - 1) - at(y + 5)) < 1.5) continue;
        const sky = Float32Array.from({ length: 2 * reach }, (_, k) => at(y - 2 - k));
        if (deviation(sky) > SMOOTH) break;
        const rowAt = (k) => (y - 2 - k) * width + x;
        const far = Array.from({ length: reach / 2 }, (_, k) => Math.round(1.5 * reach) + k);
        const mean = (values) => values.reduce((sum, v) => sum + v, 0) / values.length;
        const farTone = mean(far.map((k) => plain[rowAt(k)]));
        const farShift = mean(far.map((k) => moved[rowAt(k)] - plain[rowAt(k)]));
        for (let k = 0; k < reach; k += 2) {
          // What a tone a little different from that further away gets, as shown.
          const wanted = sky[k] + farShift + shift(sky[k]) - shift(farTone);
          const lightness = (stops) => core.luminanceToLightness(Math.min(1, core.stopsToLight(stops)));
          halos.push(Math.abs(lightness(moved[rowAt(k)]) - lightness(wanted)));
        }
        break;
      }
    }
    if (halos.length < 60) continue;
    halos.sort((a, b) => a - b);
    rows.push([file, halos.length, halos[Math.floor(0.95 * halos.length)].toFixed(2), halos.at(-1).toFixed(2)]);
  }
  table("Halos along skylines within 1 % of the long edge, shadows opened and highlights held at full strength", rows);
}
