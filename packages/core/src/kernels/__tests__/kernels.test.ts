import { beforeAll, describe, expect, test } from "@jest/globals";
import { cubicWeights } from "../../maths/cubic-weights.ts";
import type { KernelHeap } from "../heap.ts";
import { bakeCodeTable, bakeLightTable, bakeStopsTable } from "../light-table.ts";
import { openHeap, seeded } from "./open-heap.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
});

const SPECIAL = [0, -0, 1, -1, 65504, 1e9, -1e9, 2 ** -24, 2 ** -15, 6e-8, NaN, Infinity, -Infinity, 0.1, 1 / 3, -7e-5];
const ODD_LENGTHS = [1, 3, 4, 5, 17];
/** Runs a kernel that maps n floats to n floats. */
function mapped(values: readonly number[], run: (src: number, out: number, padded: number) => void): number[] {
  const mark = heap.mark();
  const padded = (values.length + 3) & ~3;
  const src = heap.allocate(4 * padded);
  const out = heap.allocate(4 * padded);
  heap.floats(src, padded).fill(0).set(values);
  run(src, out, padded);
  const found = Array.from(heap.floats(out, values.length));
  heap.release(mark);
  return found;
}

/** Half float by the definition of IEEE 754 binary16, scalar. */
function nearestHalf(value: number): number {
  if (Number.isNaN(value)) return 0;
  const size = Math.min(65504, Math.abs(value));
  const exponent = Math.max(-14, Math.floor(Math.log2(size || 2 ** -20)));
  const step = 2 ** (exponent - 10);
  const scaled = size / step;
  const floor = Math.floor(scaled);
  const up = scaled - floor > 0.5 || (scaled - floor === 0.5 && floor % 2 === 1);
  return Math.sign(value) * (floor + (up ? 1 : 0)) * step;
}

describe("half floats", () => {
  test("round to the nearest, ties to even, clamped; the scalar definition agrees", () => {
    const random = seeded(3);
    const values = [
      ...SPECIAL,
      ...Array.from({ length: 4000 }, () => (random() - 0.3) * 2 ** (40 * random() - 24)),
    ].map(Math.fround);
    const back = mapped(values, (src, out, n) => {
      const halves = heap.allocate(2 * n);
      heap.kernels.halvesOfRect(src, n, n, 1, halves);
      heap.kernels.halfToFloat(halves, out, n);
    });
    values.forEach((value, i) => expect([value, back[i] + 0]).toEqual([value, nearestHalf(value) + 0]));
  });
});

describe("weigh and develop", () => {
  test.each(ODD_LENGTHS)("weighHalf of %d pixels is the weighted sum", (n) => {
    const random = seeded(n);
    const planes = [0, 1, 2].map(() => Array.from({ length: n }, () => nearestHalf(2 * random())));
    const [out] = [
      mapped(planes[0], (_src, result, padded) => {
        const pointers = planes.map((plane) => {
          const floats = heap.allocate(4 * padded);
          heap.floats(floats, padded).fill(0).set(plane);
          const halves = heap.allocate(2 * padded);
          heap.kernels.halvesOfRect(floats, padded, padded, 1, halves);
          return halves;
        });
        heap.floats(result, padded).fill(NaN);
        heap.kernels.weighHalf(pointers[0], pointers[1], pointers[2], padded, 1, result, padded, 1.2, -0.4, 0.2);
      }),
    ];
    out.forEach((e, i) => expect(e).toBeCloseTo(1.2 * planes[0][i] - 0.4 * planes[1][i] + 0.2 * planes[2][i], 5));
  });

  test("light through stops and a table gives smooth functions back closely; NaN, negatives and what is too dark count as black", () => {
    const random = seeded(8);
    const values = [...SPECIAL, ...Array.from({ length: 500 }, () => 2 ** (24 * random() - 19))];
    for (const [f, tolerance] of [
      [(e: number) => 0.25 + 0.5 * e, 2e-5],
      [(e: number) => Math.min(8, e) ** 0.45, 3e-5],
    ] as const) {
      const table = heap.place(bakeStopsTable(f));
      const out = mapped(values, (src, to, n) => {
        heap.kernels.stopsOfLight(src, n, to, n, n, 1);
        heap.kernels.develop(to, 0, n, to, n, n, 1, table);
      });
      values.forEach((e, i) => {
        const inside = Number.isNaN(e) ? 1e-6 : Math.min(64, Math.max(1e-6, e));
        if (inside > 62) return;
        expect(Math.abs(out[i] - f(inside))).toBeLessThan(
          tolerance * (1 + f(inside)) + (inside > 7 && inside < 9 ? 0.05 : 0),
        );
      });
    }
  });

  test("develop adds stops of moves before the table; light comes back from stops", () => {
    const moves = heap.place(Float32Array.of(0, 1, -1, 0.5));
    const table = heap.place(bakeStopsTable((e) => e));
    const stops = [0, 0, 0, 0];
    const truth = [0.18, 0.36, 0.09, 0.18 * Math.SQRT2];
    const out = mapped(stops, (src, to, n) => heap.kernels.develop(src, moves, n, to, n, n, 1, table));
    truth.forEach((e, i) => expect(Math.abs(out[i] / e - 1)).toBeLessThan(2e-5));
    const light = mapped(stops, (src, to, n) => heap.kernels.lightOfStops(src, moves, n, to, n, n, 1));
    truth.forEach((e, i) => expect(light[i]).toBeCloseTo(e, 6));
  });
});

