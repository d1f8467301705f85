import type { Vector3 } from "../colour/matrix.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import { scaleMosaic, type Mosaic } from "./mosaic.ts";

/**
 * Demosaics `rows` rows from `firstRow` (Malvar, He, Cutler 2004) into three planes in kernel memory.
 * @param firstRow - even, so that the pattern's phase is kept.
 * @returns pointer to red, green and blue planes of width·rows f32 each, balanced camera RGB.
 */
export function demosaicRows(heap: KernelHeap, mosaic: Mosaic, gains: Vector3, firstRow: number, rows: number): number {
  if (firstRow & 1) throw new RangeError(`Expected an even first row but received ${firstRow}.`);
  const { width } = mosaic;
  const planes = heap.allocate(3 * width * rows * 4);
  const mark = heap.mark();
  const padded = heap.allocate((width + 4) * (rows + 4) * 4);
  scaleMosaic(mosaic, gains, firstRow, rows, heap.floats(padded, (width + 4) * (rows + 4)));
  heap.kernels.demosaicMalvar(padded, planes, width, rows, mosaic.phase.redX, mosaic.phase.redY);
  heap.release(mark);
  return planes;
}
