import type { Size } from "../maths/rect.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import { levelCount, levelSize, TILE_SIZE, type TilePlace } from "./tiles.ts";

/** Receives finished tiles: half floats, three planes or four (see LinearTiles). The array is the receiver's own. */
export type TileSink = (place: TilePlace, halves: Uint16Array) => void;

/** Rows of a linear picture: three planes, and one of the luminance beyond sensor white, when there is any. */
interface Rows {
  readonly rows: number;
  readonly planes: Float32Array;
  readonly over: Float32Array | null;
}

/** One row of a level's tiles, from the left, and the rows of the next level that come of it; null on the last level. */
export interface TileBand {
  readonly tiles: readonly Uint16Array[];
  readonly half: Rows | null;
}

/** Rows of a linear picture in kernel memory: planes of width·height f32; `over` is 0 where there is no light beyond white. */
export interface BandPlanes extends Size {
  readonly planes: readonly [red: number, green: number, blue: number];
  readonly over: number;
}

/** Takes what lies beyond sensor white into a plane of its own; the three planes are changed. */
export function withOver(heap: KernelHeap, size: Size, planes: BandPlanes["planes"]): BandPlanes {
  const n = size.width * size.height;
  const over = heap.allocate(4 * n);
  return { ...size, planes, over: heap.kernels.cutOver(...planes, over, n) ? over : 0 };
}

/** Cuts up to 512 rows into tiles and halves them, unless it is the last level. */
export function cutBand(heap: KernelHeap, band: BandPlanes, isLast: boolean): TileBand {
  const { width, height, planes, over } = band;
  const mark = heap.mark();
  const tiles: Uint16Array[] = [];
  const halves = heap.allocate(8 * Math.min(TILE_SIZE, width) * height);
  for (let left = 0; left < width; left += TILE_SIZE) {
    const tileWidth = Math.min(TILE_SIZE, width - left);
    const n = tileWidth * height;
    const sources = over !== 0 && reachesBeyond(heap, band, left, tileWidth) ? [...planes, over] : planes;
    sources.forEach((plane, i) =>
      heap.kernels.halvesOfRect(plane + 4 * left, width, tileWidth, height, halves + 2 * n * i),
    );
    tiles.push(heap.halves(halves, sources.length * n).slice());
  }
  const half = isLast ? null : halved(heap, band);
  heap.release(mark);
  return { tiles, half };
}

/** Whether any pixel of a tile has light beyond white. */
function reachesBeyond(heap: KernelHeap, { width, height, over }: BandPlanes, left: number, tileWidth: number) {
  const values = heap.floats(over, width * height);
  for (let from = left; from < values.length; from += width)
    for (let i = from; i < from + tileWidth; i++) if (values[i] !== 0) return true;
  return false;
}

function halved(heap: KernelHeap, { width, height, planes, over }: BandPlanes): Rows {
  const small = levelSize({ width, height }, 1);
  const n = small.width * small.height;
  const half = (sources: readonly number[]) => {
    const to = heap.allocate(4 * n);
    const out = new Float32Array(sources.length * n);
    sources.forEach((plane, i) => {
      heap.kernels.halve(plane, width, height, to, small.width, small.height);
      out.set(heap.floats(to, n), i * n);
    });
    return out;
  };
  return { rows: small.height, planes: half(planes), over: over === 0 ? null : half([over]) };
}

/**
 * Cuts a linear picture that arrives from top to bottom into tiles of every pyramid level. Memory is two bands of tiles,
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
    this.#add(0, { rows, planes, over: null });
  }

  /** Adds the next row of full-size tiles, which somebody has cut already ({@link cutBand}). Not to be mixed with {@link push}. */
  pushBand({ tiles, half }: TileBand): void {
    this.#emit(0, this.#bands[0], { tiles, half });
  }

  #add(level: number, given: Rows): void {
    const band = this.#bands[level];
    for (let from = 0; from < given.rows;) {
      from += band.take(given, from);
      if (!band.isFull) continue;
      const mark = this.#heap.mark();
      const placed = band.place(this.#heap);
      const whole = level === 0 ? withOver(this.#heap, placed, placed.planes) : placed;
      const cut = cutBand(this.#heap, whole, level + 1 === this.#bands.length);
      this.#heap.release(mark);
      this.#emit(level, band, cut);
    }
  }

  #emit(level: number, band: Band, { tiles, half }: TileBand): void {
    tiles.forEach((halves, column) => this.#sink({ level, column, row: band.index }, halves));
    band.next();
    if (half) this.#add(level + 1, half);
  }
}

/** One row of tiles of one level, as it fills. */
class Band {
  readonly size: Size;
  index = 0;
  #planes: Float32Array | null = null;
  #over: Float32Array | null = null;
  #rows = 0;

  constructor(size: Size) {
    this.size = size;
  }

  get isFull(): boolean {
    return this.#rows === Math.min(TILE_SIZE, this.size.height - this.index * TILE_SIZE);
  }

  /** Takes as many rows as fit; returns how many. */
  take({ planes, over, rows }: Rows, from: number): number {
    const { width, height } = this.size;
    const room = Math.min(TILE_SIZE, height - this.index * TILE_SIZE) - this.#rows;
    const count = Math.min(room, rows - from);
    if (count <= 0) throw new RangeError(`Expected at most ${height} rows but received more.`);
    this.#planes ??= new Float32Array(3 * TILE_SIZE * width);
    for (let plane = 0; plane < 3; plane++) {
      const start = (plane * rows + from) * width;
      this.#planes.set(planes.subarray(start, start + count * width), (plane * TILE_SIZE + this.#rows) * width);
    }
    if (over) {
      this.#over ??= new Float32Array(TILE_SIZE * width);
      this.#over.set(over.subarray(from * width, (from + count) * width), this.#rows * width);
    }
    this.#rows += count;
    return count;
  }

  /** Copies what has come into kernel memory. */
  place(heap: KernelHeap): BandPlanes {
    const { width } = this.size;
    const n = width * this.#rows;
    const copy = (from: Float32Array) => heap.place(from.subarray(0, n));
    const plane = (c: number) => copy(this.#planes!.subarray(c * TILE_SIZE * width));
    const over = this.#over ? copy(this.#over) : 0;
    return { width, height: this.#rows, planes: [plane(0), plane(1), plane(2)], over };
  }

  next(): void {
    this.index++;
    this.#rows = 0;
    this.#over = null;
  }
}