describe("resampling", () => {
  const plane = (width: number, height: number, f: (x: number, y: number) => number) =>
    heap.place(Float32Array.from({ length: width * height }, (_, i) => f(i % width, Math.floor(i / width))));

  test.each([
    [0.37, 61, 43],
    [1, 8, 8],
    [1.7, 5, 9],
    [0.5, 1, 1],
    [0.2, 3, 2],
  ])("at ratio %d, %d×%d equals the scalar sum", (ratio, width, height) => {
    const random = seeded(width);
    const source = Float32Array.from({ length: width * height }, () => random());
    const outWidth = Math.max(1, Math.round(width * ratio));
    const outHeight = Math.max(1, Math.round(height * ratio));
    const x = cubicWeights(ratio, 0, outWidth, width);
    const y = cubicWeights(ratio, 0, outHeight, height);
    // A source shorter than the taps is read beyond its end, where nothing weighs anything.
    const sourceStride = (Math.max(width, x.taps) + 3) & ~3;
    const padded = new Float32Array(sourceStride * Math.max(height, y.taps));
    source.forEach((v, i) => (padded[Math.floor(i / width) * sourceStride + (i % width)] = v));
    const stride = (outWidth + 3) & ~3;
    const rows = heap.allocate(4 * sourceStride * outHeight);
    const out = heap.allocate(4 * stride * outHeight);
    heap.kernels.resampleColumns(heap.place(padded), rows, sourceStride, outHeight, heap.place(y.first), heap.place(y.weights), y.taps); // prettier-ignore
    heap.kernels.resampleRows(rows, sourceStride, out, stride, outWidth, outHeight, heap.place(x.first), heap.place(x.weights), x.taps); // prettier-ignore
    const found = heap.floats(out, stride * outHeight).slice();
    for (let j = 0; j < outHeight; j++)
      for (let i = 0; i < outWidth; i++) {
        let sum = 0;
        for (let v = 0; v < y.taps; v++)
          for (let u = 0; u < x.taps; u++)
            sum +=
              y.weights[j * y.taps + v] *
              x.weights[i * x.taps + u] *
              padded[(y.start + y.first[j] + v) * sourceStride + x.start + x.first[i] + u];
        expect(found[j * stride + i]).toBeCloseTo(sum, 4);
      }
  });

  test("weights sum to one and a straight ramp stays straight", () => {
    const w = cubicWeights(0.31, 10, 20, 200);
    for (let i = 0; i < 20; i++) {
      let sum = 0;
      let place = 0;
      for (let k = 0; k < w.taps; k++) {
        sum += w.weights[i * w.taps + k];
        place += w.weights[i * w.taps + k] * (w.start + w.first[i] + k);
      }
      expect(sum).toBeCloseTo(1, 6);
      expect(place).toBeCloseTo((10 + i + 0.5) / 0.31 - 0.5, 1);
    }
  });

  test("sampling a turned grid gives a plane back; at whole places the very values", () => {
    const [width, height] = [40, 30];
    const ramp = plane(width, height, (x, y) => 0.3 * x - 0.2 * y + 5);
    const out = heap.allocate(4 * 16 * 10);
    const a = 0.3;
    heap.kernels.sampleAffine(
      ramp,
      width,
      height,
      out,
      16,
      13,
      10,
      Math.cos(a),
      -Math.sin(a),
      12.3,
      Math.sin(a),
      Math.cos(a),
      8.7,
    );
    const found = heap.floats(out, 160).slice();
    for (let y = 0; y < 10; y++)
      for (let x = 0; x < 13; x++) {
        const sx = Math.cos(a) * x - Math.sin(a) * y + 12.3;
        const sy = Math.sin(a) * x + Math.cos(a) * y + 8.7;
        expect(found[16 * y + x]).toBeCloseTo(0.3 * sx - 0.2 * sy + 5, 3);
      }
    heap.kernels.sampleAffine(ramp, width, height, out, 16, 4, 4, 1, 0, 7, 0, 1, 9);
    expect(heap.floats(out, 4)[2]).toBeCloseTo(0.3 * 9 - 0.2 * 9 + 5, 5);
  });
});

