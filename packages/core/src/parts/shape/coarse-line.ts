import type { Block } from "../../graph/stage.ts";
import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import type { Rect } from "../../maths/rect.ts";

/** Where a part of a tile lies on the grid of a coarser level, of which a block was read. */
function placeOn(coarse: Block, at: number, level: number, { x, y }: Pick<Rect, "x" | "y">) {
  const ratio = 2 ** (level - at);
  return [(x + 0.5) * ratio - 0.5 - coarse.x, (y + 0.5) * ratio - 0.5 - coarse.y, ratio] as const;
}

/** How a plane follows another one: half windows in pixels, how many follow each other, and what is too small to be followed, squared. */
interface Following {
  readonly radius: number;
  readonly passes: number;
  readonly ridge: number;
}

/**
 * Writes the local line that carries `values` to finer pixels by what they follow: values = slope·guide + offset (He, Sun, Tang
 * 2010). Both planes are width·height values without a gap, and are used up.
 * @param out - slope and offset, of stride SLOT_EDGE.
 */
export function localLine(
  heap: KernelHeap,
  guide: number,
  values: number,
  width: number,
  height: number,
  { radius, passes, ridge }: Following,
  [slope, offset]: readonly number[],
): void {
  const { kernels } = heap;
  const n = (width * height + 3) & ~3;
  const [squares, products] = [heap.allocate(4 * n + 16), heap.allocate(4 * n + 16)];
  const smooth = boxFilter(heap, width, height, radius);
  kernels.multiplyPlanes(guide, guide, squares, n);
  kernels.multiplyPlanes(guide, values, products, n);
  for (const moment of [guide, values, squares, products]) smooth(moment, radius, passes);
  kernels.lineOfMeans(guide, values, squares, products, n, ridge);
  for (const [from, to] of [
    [squares, slope],
    [products, offset],
  ]) {
    smooth(from, radius, passes);
    kernels.copyRect(from, width, to, SLOT_EDGE, width, height);
  }
}

/** Box windows over a plane without gaps, in place, one after the other; none wider than `widest`. */
export function boxFilter(heap: KernelHeap, width: number, height: number, widest: number) {
  const rows = heap.allocate(16 * (width + 2 * widest + 12));
  const ring = heap.allocate(4 * (width + 4) * (2 * widest + 2));
  return (plane: number, radius: number, passes: number): void => {
    for (let pass = 0; pass < passes; pass++) heap.kernels.boxMean(plane, width, height, radius, rows, ring);
  };
}

/**
 * slope·L + offset at each pixel of a part of a tile, the line read from a coarser level `at`.
 * @param stops - the tile's, whose part begins at `part`.
 * @param out - plane of stride SLOT_EDGE.
 */
export function drawLine(
  heap: KernelHeap,
  [slope, offset]: readonly Block[],
  at: number,
  stops: Block,
  level: number,
  part: Rect,
  out: number,
): void {
  const mark = heap.mark();
  const from = stops.pointer + 4 * ((part.y - stops.y) * stops.stride + part.x - stops.x);
  heap.kernels.drawBase(
    from, stops.stride, out, SLOT_EDGE, part.width, part.height,
    slope.pointer, offset.pointer, slope.stride, slope.width, slope.height, heap.allocate(16 * (SLOT_EDGE + 4)),
    ...placeOn(slope, at, level, part),
  ); // prettier-ignore
  heap.release(mark);
}

/** A plane of a coarser level `at` at each pixel of a part of a tile; `out` of stride SLOT_EDGE. */
export function drawCoarse(heap: KernelHeap, coarse: Block, at: number, level: number, part: Rect, out: number): void {
  const mark = heap.mark();
  heap.kernels.stretchPlane(
    coarse.pointer, coarse.stride, coarse.width, coarse.height, out, SLOT_EDGE, part.width, part.height,
    heap.allocate(8 * (SLOT_EDGE + 4)), ...placeOn(coarse, at, level, part),
  ); // prettier-ignore
  heap.release(mark);
}

/** Rows that are taken at a time, so that what lies between the steps stays near. */
const BAND = 64;
/** Bytes of a plane that holds a band. */
export const BAND_BYTES = 4 * SLOT_EDGE * BAND + 16;

/** A rectangle in bands of rows. */
export function* bands({ x, y, width, height }: Rect): Generator<Rect> {
  for (let top = 0; top < height; top += BAND) yield { x, y: y + top, width, height: Math.min(BAND, height - top) };
}
