import { beforeAll, describe, expect, test } from "@jest/globals";
import type { KernelHeap } from "../../kernels/heap.ts";
import { farthest, openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import { demosaicRows } from "../demosaic.ts";
import type { BayerPhase, Mosaic } from "../mosaic.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
});

/** A mosaic without a border, black 0 and white 60000. */
function mosaicOf(data: Uint16Array, width: number, phase: BayerPhase): Mosaic {
  const height = data.length / width;
  return { data, stride: width, left: 0, top: 0, width, height, phase, black: [0, 0, 0, 0], white: 60000 };
}

describe("demosaic", () => {
  test.each([
    [0, 0],
    [1, 0],
    [0, 1],
    [1, 1],
  ])("phase %d %d: flat colour comes back exactly, grey ramps within the border", (redX, redY) => {
    const [width, height] = [12, 10];
    const flat = [0.8, 0.5, 0.2];
    const run = (value: (x: number, y: number, channel: number) => number) => {
      const padded = heap.allocate(4 * (width + 4) * (height + 4));
      const out = heap.allocate(12 * width * height);
      const view = heap.floats(padded, (width + 4) * (height + 4));
      for (let y = -2; y < height + 2; y++)
        for (let x = -2; x < width + 2; x++) {
          const redRow = ((y ^ redY) & 1) === 0;
          const redColumn = ((x ^ redX) & 1) === 0;
          const channel = redRow === redColumn ? (redRow ? 0 : 2) : 1;
          view[(y + 2) * (width + 4) + x + 2] = value(x, y, channel);
        }
      heap.kernels.demosaicMalvar(padded, out, width, height, redX, redY);
      return heap.floats(out, 3 * width * height).slice();
    };
    const colours = run((_x, _y, channel) => flat[channel]);
    colours.forEach((v, i) => expect(v).toBeCloseTo(flat[Math.floor(i / (width * height))], 6));
    const ramp = run((x, y) => 0.1 + 0.02 * x + 0.03 * y);
    ramp.forEach((v, i) => {
      const at = i % (width * height);
      expect(v).toBeCloseTo(0.1 + 0.02 * (at % width) + 0.03 * Math.floor(at / width), 5);
    });
  });
});

describe("directional demosaic", () => {
  test.each([
    [0, 0],
    [1, 0],
    [0, 1],
    [1, 1],
  ] as const)(
    "phase %d %d: flat colour comes back exactly, a grey ramp too, and the border is that of the picture",
    (redX, redY) => {
      const [width, height] = [36, 30];
      const run = (value: (x: number, y: number, channel: number) => number) => {
        const data = Uint16Array.from({ length: width * height }, (_, i) => {
          const [x, y] = [i % width, Math.floor(i / width)];
          const [redColumn, redRow] = [(x & 1) === redX, (y & 1) === redY];
          return Math.round(60000 * value(x, y, redColumn && redRow ? 0 : redColumn || redRow ? 1 : 2));
        });
        const mosaic = mosaicOf(data, width, { redX, redY });
        const mark = heap.mark();
        const planes = [0, 10, 20].map((top) => {
          const at = demosaicRows(heap, mosaic, [1, 1, 1], top, 10);
          return heap.floats(at, 3 * width * 10).slice();
        });
        heap.release(mark);
        return (x: number, y: number, c: number) => planes[Math.floor(y / 10)][(c * 10 + (y % 10)) * width + x];
      };
      const flat = [0.8, 0.5, 0.2];
      const colours = run((_x, _y, channel) => flat[channel]);
      const ramp = run((x, y) => 0.1 + 0.008 * x + 0.012 * y);
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++)
          for (let c = 0; c < 3; c++) {
            expect(colours(x, y, c)).toBeCloseTo(flat[c], 4);
            // At the border the mirrored ramp has a ridge.
            if (x > 12 && y > 12 && x < width - 13 && y < height - 13)
              expect(ramp(x, y, c)).toBeCloseTo(0.1 + 0.008 * x + 0.012 * y, 3);
          }
    },
  );
});

test("lines between channels are those of least squares over 5 × 5 cells, held to slope 1 by what the guide's noise explains", () => {
  const [cells, rows] = [24, 12];
  const random = seeded(5);
  const [guide, target] = [0, 1].map(() => Float32Array.from({ length: cells * rows }, () => 0.2 + random()));
  const [slope, offset] = [0.01, 0.002];
  const mark = heap.mark();
  const [g, t] = [heap.place(guide), heap.place(target)];
  const out = heap.allocate(4 * cells * rows);
  heap.kernels.slopesOfLines(g, t, 0, 0, out, cells, rows, slope, offset);
  const found = heap.floats(out, cells * rows).slice();
  heap.release(mark);
  for (let y = 2; y < rows - 2; y++)
    for (let x = 4; x < cells - 4; x++) {
      const window = Array.from({ length: 25 }, (_, i) => (y - 2 + Math.floor(i / 5)) * cells + x - 2 + (i % 5));
      const mean = (of: (i: number) => number) => window.reduce((sum, i) => sum + of(i), 0) / 25;
      const [mg, mt] = [mean((i) => guide[i]), mean((i) => target[i])];
      const variance = mean((i) => (guide[i] - mg) ** 2);
      const covariance = mean((i) => (guide[i] - mg) * (target[i] - mt));
      const held = 2e-3 * (mg ** 2 + 1e-5) + 2 * (slope * mg + offset);
      expect(found[y * cells + x]).toBeCloseTo((covariance + held) / (variance + held), 4);
    }
});

test.each([
  [0, 0],
  [1, 0],
  [0, 1],
  [1, 1],
] as const)("phase %d %d: a mosaic of random sites demosaiced in pieces is the whole", (redX, redY) => {
  const [width, height] = [90, 96];
  const random = seeded(9);
  const data = Uint16Array.from({ length: width * height }, () => 1000 + 40000 * random());
  const mosaic = mosaicOf(data, width, { redX, redY });
  const noise = { slope: [1e-4, 1e-4, 1e-4], offset: [1e-6, 1e-6, 1e-6], source: "measured" } as const;
  const rows = (top: number, count: number) => {
    const mark = heap.mark();
    const at = demosaicRows(heap, mosaic, [1.5, 1, 2], top, count, "directional", noise);
    const planes = [0, 1, 2].map((c) => heap.floats(at + 4 * width * count * c, width * count).slice());
    heap.release(mark);
    return planes;
  };
  const whole = rows(0, height);
  // Sums of a window begin where the piece does: they round otherwise.
  for (const top of [0, 40])
    rows(top, 40).forEach((plane, c) =>
      expect(farthest(plane.length, (i) => Math.abs(plane[i] - whole[c][width * top + i]))).toBeLessThan(1e-5),
    );
});
