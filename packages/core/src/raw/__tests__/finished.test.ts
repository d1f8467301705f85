import { beforeAll, describe, expect, test } from "@jest/globals";
import { transform3, type Vector3 } from "../../colour/matrix.ts";
import { REC2020, REC709_TO_REC2020 } from "../../colour/rgb-space.ts";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { TILE_SIZE } from "../../tiles/tiles.ts";
import { bandsOf, developBand } from "../bands.ts";
import { CHROMA_BORDER, smoothChroma } from "../chroma-smoothing.ts";
import { borderOf, type FinishedRows } from "../finished.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
});

const random = seeded(8);
const normal = () => Math.sqrt(-2 * Math.log(random() + 1e-12)) * Math.cos(2 * Math.PI * random());
const STRAW: Vector3 = [0.3, 0.24, 0.12];
const SKY: Vector3 = [0.2, 0.26, 0.4];
const linear = Float32Array.from({ length: 65536 }, (_, code) => code / 65535);
const NOISE = [0, 1, 2].flatMap(() => [1e-8, ...REC2020.luminance.map((v) => 1e-4 * v)]).concat(Array(12).fill(0));

function picture(width: number, height: number, noise: FinishedRows["noise"] = NOISE): FinishedRows {
  const codes = Uint16Array.from({ length: 3 * width * height }, (_, i) => {
    const colour = Math.floor(i / 3) % width < width / 2 ? STRAW : SKY;
    return Math.round(65535 * (colour[i % 3] + 0.004 * normal()));
  });
  const matrix = Float32Array.from(REC709_TO_REC2020);
  return { width, height, first: 0, codes, decode: [linear, linear, linear], matrix, noise };
}

const light = ({ codes }: FinishedRows, pixel: number) =>
  transform3(REC709_TO_REC2020, [0, 1, 2].map((c) => codes[3 * pixel + c] / 65535) as unknown as Vector3);

/** Interleaved light of the bands of rows that come in pieces; what is kept of them is what the next ones need. */
function throughBands(whole: FinishedRows, piece: number): Float32Array {
  const { width, height, codes } = whole;
  const out = new Float32Array(3 * width * height).fill(NaN);
  let [first, end] = [0, 0];
  while (end < height) {
    end = Math.min(height, end + piece);
    const rows = { ...whole, first, codes: codes.slice(3 * width * first, 3 * width * end) };
    const bands = bandsOf(rows);
    for (let index = bands.first; index < bands.end; index++)
      developBand(heap, rows, index).tiles.forEach((halves, column) => {
        const left = column * TILE_SIZE;
        const wide = Math.min(TILE_SIZE, width - left);
        const mark = heap.mark();
        const floats = heap.allocate(4 * halves.length + 16);
        heap.kernels.halfToFloat(heap.place(halves), floats, (halves.length + 3) & ~3);
        const n = halves.length / 3;
        heap.floats(floats, halves.length).forEach((v, i) => {
          const [c, at] = [Math.floor(i / n), i % n];
          const pixel = (index * TILE_SIZE + Math.floor(at / wide)) * width + left + (at % wide);
          out[3 * pixel + c] = v;
        });
        heap.release(mark);
      });
    first = Math.min(end, Math.max(0, bands.end * TILE_SIZE - borderOf(whole)));
  }
  return out;
}

describe("finished colours in bands", () => {
  test("are those of the whole picture smoothed at once, however their rows come", () => {
    const [width, height] = [52, 2 * TILE_SIZE + CHROMA_BORDER + 6];
    const whole = picture(width, height);
    const n = width * height;
    const mark = heap.mark();
    const at = heap.allocate(4 * 3 * n);
    heap.floats(at, 3 * n).set(Float32Array.from({ length: 3 * n }, (_, i) => light(whole, i % n)[Math.floor(i / n)]));
    smoothChroma(heap, at, width, height, NOISE, REC2020.luminance);
    const planes = heap.floats(at, 3 * n);
    const expected = Float32Array.from({ length: 3 * n }, (_, i) => planes[(i % 3) * n + Math.floor(i / 3)]);
    heap.release(mark);
    const farthest = (a: Float32Array) => a.reduce((most, v, i) => Math.max(most, Math.abs(v - expected[i])), 0);
    for (const piece of [1, 64, 299, height]) {
      const found = throughBands(whole, piece);
      // A half float's step, and sums that begin at other rows.
      expect(farthest(found)).toBeLessThan(3e-4);
    }
    expect(farthest(Float32Array.from({ length: 3 * n }, (_, i) => light(whole, Math.floor(i / 3))[i % 3]))).toBeGreaterThan(0.005); // prettier-ignore
  });

  test.each([
    [1, 1],
    [7, 3],
    [33, 513],
    [35, 514],
    [64, 313],
  ])("of %d × %d pixels keep their luminance, each of them, and stay as they are where nothing is smoothed", (width, height) => {
    const whole = picture(width, height);
    const smoothed = throughBands(whole, 64);
    const kept = throughBands({ ...whole, noise: null }, 64);
    let [changed, off] = [0, 0];
    for (let i = 0; i < width * height; i++) {
      const own = light(whole, i);
      const change = own.reduce((sum, v, c) => sum + REC2020.luminance[c] * (smoothed[3 * i + c] - v), 0);
      changed = Math.max(changed, Math.abs(change));
      off = own.reduce((most, v, c) => Math.max(most, Math.abs(kept[3 * i + c] / v - 1)), off);
    }
    // Half floats' steps.
    expect(changed).toBeLessThan(1.5e-4);
    expect(off).toBeLessThanOrEqual(1.01 * 2 ** -11);
  }); // prettier-ignore
});
