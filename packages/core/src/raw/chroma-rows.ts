import { REC2020 } from "../colour/rgb-space.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import type { Size } from "../maths/rect.ts";
import { CHROMA_BORDER, smoothChroma, type CellNoise } from "./chroma-smoothing.ts";

const { floor, max, min } = Math;

/** Rows smoothed at a time: many, as those about them are computed twice, of a wide picture fewer. */
const BAND = { pixels: 4e6, least: 128, most: 512 } as const;

/** Takes rows of linear working colour from top to bottom and hands them on with their chroma smoothed, some rows later. */
export class ChromaRows {
  readonly #heap: KernelHeap;
  readonly #size: Size;
  readonly #band: number;
  /** Across, even. */
  readonly #wide: number;
  readonly #noise: CellNoise;
  readonly #sink: (planes: Float32Array, rows: number) => void;
  readonly #held: readonly Float32Array[];
  /** Rows of the picture: the first that is held, the one after the last, and how many were handed on. */
  #first = 0;
  #end = 0;
  #done = 0;

  /** @param sink - receives three planes of width·rows values, one after the other. */
  constructor(heap: KernelHeap, size: Size, noise: CellNoise, sink: (planes: Float32Array, rows: number) => void) {
    this.#heap = heap;
    this.#size = size;
    this.#wide = (size.width + 1) & ~1;
    this.#band = max(BAND.least, min(BAND.most, floor(BAND.pixels / this.#wide) & ~1));
    this.#noise = noise;
    this.#sink = sink;
    this.#held = [0, 1, 2].map(() => new Float32Array(this.#wide * (this.#band + 2 * CHROMA_BORDER)));
  }

  /** Adds rows: three planes of width·rows values, one after the other. The last ones are handed on when all are there. */
  push(planes: Float32Array, rows: number): void {
    const { width, height } = this.#size;
    for (let row = 0; row < rows; row++) {
      this.#held.forEach((held, c) => {
        const from = (c * rows + row) * width;
        const at = (this.#end - this.#first) * this.#wide;
        held.set(planes.subarray(from, from + width), at);
        // Half a cell at the right is made whole.
        if (width !== this.#wide) held[at + width] = held[at + width - 1];
      });
      this.#end++;
      if (this.#end === this.#done + this.#band + CHROMA_BORDER) this.#handOn(this.#band);
    }
    if (this.#end === height) while (this.#done < height) this.#handOn(min(this.#band, height - this.#done));
  }

  #handOn(count: number): void {
    const { width } = this.#size;
    const wide = this.#wide;
    const rows = this.#end - this.#first;
    const even = (rows + 1) & ~1;
    const mark = this.#heap.mark();
    const all = this.#heap.allocate(4 * 3 * wide * even + 16);
    const planes = this.#held.map((held, c) => {
      const plane = this.#heap.floats(all + 4 * wide * even * c, wide * even);
      plane.set(held.subarray(0, wide * rows));
      // So is half a cell at the foot.
      if (even !== rows) plane.copyWithin(wide * rows, wide * (rows - 1), wide * rows);
      return plane.byteOffset;
    });
    smoothChroma(this.#heap, planes[0], wide, even, this.#noise, REC2020.luminance);
    const out = new Float32Array(3 * width * count);
    planes.forEach((pointer, c) => {
      const smooth = this.#heap.floats(pointer, wide * even);
      for (let row = 0; row < count; row++) {
        const from = (this.#done - this.#first + row) * wide;
        out.set(smooth.subarray(from, from + width), (c * count + row) * width);
      }
    });
    this.#heap.release(mark);
    this.#done += count;
    const first = max(0, this.#done - CHROMA_BORDER);
    for (const held of this.#held) held.copyWithin(0, (first - this.#first) * wide, rows * wide);
    this.#first = first;
    this.#sink(out, count);
  }
}
