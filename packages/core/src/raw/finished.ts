import { REC2020 } from "../colour/rgb-space.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import type { Size } from "../maths/rect.ts";
import { cutBand, withOver, type TileBand } from "../tiles/pyramid.ts";
import { levelCount, TILE_SIZE } from "../tiles/tiles.ts";
import { CHROMA_BORDER, smoothChroma, type CellNoise } from "./chroma-smoothing.ts";

const { ceil, floor, max, min } = Math;

/** Interleaved codes of three channels, and what makes light of them. */
export interface CodedColour {
  readonly codes: Uint8Array | Uint16Array;
  /** Code → linear light, for each channel. */
  readonly decode: readonly Float32Array[];
  /** That light to the working space, row-major. */
  readonly matrix: Float32Array;
}

/** Whole rows of a picture of finished colours, from `first` on. Plain data: threads may share it. */
export interface FinishedRows extends Size, CodedColour {
  readonly first: number;
  /** By which their chroma is smoothed; null where it stays as it is. */
  readonly noise: CellNoise | null;
}

/** Rows above and below a band on which it depends. */
export function borderOf({ noise }: Pick<FinishedRows, "noise">): number {
  return noise ? CHROMA_BORDER : 0;
}

/** Rows of full-size tiles of which all is there that they depend on, the last excluded. */
export function finishedBands(rows: FinishedRows): { readonly first: number; readonly end: number } {
  const { width, height, codes, first } = rows;
  const border = borderOf(rows);
  const end = first + codes.length / 3 / width;
  return {
    first: first === 0 ? 0 : ceil((first + border) / TILE_SIZE),
    end: end === height ? ceil(height / TILE_SIZE) : max(0, floor((end - border) / TILE_SIZE)),
  };
}

/**
 * Codes → three linear working planes in kernel memory, one after the other.
 * @param area - width and height of what is taken of rows of `width`, from row `top`, a multiple of 4 pixels; a column and a row beyond them
 * repeat the last ones.
 * @returns a pointer to them; the caller releases it.
 */
export function linearPlanes(
  heap: KernelHeap,
  { codes, decode: [red, green, blue], matrix }: CodedColour,
  width: number,
  top: number,
  area: Size,
): number {
  const n = area.width * area.height;
  const planes = heap.allocate(4 * 3 * n + 16);
  const m = heap.place(matrix);
  const light = heap.floats(planes, 3 * n);
  const rows = min(area.height, codes.length / 3 / width - top);
  for (let y = 0; y < rows; y++) {
    let from = 3 * width * (top + y);
    const row = y * area.width;
    for (let i = row; i < row + width; i++, from += 3) {
      light[i] = red[codes[from]];
      light[n + i] = green[codes[from + 1]];
      light[2 * n + i] = blue[codes[from + 2]];
    }
    if (width < area.width) for (let at = row + width; at < 3 * n; at += n) light[at] = light[at - 1];
  }
  if (rows < area.height)
    for (let at = area.width * rows; at < 3 * n; at += n) light.copyWithin(at, at - area.width, at);
  heap.kernels.applyMatrix(planes, planes + 4 * n, planes + 8 * n, n, m);
  return planes;
}

/** Develops one row of full-size tiles. Bands do not depend on each other. */
export function developFinished(heap: KernelHeap, rows: FinishedRows, index: number): TileBand {
  const { width, height, first, noise } = rows;
  const border = borderOf(rows);
  const top = index * TILE_SIZE;
  const size = { width, height: min(TILE_SIZE, height - top) };
  const from = max(0, top - border);
  const end = min(height, top + size.height + border);
  // Half a cell at the right or at the foot is made whole.
  const area = { width: (width + 1) & ~1, height: (end - from + 1) & ~1 };
  const n = area.width * area.height;
  const mark = heap.mark();
  const planes = linearPlanes(heap, rows, width, from - first, area);
  if (noise) smoothChroma(heap, planes, area.width, area.height, noise, REC2020.luminance);
  if (area.width !== width) narrow(heap.floats(planes, 3 * n), area, width);
  const at = (c: number) => planes + 4 * (n * c + width * (top - from));
  const cut = cutBand(heap, withOver(heap, size, [at(0), at(1), at(2)]), levelCount(rows) === 1);
  heap.release(mark);
  return cut;
}

/** Rows of three planes made shorter, in place. */
function narrow(planes: Float32Array, area: Size, width: number): void {
  for (let c = 0; c < 3; c++)
    for (let y = 0; y < area.height; y++) {
      const start = c * area.width * area.height;
      planes.copyWithin(start + y * width, start + y * area.width, start + y * area.width + width);
    }
}
