import { beforeAll, expect, test } from "@jest/globals";
import { diagonal3, invert3, multiply3, transform3, type Matrix3, type Vector3 } from "../../colour/matrix.ts";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { CELL_NOISE, noiseOfSites, smoothChroma } from "../chroma-smoothing.ts";
import { demosaicRows } from "../demosaic.ts";
import type { Mosaic } from "../mosaic.ts";
import type { NoiseModel } from "../noise-model.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
});

const WIDTH = 58;
const HEIGHT = 44;
const RADIUS = 6;
const KNEE = 1.4;
const NOISE: NoiseModel = { slope: [4e-5, 2e-5, 3e-5], offset: [1e-7, 5e-8, 8e-8], source: "measured" };
const LUMINANCE: Vector3 = [0.3, 0.62, 0.08];

/** A picture with everything that is hard: flats, weak and strong colour edges, and light a hundred times beyond the rest. */
function hardPicture(): Float64Array[] {
  const random = seeded(11);
  const planes = [0, 1, 2].map(() => new Float64Array(WIDTH * HEIGHT));
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const colour: number[] = x < 20 ? [0.2, 0.2, 0.2] : y < 22 ? [0.22, 0.19, 0.21] : [0.6, 0.1, 0.05];
      const lamp = Math.hypot(x - 45, y - 12) < 3 ? [2.2, 1.4, 0.9] : colour;
      lamp.forEach((v, c) => {
        const sigma = Math.sqrt(NOISE.slope[c] * v + NOISE.offset[c]);
        planes[c][y * WIDTH + x] = v + sigma * (random() + random() + random() - 1.5) * 2;
      });
    }
  return planes;
}

/** The formula, cell by cell in double precision. */
function reference(planes: readonly Float64Array[]): Float64Array[] {
  const cw = WIDTH / 2;
  const ch = HEIGHT / 2;
  const cell = (x: number, y: number, c: number) => {
    const i = 2 * y * WIDTH + 2 * x;
    return (planes[c][i] + planes[c][i + 1] + planes[c][i + WIDTH] + planes[c][i + WIDTH + 1]) / 4;
  };
  const clamp = (v: number, n: number) => Math.max(0, Math.min(n - 1, v));
  const windowMean = (value: (x: number, y: number) => number, x: number, y: number) => {
    let sum = 0;
    for (let v = -RADIUS; v <= RADIUS; v++)
      for (let u = -RADIUS; u <= RADIUS; u++) sum += value(clamp(x + u, cw), clamp(y + v, ch));
    return sum / (2 * RADIUS + 1) ** 2;
  };
  const lines: { line: Matrix3; offset: Vector3; weight: number }[] = [];
  for (let y = 0; y < ch; y++)
    for (let x = 0; x < cw; x++) {
      const mean = [0, 1, 2].map((c) => windowMean((u, v) => cell(u, v, c), x, y)) as unknown as Vector3;
      const site = [0, 1, 2].map((c) => NOISE.slope[c] * mean[c] + NOISE.offset[c]);
      const made = CELL_NOISE.map((shares) => shares.reduce((sum, share, c) => sum + share * site[c], 0));
      const noise = made.slice(0, 3).map(Math.sqrt);
      const pair = [[0, 3, 4], [3, 1, 5], [4, 5, 2]]; // prettier-ignore
      const w = [0, 1, 2].flatMap((a) =>
        [0, 1, 2].map((b) => {
          const product = windowMean((u, v) => cell(u, v, a) * cell(u, v, b), x, y);
          return (product - mean[a] * mean[b] - made[pair[a][b]]) / (noise[a] * noise[b]);
        }),
      ) as unknown as Matrix3;
      const trace = Math.max(0, w[0] + w[4] + w[8]);
      const calm = 700 / Math.max(700, trace);
      const scaled = w.map((v) => v * calm) as unknown as Matrix3;
      const square = multiply3(scaled, scaled);
      const knee = square.map((v, i) => v + (i % 4 === 0 ? KNEE ** 2 : 0)) as unknown as Matrix3;
      const gain = invert3(knee).map((v, i) => (i % 4 === 0 ? 1 : 0) - KNEE ** 2 * v) as unknown as Matrix3;
      const d = noise as unknown as Vector3;
      const whole = multiply3(diagonal3(d), multiply3(gain, diagonal3([1 / d[0], 1 / d[1], 1 / d[2]])));
      const toChroma = [0, 1, 2].flatMap((a) =>
        [0, 1, 2].map((b) => (a === b ? 1 : 0) - LUMINANCE[b]),
      ) as unknown as Matrix3;
      const line = multiply3(toChroma, whole);
      const chroma = transform3(toChroma, mean);
      const kept = transform3(line, mean);
      lines.push({
        line,
        offset: [chroma[0] - kept[0], chroma[1] - kept[1], chroma[2] - kept[2]],
        weight: Math.max(1e-3, 1 / (1 + trace) ** 2),
      });
    }
  const smooth = (pick: (l: (typeof lines)[number]) => number) => {
    const at = (x: number, y: number) => lines[y * cw + x];
    return (x: number, y: number) =>
      windowMean((u, v) => at(u, v).weight * pick(at(u, v)), x, y) / windowMean((u, v) => at(u, v).weight, x, y);
  };
  const parts = Array.from({ length: 12 }, (_, i) => {
    const pick = smooth((l) => (i < 9 ? l.line[i] : l.offset[i - 9]));
    return Float64Array.from({ length: cw * ch }, (_v, j) => pick(j % cw, Math.floor(j / cw)));
  });
  const between = (part: Float64Array, x: number, y: number) => {
    const u = x / 2 - 0.25;
    const v = y / 2 - 0.25;
    const [x0, y0] = [Math.floor(u), Math.floor(v)];
    const at = (a: number, b: number) => part[clamp(b, ch) * cw + clamp(a, cw)];
    const [fx, fy] = [u - x0, v - y0];
    return (
      (1 - fy) * ((1 - fx) * at(x0, y0) + fx * at(x0 + 1, y0)) +
      fy * ((1 - fx) * at(x0, y0 + 1) + fx * at(x0 + 1, y0 + 1))
    );
  };
  return [0, 1, 2].map((c) =>
    planes[c].map((_, i) => {
      const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
      const rgb = [planes[0][i], planes[1][i], planes[2][i]];
      const light = rgb.reduce((sum, v, k) => sum + LUMINANCE[k] * v, 0);
      const chroma = rgb.reduce((sum, v, k) => sum + between(parts[3 * c + k], x, y) * v, 0);
      return light + chroma + between(parts[9 + c], x, y);
    }),
  );
}

