import {
  borderOf,
  finishedBands,
  FileNoise,
  linearPlanes,
  STRIPE_ROWS,
  TILE_SIZE,
  type CaptureInfo,
  type CellNoise,
  type FinishedRows,
  type KernelHeap,
  type PyramidBuilder,
  type Size,
} from "@yelm/core";
import type { BandHelpers } from "./band-helpers.ts";
import { isGrey, type Codes, type Raster } from "./raster.ts";

/** Pixels taken at a time: what is held does not grow with the picture. */
const PIECE_PIXELS = 24e6;
/** Pixels at which noise is measured: stripes all over the rows that come first. */
const MEASURED_PIXELS = 2e6;

/** What makes light of codes. */
type Meaning = Pick<Raster, "decode" | "matrix"> &
  Partial<Pick<Raster, "roundingNoise">> & { readonly info: Size & Pick<CaptureInfo, "smoothed"> };

/** Finished colours, as rows of interleaved codes, on their way to tiles: linear, their chroma, where that is wished, smoothed by as much as the first rows are noisy. */
export class FinishedPicture {
  readonly #heap: KernelHeap;
  readonly #meaning: Meaning;
  readonly #builder: PyramidBuilder;
  readonly #helpers: BandHelpers;
  /** Undefined until rows have come. */
  #noise: CellNoise | null | undefined;
  /** Rows that bands still to come depend on, the first of them and the one after the last. */
  #held: Codes | null = null;
  #first = 0;
  #end = 0;

  constructor(heap: KernelHeap, meaning: Meaning, builder: PyramidBuilder, helpers: BandHelpers) {
    this.#heap = heap;
    this.#meaning = meaning;
    this.#builder = builder;
    this.#helpers = helpers;
  }

  /** Adds rows, as many as there are at a time: of the first of them noise is measured. */
  async push(codes: Codes, rows: number): Promise<void> {
    const { width } = this.#meaning.info;
    if (this.#noise === undefined)
      this.#noise = this.#meaning.info.smoothed && !isGrey(codes) ? this.#noiseOf(codes, rows) : null;
    const step = Math.max(1, Math.floor(PIECE_PIXELS / width));
    for (let top = 0; top < rows; top += step)
      await this.#develop(codes.subarray(3 * width * top, 3 * width * Math.min(rows, top + step)));
  }

  async #develop(piece: Codes): Promise<void> {
    const { info, decode, matrix } = this.#meaning;
    const { width, height } = info;
    const codes = this.#withHeld(piece);
    this.#end += piece.length / 3 / width;
    const rows: FinishedRows = { width, height, codes, first: this.#first, decode, matrix, noise: this.#noise ?? null };
    await this.#helpers.develop(this.#heap, rows, (band) => this.#builder.pushBand(band));
    const next = Math.min(this.#end, Math.max(0, finishedBands(rows).end * TILE_SIZE - borderOf(rows)));
    // A copy, so that the piece can go.
    const rest = codes.subarray(3 * width * (next - this.#first));
    this.#held = rest instanceof Uint16Array ? new Uint16Array(rest) : new Uint8Array(rest);
    this.#first = next;
  }

  /** A piece below what is held, where threads can share it when some help. */
  #withHeld(piece: Codes): Codes {
    const held = this.#held ?? piece.subarray(0, 0);
    if (held.length === 0 && this.#helpers.count === 0) return piece;
    const length = held.length + piece.length;
    const bytes = new (this.#helpers.count > 0 ? SharedArrayBuffer : ArrayBuffer)(length * piece.BYTES_PER_ELEMENT);
    const codes = piece instanceof Uint16Array ? new Uint16Array(bytes) : new Uint8Array(bytes);
    codes.set(held);
    codes.set(piece, held.length);
    return codes;
  }

  #noiseOf(codes: Codes, rows: number): CellNoise | null {
    const { info, decode, matrix } = this.#meaning;
    const { width } = info;
    const noise = new FileNoise(width);
    const heap = this.#heap;
    const stripe = { width, height: STRIPE_ROWS };
    const every = STRIPE_ROWS * Math.max(1, Math.floor((width * rows) / MEASURED_PIXELS));
    for (let top = 0; top + STRIPE_ROWS <= rows; top += every) {
      const mark = heap.mark();
      const planes = linearPlanes(heap, { codes, decode, matrix }, width, top, stripe);
      noise.add(heap.floats(planes, 3 * width * STRIPE_ROWS).slice());
      heap.release(mark);
    }
    return noise.cellNoise(this.#meaning.roundingNoise?.());
  }
}
