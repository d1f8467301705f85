import type { Size } from "../ground/geometry.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import { levelCount, levelSize, TILE_SIZE, type TilePlace } from "../render/tiles.ts";

/** Receives finished tiles: half floats, three planes. The array is the receiver's own. */
export type TileSink = (place: TilePlace, halves: Uint16Array) => void;

/**
 * Cuts a linear picture that arrives row by row into tiles of every pyramid level. Memory is two bands of tiles,
 * whatever the picture's height.
 */
export class PyramidBuilder {
  readonly #heap: KernelHeap;
  readonly #sink: TileSink;
  readonly #bands: Band[];

  constructor(heap: KernelHeap, size: Size, sink: TileSink) {
    this.#heap = heap;
    this.#sink = sink;
    this.#bands = Array.from({ length: levelCount(size) }, (_, level) => new Band(levelSize(size, level)));
  }

  /** Adds rows: three planes of width·rows values each, one after the other. */
  push(planes: Float32Array, rows: number): void {
    this.#add(0, planes, rows);
  }

  #add(level: number, planes: Float32Array, rows: number): void {
    const band = this.#bands[level];
    for (let from = 0; from < rows;) {
      const taken = band.take(planes, rows, from);
      from += taken;
      if (!band.isFull) continue;
      this.#emit(level, band);
      if (level + 1 < this.#bands.length) {
        const smaller = levelSize({ width: band.size.width, height: band.rows }, 1);
        this.#add(level + 1, this.#halve(band, smaller), smaller.height);
      }
      band.next();
    }
  }

  #emit(level: number, band: Band): void {
    const { width } = band.size;
    for (let left = 0; left < width; left += TILE_SIZE) {
      const tileWidth = Math.min(TILE_SIZE, width - left);
      const n = 3 * tileWidth * band.rows;
      const mark = this.#heap.mark();
      const floats = this.#heap.allocate(4 * n);
      const halves = this.#heap.allocate(2 * n);
      const tile = this.#heap.floats(floats, n);
      for (let plane = 0, to = 0; plane < 3; plane++)
        for (let row = 0; row < band.rows; row++, to += tileWidth) {
          const from = (plane * TILE_SIZE + row) * width + left;
          tile.set(band.planes.subarray(from, from + tileWidth), to);
        }
      this.#heap.kernels.floatToHalf(floats, halves, n);
      const place = { level, column: left / TILE_SIZE, row: band.index };
      this.#sink(place, this.#heap.halves(halves, n).slice());
      this.#heap.release(mark);
    }
  }

  #halve(band: Band, { width, height }: Size): Float32Array {
    const out = new Float32Array(3 * width * height);
    const mark = this.#heap.mark();
    const n = band.size.width * band.rows;
    const src = this.#heap.allocate(4 * n);
    const dst = this.#heap.allocate(4 * width * height);
    for (let plane = 0; plane < 3; plane++) {
      const from = plane * TILE_SIZE * band.size.width;
      this.#heap.floats(src, n).set(band.planes.subarray(from, from + n));
      this.#heap.kernels.halve(src, band.size.width, band.rows, dst, width, height);
      out.set(this.#heap.floats(dst, width * height), plane * width * height);
    }
    this.#heap.release(mark);
    return out;
  }
}

/** One row of tiles of one level, as it fills. */
class Band {
  readonly size: Size;
  readonly planes: Float32Array;
  index = 0;
  rows = 0;

  constructor(size: Size) {
    this.size = size;
    this.planes = new Float32Array(3 * TILE_SIZE * size.width);
  }

  get isFull(): boolean {
    return this.rows === Math.min(TILE_SIZE, this.size.height - this.index * TILE_SIZE);
  }

  /** Takes as many rows as fit; returns how many. */
  take(planes: Float32Array, totalRows: number, from: number): number {
    const { width, height } = this.size;
    const room = Math.min(TILE_SIZE, height - this.index * TILE_SIZE) - this.rows;
    const count = Math.min(room, totalRows - from);
    if (count <= 0) throw new RangeError(`Expected at most ${height} rows but received more.`);
    for (let plane = 0; plane < 3; plane++) {
      const start = (plane * totalRows + from) * width;
      this.planes.set(planes.subarray(start, start + count * width), (plane * TILE_SIZE + this.rows) * width);
    }
    this.rows += count;
    return count;
  }

  next(): void {
    this.index++;
    this.rows = 0;
  }
}