test("the kernels are the formula, also beside light a thousand times the noise; luminance stays", () => {
  const picture = hardPicture();
  const n = WIDTH * HEIGHT;
  const mark = heap.mark();
  const planes = heap.allocate(12 * n);
  picture.forEach((plane, c) => heap.floats(planes + 4 * n * c, n).set(plane));
  smoothChroma(heap, planes, WIDTH, HEIGHT, noiseOfSites(NOISE), LUMINANCE);
  const found = [0, 1, 2].map((c) => heap.floats(planes + 4 * n * c, n).slice());
  heap.release(mark);
  const expected = reference(picture);
  let worst = 0;
  let worstLight = 0;
  let changed = 0;
  for (let i = 0; i < n; i++) {
    let light = 0;
    for (let c = 0; c < 3; c++) {
      worst = Math.max(worst, Math.abs(found[c][i] - expected[c][i]));
      changed = Math.max(changed, Math.abs(found[c][i] - picture[c][i]));
      light += LUMINANCE[c] * (found[c][i] - picture[c][i]);
    }
    worstLight = Math.max(worstLight, Math.abs(light));
  }
  expect(changed).toBeGreaterThan(2e-3);
  expect(worst).toBeLessThan(8e-4);
  expect(worstLight).toBeLessThan(2e-6);
});

test.each([
  [1, 1, 1],
  [3, 1, 2],
  [1, 1, 3],
])("noise of %d, %d, %d parts in red, green and blue varies in cells as the smoothing takes it to", (...parts) => {
  const size = 400;
  const unit = 1e-5;
  const random = seeded(3);
  const data = Uint16Array.from({ length: size * size }, (_, i) => {
    const channel = ((i % size) & 1) + (Math.floor(i / size) & 1);
    const noise = 2 * (random() + random() + random() - 1.5);
    return Math.round(1000 + 60_000 * (0.3 + noise * Math.sqrt(unit * parts[channel])));
  });
  const mosaic: Mosaic = {
    width: size, height: size, data, stride: size, left: 0, top: 0, phase: { redX: 0, redY: 0 },
    black: [1000, 1000, 1000, 1000], white: 61_000,
  }; // prettier-ignore
  const offset = parts.map((part) => unit * part) as unknown as Vector3;
  const mark = heap.mark();
  const at = demosaicRows(heap, mosaic, [1, 1, 1], 0, size, "directional", {
    slope: [0, 0, 0], offset, source: "measured",
  }); // prettier-ignore
  const cells = [0, 1, 2].map((c) => {
    const plane = heap.floats(at + 4 * size * size * c, size * size);
    return Float64Array.from({ length: size * (size / 4) }, (_, i) => {
      const from = 2 * size * Math.floor((2 * i) / size) + ((2 * i) % size);
      return (plane[from] + plane[from + 1] + plane[from + size] + plane[from + size + 1]) / 4;
    });
  });
  heap.release(mark);
  const mean = (values: Float64Array) => values.reduce((sum, v) => sum + v, 0) / values.length;
  const [r, g, b] = cells.map((values) => {
    const middle = mean(values);
    return values.map((v) => v - middle);
  });
  const pairs = [[r, r], [g, g], [b, b], [r, g], [r, b], [g, b]]; // prettier-ignore
  pairs.forEach(([p, q], i) => {
    const found = mean(p.map((v, k) => v * q[k])) / unit;
    const stated = CELL_NOISE[i].reduce((sum, share, c) => sum + share * parts[c], 0);
    expect(Math.abs(found / stated - 1)).toBeLessThan(0.06);
  });
});