describe("shapes of light", () => {
  const quintic = (t: number) => t ** 3 * (t * (6 * t - 15) + 10);
  const fade = (d: number, hard: number) => quintic(Math.min(1, Math.max(0, (1 - d) / Math.max(1 - hard, 1e-4))));

  test("an ellipse equals its formula", () => {
    const out = mapped(new Array<number>(24 * 9).fill(1), (_src, to) =>
      heap.kernels.drawEllipse(to, 24, 9, 0.1, 0.02, -1.1, -0.03, 0.2, -0.8, 0.25),
    );
    out.forEach((v, i) => {
      const [x, y] = [i % 24, Math.floor(i / 24)];
      expect(v).toBeCloseTo(fade(Math.hypot(0.1 * x + 0.02 * y - 1.1, -0.03 * x + 0.2 * y - 0.8), 0.25), 5);
    });
  });

  test("a stroke is widest at its flow and ends at its radius; building up never passes 1, erasing never 0", () => {
    const n = 32 * 16;
    const stroke = heap.allocate(4 * n);
    const mask = heap.allocate(4 * n);
    heap.floats(stroke, n).fill(0);
    heap.floats(mask, n).fill(0);
    heap.kernels.strokePiece(stroke, 32, 0, 0, 32, 16, 1, 0, 0, 0, 1, 0, 8, 8, 24, 8, 5, 0, 0.4, 0.8);
    const drawn = heap.floats(stroke, n).slice();
    expect(drawn[8 * 32 + 8]).toBeCloseTo(0.4, 5);
    expect(drawn[8 * 32 + 16]).toBeCloseTo(0.6, 5);
    expect(drawn[8 * 32 + 24]).toBeCloseTo(0.8, 5);
    expect(drawn[8 * 32 + 30]).toBe(0);
    expect(drawn[11 * 32 + 16]).toBeCloseTo(0.6 * fade(3 / 5, 0), 5);
    for (let i = 0; i < 3; i++) heap.kernels.buildUp(mask, 32, stroke, 32, 32, 16, 0);
    expect(heap.floats(mask, n)[8 * 32 + 16]).toBeCloseTo(1 - 0.4 ** 3, 5);
    heap.kernels.buildUp(mask, 32, stroke, 32, 32, 16, 1);
    expect(heap.floats(mask, n)[8 * 32 + 16]).toBeCloseTo((1 - 0.4 ** 3) * 0.4, 5);
    heap.floats(stroke, n).fill(0);
    heap.kernels.addScaled(stroke, 32, mask, 32, 32, 16, 2);
    const twice = 2 * heap.floats(mask, n)[8 * 32 + 16];
    expect(heap.floats(stroke, n)[8 * 32 + 16]).toBe(Math.round(16384 * twice) / 16384);
  });
});

