import type { Block } from "../../graph/stage.ts";
import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import type { Rect } from "../../maths/rect.ts";

/** Where a part of a tile lies on the grid of a coarser level, of which a block was read. */
function placeOn(coarse: Block, at: number, level: number, { x, y }: Pick<Rect, "x" | "y">) {
  const ratio = 2 ** (level - at);
  return [(x + 0.5) * ratio - 0.5 - coarse.x, (y + 0.5) * ratio - 0.5 - coarse.y, ratio] as const;
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
