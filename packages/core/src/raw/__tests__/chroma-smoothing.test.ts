import { beforeAll, expect, test } from "@jest/globals";
import { diagonal3, invert3, multiply3, transform3, type Matrix3, type Vector3 } from "../../colour/matrix.ts";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { CELL_NOISE, smoothChroma } from "../chroma-smoothing.ts";
import type { NoiseModel } from "../noise-model.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
});

const WIDTH = 58;
const HEIGHT = 44;
const RADIUS = 6;
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
      const noise = [0, 1, 2].map((c) => Math.sqrt(CELL_NOISE[c] * (NOISE.slope[c] * mean[c] + NOISE.offset[c])));
      const w = [0, 1, 2].flatMap((a) =>
        [0, 1, 2].map((b) => {
          const product = windowMean((u, v) => cell(u, v, a) * cell(u, v, b), x, y);
          return (product - mean[a] * mean[b]) / (noise[a] * noise[b]);
        }),
      ) as unknown as Matrix3;
      const trace = w[0] + w[4] + w[8];
      const calm = 4e3 / Math.max(4e3, trace);
      const scaled = w.map((v) => v * calm) as unknown as Matrix3;
      const square = multiply3(scaled, scaled);
      const knee = square.map((v, i) => v + (i % 4 === 0 ? 64 : 0)) as unknown as Matrix3;
      const gain = invert3(knee).map((v, i) => (i % 4 === 0 ? 1 : 0) - 64 * v) as unknown as Matrix3;
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
  smoothChroma(heap, planes, WIDTH, HEIGHT, NOISE, LUMINANCE);
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