describe("grain noise", () => {
  test("has mean 0, variance 1, no correlation, and the same value at the same place from any tile", () => {
    const [width, height] = [256, 128];
    const a = heap.allocate(4 * width * height);
    heap.kernels.whiteNoise(a, width, height, 0, 0, 77);
    const noise = heap.floats(a, width * height).slice();
    const mean = noise.reduce((s, v) => s + v, 0) / noise.length;
    const variance = noise.reduce((s, v) => s + v * v, 0) / noise.length;
    let next = 0;
    for (let i = 0; i + width + 1 < noise.length; i++) next += noise[i] * (noise[i + 1] + noise[i + width]);
    expect(Math.abs(mean)).toBeLessThan(0.02);
    expect(variance).toBeCloseTo(1, 1);
    expect(Math.abs(next / noise.length)).toBeLessThan(0.02);
    const b = heap.allocate(4 * 16 * 8);
    heap.kernels.whiteNoise(b, 16, 8, 100, 50, 77);
    expect(heap.floats(b, 16)[3]).toBe(noise[50 * width + 103]);
    heap.kernels.whiteNoise(b, 16, 8, 100, 50, 78);
    expect(heap.floats(b, 16)[3]).not.toBe(noise[50 * width + 103]);
  });

  test("is laid on by the formula of its model, and nothing on bare paper", () => {
    const [a, b, c, t] = [0.02, 0.1, 0.05, 0.3];
    const noise = heap.place(Float32Array.of(1, 1.5, -1, 1));
    const out = mapped([0.1, 0.01, 0.1, 1], (src, to, n) => {
      heap.floats(to, n).set(heap.floats(src, n).slice());
      heap.kernels.addGrain(to, n, noise, n, n, 1, heap.place(Float32Array.of(a, b, c, t)));
    });
    const truth = [[0.1, 1], [0.01, 1.5], [0.1, -1]].map(([light, n]) => {
      const x = -Math.log(light);
      const variance = (a * x * (1 + b * x)) / (1 + c * x);
      const k = Math.min((1 / x + t) / 6, 0.2236 / Math.sqrt(variance));
      const m = Math.sqrt(variance) * n;
      const u = 2 * k * variance;
      return light * Math.exp(m - k * m * m + Math.log1p(u) / 2 - variance / (2 * (1 + u)));
    }); // prettier-ignore
    truth.forEach((r, i) => expect(out[i] / r).toBeCloseTo(1, 4));
    expect(out[3]).toBeCloseTo(1, 5);
  });
});

