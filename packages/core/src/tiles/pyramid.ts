import { REC2020 } from "../colour/rgb-space.ts";
import type { Size } from "../maths/rect.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import { levelCount, levelSize, TILE_SIZE, type TilePlace } from "./tiles.ts";

/** Receives finished tiles: half floats, three planes or four (see LinearTiles). The array is the receiver's own. */
export type TileSink = (place: TilePlace, halves: Uint16Array) => void;

/** Rows of a linear picture: three planes, and one of the luminance beyond sensor white, when there is any. */
interface Rows {
  readonly planes: Float32Array;
  readonly over: Float32Array | null;
}

const [RED, GREEN, BLUE] = REC2020.luminance;

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

  /** Adds rows: three planes of width·rows values each, one after the other. They are changed. */
  push(planes: Float32Array, rows: number): void {
    this.#add(0, { planes, over: cutOver(planes) }, rows);
  }

  #add(level: number, given: Rows, rows: number): void {
    const band = this.#bands[level];
    for (let from = 0; from < rows;) {
      const taken = band.take(given, rows, from);
      from += taken;
      if (!band.isFull) continue;
      this.#emit(level, band);
      if (level + 1 < this.#bands.length) {
        const smaller = levelSize({ width: band.size.width, height: band.rows }, 1);
        const planes = this.#halve(band, band.planes, 3, smaller);
        const over = band.over && this.#halve(band, band.over, 1, smaller);
        this.#add(level + 1, { planes, over }, smaller.height);
      }
      band.next();
    }
  }

  #emit(level: number, band: Band): void {
    const { width } = band.size;
    for (let left = 0; left < width; left += TILE_SIZE) {
      const tileWidth = Math.min(TILE_SIZE, width - left);
      const n = tileWidth * band.rows;
      const mark = this.#heap.mark();
      const floats = this.#heap.allocate(16 * n);
      const halves = this.#heap.allocate(8 * n);
      cutTile(band, band.planes, 3, left, tileWidth, this.#heap.floats(floats, 3 * n));
      let count = 3 * n;
      if (band.over) {
        const over = this.#heap.floats(floats + 12 * n, n);
        cutTile(band, band.over, 1, left, tileWidth, over);
        if (over.some((value) => value !== 0)) count = 4 * n;
      }
      this.#heap.kernels.floatToHalf(floats, halves, count);
      const place = { level, column: left / TILE_SIZE, row: band.index };
      this.#sink(place, this.#heap.halves(halves, count).slice());
      this.#heap.release(mark);
    }
  }

  #halve(band: Band, planes: Float32Array, count: number, { width, height }: Size): Float32Array {
    const out = new Float32Array(count * width * height);
    const mark = this.#heap.mark();
    const n = band.size.width * band.rows;
    const src = this.#heap.allocate(4 * n);
    const dst = this.#heap.allocate(4 * width * height);
    for (let plane = 0; plane < count; plane++) {
      const from = plane * TILE_SIZE * band.size.width;
      this.#heap.floats(src, n).set(planes.subarray(from, from + n));
      this.#heap.kernels.halve(src, band.size.width, band.rows, dst, width, height);
      out.set(this.#heap.floats(dst, width * height), plane * width * height);
    }
    this.#heap.release(mark);
    return out;
  }
}

/**
 * Takes from each pixel, as grey, the luminance that lies beyond sensor white, so that its colour differences stay. That
 * luminance comes back, or null when there is none.
 */
function cutOver(planes: Float32Array): Float32Array | null {
  const n = planes.length / 3;
  let over: Float32Array | null = null;
  for (let i = 0; i < n; i++) {
    const beyond = RED * planes[i] + GREEN * planes[n + i] + BLUE * planes[2 * n + i] - 1;
    if (!(beyond > 1e-4)) continue;
    over ??= new Float32Array(n);
    over[i] = beyond;
    planes[i] -= beyond;
    planes[n + i] -= beyond;
    planes[2 * n + i] -= beyond;
  }
  return over;
}

function cutTile(
  { size, rows }: Band,
  planes: Float32Array,
  count: number,
  left: number,
  width: number,
  out: Float32Array,
): void {
  for (let plane = 0, to = 0; plane < count; plane++)
    for (let row = 0; row < rows; row++, to += width) {
      const from = (plane * TILE_SIZE + row) * size.width + left;
      out.set(planes.subarray(from, from + width), to);
    }
}

/** One row of tiles of one level, as it fills. */
class Band {
  readonly size: Size;
  readonly planes: Float32Array;
  over: Float32Array | null = null;
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
  take({ planes, over }: Rows, totalRows: number, from: number): number {
    const { width, height } = this.size;
    const room = Math.min(TILE_SIZE, height - this.index * TILE_SIZE) - this.rows;
    const count = Math.min(room, totalRows - from);
    if (count <= 0) throw new RangeError(`Expected at most ${height} rows but received more.`);
    for (let plane = 0; plane < 3; plane++) {
      const start = (plane * totalRows + from) * width;
      this.planes.set(planes.subarray(start, start + count * width), (plane * TILE_SIZE + this.rows) * width);
    }
    if (over) {
      this.over ??= new Float32Array(TILE_SIZE * width);
      this.over.set(over.subarray(from * width, (from + count) * width), this.rows * width);
    }
    this.rows += count;
    return count;
  }

  next(): void {
    this.index++;
    this.rows = 0;
    this.over = null;
  }
}
