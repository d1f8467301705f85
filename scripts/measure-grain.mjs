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

/** How much of each pixel about a place a round aperture covers, by sixteen by sixteen points. */
function aperture(cx, cy, r) {
  const covered = [];
  for (let y = Math.floor(cy - r); y < cy + r; y++)
    for (let x = Math.floor(cx - r); x < cx + r; x++) {
      let inside = 0;
      for (let k = 0; k < 256; k++)
        if (Math.hypot(x + ((k % 16) + 0.5) / 16 - cx, y + (Math.floor(k / 16) + 0.5) / 16 - cy) < r) inside++;
      if (inside > 0) covered.push([x, y, inside / 256]);
    }
  return covered;
}

/** Densities through round apertures of 48 µm, about half overlapping, at whole steps of pixels. */
function throughApertures(pixels, pixelUm = PIXEL * CELL) {
  const r = 24 / pixelUm;
  const step = Math.max(1, Math.round(r));
  const margin = Math.ceil(r);
  const covered = aperture(0.5, 0.5, r);
  const weight = covered.reduce((sum, [, , share]) => sum + share, 0);
  const found = [];
  for (let cy = margin; cy < PIXELS - margin; cy += step)
    for (let cx = margin; cx < PIXELS - margin; cx += step) {
      let sum = 0;
      for (const [x, y, share] of covered) sum += share * pixels[(cy + y) * PIXELS + cx + x];
      found.push(-Math.log10(sum / weight));
    }
  return found;
}

/** Even light of a density under a film's grain, in pixels of a size. */
function fastGrain(heap, film, density, pixelUm) {
  const mark = heap.mark();
  const filter = core.grainFilter(film, pixelUm);
  const noise = core.grainNoise(heap, filter, 5, PIXELS, PIXELS, 0, 0);
  const print = heap.place(new Float32Array(PIXELS * PIXELS).fill(10 ** -density));
  heap.kernels.addGrain(print, PIXELS, noise, PIXELS, PIXELS, PIXELS, heap.place(filter.model));
  const fast = Float64Array.from(heap.floats(print, PIXELS * PIXELS));
  heap.release(mark);
  return fast;
}

/** Long edges of pictures in pixels whose grain is measured by format: 2, 24 and 60 MP. */
const LONG_EDGES = [1730, 6000, 9490];

/** Granularity through the aperture against what is stated, in every format: farthest off, per cent. */
function byFormat(heap, table) {
  const rows = [["format", ...LONG_EDGES.map((edge) => `${edge} px`)]];
  for (const format of Object.keys(core.FORMAT_LONG_EDGE_MM))
    rows.push([
      format,
      ...LONG_EDGES.map((edge) => {
        const pixelUm = (1000 * core.FORMAT_LONG_EDGE_MM[format]) / edge;
        // A pixel as large as the aperture averages more than it does.
        if (pixelUm > 24) return `pixels of ${pixelUm.toFixed(0)} µm`;
        const off = core.GRAIN_STARTS.flatMap(({ granularity, crystalUm }) =>
          [0.3, 1, 1.8].map((density) => {
            const film = { granularity, crystalUm, format, seed: 5 };
            const found = moments(throughApertures(fastGrain(heap, film, density, pixelUm), pixelUm)).deviation;
            return 100 * (found / core.densityDeviation(core.emulsionOf(film), density) - 1);
          }),
        );
        return off.reduce((most, v) => (Math.abs(v) > Math.abs(most) ? v : most)).toFixed(1);
      }),
    ]);
  table(
    "Grain by format: σ through 48 µm at D 0.3, 1, 1.8 of all four films against what is stated, farthest off, %",
    rows,
  );
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
  byFormat(heap, table);
  const rows = [
    ["", "density", "σ 48 µm: stated", "thrown", "fast", "spectrum, dB off at 5–80", "skewness", "fast", "mean D off"],
  ];
  for (const [name, granularity, crystalUm] of FILMS)
    for (const density of DENSITIES) {
      const film = { granularity, crystalUm, format: "small", seed: 5 };
      const emulsion = core.emulsionOf(film);
      const x = density * Math.LN10;
      const thrown = pixelsOf(core.thrownGrains(emulsion, x, SIDE, CELL, mulberry(11)));
      const fast = fastGrain(heap, film, density, PIXEL * CELL);
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