describe("base and detail", () => {
  test("the guided line is its formula, and stops are logarithms", () => {
    const n = 8;
    const light = heap.place(Float32Array.of(0.18, 0.36, 0.09, 1e-9, -1, NaN, 4, Infinity));
    const stops = heap.allocate(4 * n);
    heap.kernels.stopsOfLight(light, n, stops, n, n, 1);
    const found = Array.from(heap.floats(stops, n));
    [0, 1, -1, Math.log2(1e-6 / 0.18), Math.log2(1e-6 / 0.18), Math.log2(1e-6 / 0.18), Math.log2(4 / 0.18), Math.log2(1e6 / 0.18)].forEach((l, i) => expect(found[i]).toBeCloseTo(l, 4)); // prettier-ignore
    const mean = heap.place(Float32Array.of(2, -1, 0, 3));
    const square = heap.place(Float32Array.of(5, 1, 0.25, 8.9));
    heap.kernels.guidedLine(mean, square, 4, 0.5);
    [
      [2, 5],
      [-1, 1],
      [0, 0.25],
      [3, 8.9],
    ].forEach(([m, s], i) => {
      const v = Math.max(0, s - m * m);
      expect(heap.floats(mean, 4)[i]).toBeCloseTo(v / (v + 0.5), 5);
      expect(heap.floats(square, 4)[i]).toBeCloseTo(m * (1 - v / (v + 0.5)), 5);
    });
  });

  test("bases, detail by tone and scale, and what the tone base shifts equal their formulas, at the borders too", () => {
    const random = seeded(31);
    const [width, height, ratio] = [13, 7, 0.25];
    const coarse = { width: 5, height: 3 };
    const stride = 16;
    const plane = () => Float32Array.from({ length: stride * height }, () => 8 * random() - 5);
    const [stops, fine, tones] = [plane(), plane(), plane()];
    const slope = Float32Array.from({ length: 15 }, () => random());
    const offset = Float32Array.from({ length: 15 }, () => 4 * random() - 2);
    const [bases, out] = [heap.allocate(4 * stride * height), heap.allocate(4 * stride * height)];
    const [ox, oy] = [-0.375, 0.6];
    const gains = { low: 0.8, mid: -0.5, high: 0.3, middle: 0.4, fine: -0.7 };
    const [at0, atFine, atTones] = [stops, fine, tones].map((values) => heap.place(values));
    heap.kernels.drawBase(at0, stride, bases, stride, width, height, heap.place(slope), heap.place(offset), coarse.width, coarse.width, coarse.height, heap.allocate(16 * stride), ox, oy, ratio); // prettier-ignore
    heap.kernels.detailByTone(at0, stride, atFine, bases, stride, out, stride, width, height, heap.place(Float32Array.from(Object.values(gains)))); // prettier-ignore
    const bends = [0.5, -0.6, 0.25, 5.5, 2, 0, 4, 1.5];
    const plain = heap.floats(out, stride * height).slice();
    heap.kernels.shiftByBase(out, stride, atTones, bases, stride, width, height, 0.3, heap.place(Float32Array.from(bends))); // prettier-ignore
    const slopeTo = (x: number, from: number, to: number, over: number) => {
      // The integral, by many small steps, of a slope that sets in and goes out smoothly.
      let sum = 0;
      const step = Math.max(0, x) / 2000;
      for (let i = 0; i < 2000; i++) {
        const t = (i + 0.5) * step;
        sum += step * (smooth((t - from) / over) - smooth((t - to) / over));
      }
      return sum;
    };
    const clampTo = (v: number, top: number) => Math.min(top, Math.max(0, v));
    const smooth = (t: number) => clampTo(t, 1) ** 2 * (3 - 2 * clampTo(t, 1));
    const at = (plane: Float32Array, x: number, y: number) => {
      const [sx, sy] = [clampTo(ox + ratio * x, coarse.width - 1), clampTo(oy + ratio * y, coarse.height - 1)];
      const [ix, iy] = [Math.floor(sx), Math.floor(sy)];
      const value = (i: number, j: number) =>
        plane[Math.min(coarse.height - 1, j) * coarse.width + Math.min(coarse.width - 1, i)];
      const mix = (j: number) => value(ix, j) + (sx - ix) * (value(ix + 1, j) - value(ix, j));
      return mix(iy) + (sy - iy) * (mix(iy + 1) - mix(iy));
    };
    const found = heap.floats(out, stride * height).slice();
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const i = y * stride + x;
        const l = stops[i];
        const base = at(slope, x, y) * l + at(offset, x, y);
        const tone =
          gains.mid +
          (gains.low - gains.mid) * smooth((-1 - base) / 1.5) +
          (gains.high - gains.mid) * smooth((base - 1) / 1.5);
        const wanted = l + ((1 + tone) * 1.4 - 1) * (fine[i] - base) + ((1 + tone) * 0.3 - 1) * (l - fine[i]);
        // Places at the last value count as a ten-thousandth of a coarse pixel before it.
        expect(Math.abs(plain[i] - wanted)).toBeLessThan(5e-3);
        const b = tones[i];
        const shift = 0.5 * slopeTo(-b, 0.25, 5.5, 2) - 0.6 * slopeTo(b, 0, 4, 1.5) + 0.3 * (base - b);
        expect(Math.abs(found[i] - plain[i] - shift)).toBeLessThan(5e-3);
      }
  });
});

