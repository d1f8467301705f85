import {
  ChromaRows,
  FileNoise,
  STRIPE_ROWS,
  type CaptureInfo,
  type CellNoise,
  type KernelHeap,
  type PyramidBuilder,
  type Size,
} from "@yelm/core";
import { isGrey, type Codes, type Raster } from "./raster.ts";

const BAND_ROWS = 64;
/** Pixels at which noise is measured: stripes all over the rows that come first. */
const MEASURED_PIXELS = 2e6;

/** What makes light of codes. */
type Meaning = Pick<Raster, "decode" | "matrix"> &
  Partial<Pick<Raster, "roundingNoise">> & { readonly info: Size & Pick<CaptureInfo, "smoothed"> };

/** Finished colours, as rows of interleaved codes, on their way to tiles: decoded to linear working planes, their chroma, where that is wished, smoothed by as much as the first rows are noisy. */
export class InterleavedPicture {
  readonly #heap: KernelHeap;
  readonly #meaning: Meaning;
  readonly #builder: PyramidBuilder;
  /** Null until rows have come. */
  #push: ((planes: Float32Array, rows: number) => void) | null = null;

  constructor(heap: KernelHeap, meaning: Meaning, builder: PyramidBuilder) {
    this.#heap = heap;
    this.#meaning = meaning;
    this.#builder = builder;
  }

  /** Adds rows, as many as there are at a time: of the first of them noise is measured. */
  push(codes: Codes, rows: number): void {
    const { width } = this.#meaning.info;
    this.#push ??= this.#begin(codes, rows);
    for (let top = 0; top < rows; top += BAND_ROWS) {
      const count = Math.min(BAND_ROWS, rows - top);
      this.#push(this.#linear(codes.subarray(3 * width * top, 3 * width * (top + count)), count), count);
    }
  }

  #begin(codes: Codes, rows: number): (planes: Float32Array, rows: number) => void {
    const onward = (planes: Float32Array, count: number) => this.#builder.push(planes, count);
    const noise = this.#meaning.info.smoothed && !isGrey(codes) ? this.#noiseOf(codes, rows) : null;
    if (!noise) return onward;
    const smoothed = new ChromaRows(this.#heap, this.#meaning.info, noise, onward);
    return (planes, count) => smoothed.push(planes, count);
  }

  #noiseOf(codes: Codes, rows: number): CellNoise | null {
    const { width } = this.#meaning.info;
    const noise = new FileNoise(width);
    const every = STRIPE_ROWS * Math.max(1, Math.floor((width * rows) / MEASURED_PIXELS));
    for (let top = 0; top + STRIPE_ROWS <= rows; top += every)
      noise.add(this.#linear(codes.subarray(3 * width * top, 3 * width * (top + STRIPE_ROWS)), STRIPE_ROWS));
    return noise.cellNoise(this.#meaning.roundingNoise?.());
  }

  /** Rows of interleaved codes → three linear working planes. */
  #linear(codes: Codes, rows: number): Float32Array {
    const { decode, matrix, info } = this.#meaning;
    const n = info.width * rows;
    const heap = this.#heap;
    const mark = heap.mark();
    const m = heap.place(matrix);
    const planes = heap.allocate(4 * 3 * n);
    decodeInto(heap.floats(planes, 3 * n), codes, decode);
    heap.kernels.applyMatrix(planes, planes + 4 * n, planes + 8 * n, n, m);
    const out = heap.floats(planes, 3 * n).slice();
    heap.release(mark);
    return out;
  }
}

function decodeInto(planes: Float32Array, codes: Codes, [red, green, blue]: readonly Float32Array[]): void {
  const n = planes.length / 3;
  for (let i = 0, from = 0; i < n; i++, from += 3) {
    planes[i] = red[codes[from]];
    planes[n + i] = green[codes[from + 1]];
    planes[2 * n + i] = blue[codes[from + 2]];
  }
}
