// The fast grain against grains thrown one by one: variance, spectrum, skewness, mean.
import * as core from "@yelm/core";

const CELL = 1;
const SIDE = 2048;
/** Cells to a pixel's side. */
const PIXEL = 4;
const PIXELS = SIDE / PIXEL;
/** Granularity and size of grains: the four starting points, and opaque grains. */
const FILMS = core.GRAIN_STARTS.map(({ name, granularity, crystalUm }) => [name, granularity, crystalUm]);
FILMS.push(["opaque", 58, 3]);
const DENSITIES = [0.1, 0.3, 1, 1.8];
const CYCLES = [5, 10, 20, 40, 60, 80];

function mulberry(seed) {
  return () => {
    let t = (seed = (seed + 0x6d2b79f5) | 0);
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Means over pixels, about their mean, which is told apart. */
function pixelsOf(light) {
  const out = new Float64Array(PIXELS * PIXELS);
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++)
      out[Math.floor(y / PIXEL) * PIXELS + Math.floor(x / PIXEL)] += light[y * SIDE + x] / PIXEL ** 2;
  return out;
}

const moments = (values) => {
  const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
  const [square, cube] = [2, 3].map((k) => values.reduce((sum, v) => sum + (v - mean) ** k, 0) / values.length);
  return { mean, deviation: Math.sqrt(square), skewness: cube / square ** 1.5 };
};

/** Densities through round apertures of 48 µm, half overlapping. */
function throughApertures(pixels) {
  const r = 24 / (PIXEL * CELL);
  const found = [];
  for (let cy = r; cy < PIXELS - r; cy += r)
    for (let cx = r; cx < PIXELS - r; cx += r) {
      let [sum, weight] = [0, 0];
      for (let y = Math.floor(cy - r); y < cy + r; y++)
        for (let x = Math.floor(cx - r); x < cx + r; x++) {
          const inside = Math.max(0, Math.min(1, r - Math.hypot(x + 0.5 - cx, y + 0.5 - cy) + 0.5));
          sum += inside * pixels[y * PIXELS + x];
          weight += inside;
        }
      found.push(-Math.log10(sum / weight));
    }
  return found;
}

/** Power by frequency along rows and columns, dB beyond white noise of deviation 1: Welch's method, Hann windows of 256. */
function spectrum(pixels, mean) {
  const n = 256;
  return CYCLES.map((cycles) => {
    // A band of frequencies about each.
    let [power, count] = [0, 0];
    const centre = (cycles / 1000) * PIXEL * CELL * n;
    const [low, high] = [Math.max(3, Math.floor(centre * 0.85)), Math.min(n / 2 - 1, Math.ceil(centre * 1.15))];
    for (let k = low; k <= high; k += Math.ceil((high - low + 1) / 5)) {
      const basis = Array.from({ length: n }, (_, i) => {
        const hann = 1 - Math.cos((2 * Math.PI * i) / n);
        return [hann * Math.cos((2 * Math.PI * k * i) / n), hann * Math.sin((2 * Math.PI * k * i) / n)];
      });
      for (const [step, next] of [
        [1, PIXELS],
        [PIXELS, 1],
      ])
        for (let line = 0; line < PIXELS; line += 2)
          for (let start = 0; start + n <= PIXELS; start += n) {
            let [re, im] = [0, 0];
            for (let i = 0; i < n; i++) {
              const v = pixels[line * next + (start + i) * step] / mean - 1;
              re += v * basis[i][0];
              im += v * basis[i][1];
            }
            power += (re * re + im * im) / (1.5 * n);
            count++;
          }
    }
    return 10 * Math.log10(power / count);
  });
}

/** What the two models differ by, film by film. */
export function grain(heap, table) {
  const rows = [
    ["", "density", "σ 48 µm: stated", "thrown", "fast", "spectrum, dB off at 5–80", "skewness", "fast", "mean D off"],
  ];
  for (const [name, granularity, crystalUm] of FILMS)
    for (const density of DENSITIES) {
      const film = { granularity, crystalUm, format: "small", seed: 5 };
      const emulsion = core.emulsionOf(film);
      const x = density * Math.LN10;
      const thrown = pixelsOf(core.thrownGrains(emulsion, x, SIDE, CELL, mulberry(11)));
      const mark = heap.mark();
      const filter = core.grainFilter(film, PIXEL * CELL);
      const noise = core.grainNoise(heap, filter, 5, PIXELS, PIXELS, 0, 0);
      const print = heap.place(new Float32Array(PIXELS * PIXELS).fill(10 ** -density));
      heap.kernels.addGrain(print, noise, PIXELS * PIXELS, heap.place(filter.model));
      const fast = Float64Array.from(heap.floats(print, PIXELS * PIXELS));
      heap.release(mark);
      const [a, b] = [moments(thrown), moments(fast)];
      const [s, f] = [thrown, fast].map((one) => 1000 * moments(throughApertures(one)).deviation);
      const [p, q] = [spectrum(thrown, a.mean), spectrum(fast, b.mean)];
      rows.push([
        name, density, (1000 * core.densityDeviation(emulsion, density)).toFixed(1), s.toFixed(1), f.toFixed(1),
        p.map((v, i) => (q[i] - v).toFixed(1)).join(" "),
        a.skewness.toFixed(2), b.skewness.toFixed(2), (-Math.log10(b.mean) - density).toFixed(4),
      ]); // prettier-ignore
    }
  table("Grain: the fast model and grains thrown one by one (pixels of 4 µm)", rows);
}