describe("encode", () => {
  test("16 bit is the rounded table, NaN and out of range stay in range", () => {
    const table = heap.place(bakeLightTable((r) => Math.min(1, r)));
    const mark = heap.mark();
    const src = heap.place(Float32Array.of(0, 1, 0.5, 2, -1, NaN, 0.18, 1e-3));
    const out = heap.allocate(2 * 8);
    heap.kernels.encode16(src, 8, out, 8, 1, table);
    expect(Array.from(heap.halves(out, 8))).toEqual([0, 65535, 32768, 65535, 0, 0, 11796, 66]);
    heap.release(mark);
  });
  const GRAIN = Float32Array.of(0.013, 0, 0, 0.1);
  /** A flat reflectance, or density, through a code table, with noise laid on it. */
  const coded = (
    value: number,
    code: Parameters<typeof bakeCodeTable>[0],
    noise: number | null,
    x0 = 0,
    isDensity = false,
  ) => {
    const [width, height] = [64, 64];
    const src = heap.place(new Float32Array(width * height).fill(value));
    const grains = noise === null ? 0 : heap.place(new Float32Array(width * height).fill(noise));
    const out = heap.allocate(4 * width * height);
    const table = heap.place(bakeCodeTable(code));
    const rows = heap.allocate(12 * width);
    heap.kernels.encodeRgba8(
      src,
      width,
      Number(isDensity),
      grains,
      width,
      heap.place(GRAIN),
      out,
      width,
      width,
      height,
      x0,
      0,
      table,
      rows,
    );
    return heap.bytes(out, 4 * width * height).slice();
  };
  test("8 bit is dithered: the mean of a flat grey is exact to a fortieth of a code, and codes differ by one at most", () => {
    for (const value of [0.3037, 0.9, 0.012]) {
      const rgba = coded(value, (r) => [255 * r, 255 * r * r, 255 * Math.sqrt(r)], null);
      const sums = [0, 0, 0];
      const truth = [255 * value, 255 * value ** 2, 255 * Math.sqrt(value)];
      let worst = 0;
      let opaque = 255;
      for (let i = 0; i < rgba.length; i += 4) {
        for (const c of [0, 1, 2]) {
          sums[c] += rgba[i + c];
          worst = Math.max(worst, Math.abs(rgba[i + c] - truth[c]));
        }
        opaque = Math.min(opaque, rgba[i + 3]);
      }
      expect(worst).toBeLessThan(1.02);
      expect(opaque).toBe(255);
      sums.forEach((sum, c) => expect(Math.abs(sum / (64 * 64) - truth[c])).toBeLessThan(0.03));
    }
  });
  test("8 bit: grain is that of the reflectance, odd values stay in range, and pieces meet", () => {
    for (const noise of [1.5, -0.7]) {
      const one = heap.place(Float32Array.of(0.2, 0.2, 0.2, 0.2));
      heap.kernels.addGrain(one, 4, heap.place(new Float32Array(4).fill(noise)), 4, 4, 1, heap.place(GRAIN));
      const grey = 255 * heap.floats(one, 4)[0];
      const rgba = coded(0.2, (r) => [255 * r, 255 * r, 255 * r], noise);
      const mean = rgba.reduce((sum, v, i) => sum + (i % 4 === 0 ? v : 0), 0) / (64 * 64);
      expect(Math.abs(mean - grey)).toBeLessThan(0.03);
    }
    const plain = (r: number): [number, number, number] => [255 * r, 255 * r, 255 * r];
    for (const [odd, code] of [[NaN, 0], [-1, 0], [5, 255], [1, 255], [0, 0]]) expect(coded(odd, plain, null)[0]).toBe(code); // prettier-ignore
    for (const noise of [null, 1.5, -0.7]) {
      const [from, density] = [coded(0.2, plain, noise), coded(-Math.log2(0.2), plain, noise, 0, true)];
      from.forEach((v, i) => expect(Math.abs(v - density[i])).toBeLessThanOrEqual(1));
      const sum = (rgba: Uint8Array) => rgba.reduce((all, v) => all + v, 0);
      expect(Math.abs(sum(from) - sum(density)) / from.length).toBeLessThan(0.002);
    }
    const whole = coded(0.4, plain, null);
    expect([...coded(0.4, plain, null, 8).subarray(0, 4 * 56)]).toEqual([...whole.subarray(32, 4 * 64)]);
  });
});

describe("the smaller kernels", () => {
  test("convolution of rows and columns is the sum of taps", () => {
    const random = seeded(13);
    const taps = Float32Array.of(0.1, 0.5, 0.25, 0.15, -0.2);
    const [width, height] = [8, 5];
    const source = Float32Array.from({ length: (width + 4) * (height + 4) }, () => random());
    const rows = heap.allocate(4 * width * (height + 4));
    const out = heap.allocate(4 * width * height);
    heap.kernels.convolveRows(heap.place(source), width + 4, rows, width, height + 4, heap.place(taps), 5);
    heap.kernels.convolveColumns(rows, out, width, height, heap.place(taps), 5);
    const found = heap.floats(out, width * height).slice();
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        let sum = 0;
        for (let v = 0; v < 5; v++)
          for (let u = 0; u < 5; u++) sum += taps[v] * taps[u] * source[(y + v) * (width + 4) + x + u];
        expect(found[y * width + x]).toBeCloseTo(sum, 5);
      }
  });

  test.each([
    [0, 0],
    [0.4, -0.2],
  ])("burned edges about %d, %d are nothing there, whole in the corners, and equal their formula between", (cx, cy) => {
    const [n, start, roundness, gain] = [33, 0.3, 0.4, -1.5];
    const width = 36;
    const out = heap.allocate(4 * width * n);
    heap.floats(out, width * n).fill(0);
    const step = 2 / n;
    heap.kernels.addEdgeBurn(
      out,
      width,
      width,
      n,
      step / 2 - 1,
      step / 2 - 1,
      step,
      step,
      start,
      roundness,
      gain,
      cx,
      cy,
    );
    const from = (at: number, centre: number) => Math.abs((at - centre) / (at > centre ? 1 - centre : 1 + centre));
    const found = heap.floats(out, width * n).slice();
    expect(found[Math.floor(((cy + 1) * n) / 2) * width + Math.floor(((cx + 1) * n) / 2)]).toBeCloseTo(0, 6);
    for (const [x, y] of [
      [0, 0],
      [5, 20],
      [32, 16],
      [30, 2],
    ]) {
      const [u, v] = [from((x + 0.5) * step - 1, cx), from((y + 0.5) * step - 1, cy)];
      const square = Math.max(u, v);
      const d = square + roundness * (Math.hypot(u, v) * Math.SQRT1_2 - square);
      const t = Math.min(1, Math.max(0, (d - start) / (1 - start)));
      expect(found[y * width + x]).toBeCloseTo(gain * t * t * (3 - 2 * t), 5);
    }
  });

  test("a matrix on planes, and colour to screen codes", () => {
    const n = 8;
    const random = seeded(17);
    const planes = [0, 1, 2].map(() => Float32Array.from({ length: n }, () => random()));
    const m = Float32Array.of(1.2, -0.1, -0.1, 0.05, 0.9, 0.05, 0, -0.3, 1.3);
    const expected = [0, 1, 2].map((r) =>
      planes[0].map((_, i) => m[3 * r] * planes[0][i] + m[3 * r + 1] * planes[1][i] + m[3 * r + 2] * planes[2][i]),
    );
    const pointers = planes.map((plane) => heap.place(plane));
    const table = heap.place(bakeLightTable((v) => Math.min(1, v)));
    const codes = heap.allocate(4 * n);
    heap.kernels.encodeColour8(pointers[0], pointers[1], pointers[2], codes, n, heap.place(m), table);
    const rgba = heap.bytes(codes, 4 * n).slice();
    heap.kernels.applyMatrix(pointers[0], pointers[1], pointers[2], n, heap.place(m));
    pointers.forEach((pointer, c) =>
      heap.floats(pointer, n).forEach((v, i) => {
        expect(v).toBeCloseTo(expected[c][i], 5);
        expect(Math.abs(rgba[4 * i + c] - 255 * Math.min(1, Math.max(0, v)))).toBeLessThanOrEqual(0.51);
        expect(rgba[4 * i + 3]).toBe(255);
      }),
    );
  });

  test("copying a rectangle touches nothing else", () => {
    const source = heap.place(Float32Array.from({ length: 35 }, (_, i) => i));
    const out = heap.place(new Float32Array(40).fill(-1));
    heap.kernels.copyRect(source + 4 * 8, 7, out + 4 * 9, 8, 3, 2);
    const found = Array.from(heap.floats(out, 40));
    expect(found.slice(8, 20)).toEqual([-1, 8, 9, 10, -1, -1, -1, -1, -1, 15, 16, 17]);
    expect(found.filter((v) => v !== -1)).toHaveLength(6);
  });
});

test("the heap gives aligned blocks back like a stack and refuses what cannot fit", () => {
  const mark = heap.mark();
  const a = heap.allocate(5);
  const b = heap.allocate(5);
  expect([a % 16, b % 16, b >= a + 5 + 16]).toEqual([0, 0, true]);
  heap.release(mark);
  expect(heap.allocate(5)).toBe(a);
  heap.release(mark);
  expect(() => heap.allocate(2 ** 32)).toThrow();
});
