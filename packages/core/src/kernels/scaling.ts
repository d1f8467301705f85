import type { AxisWeights } from "../maths/cubic-weights.ts";
import type { Size } from "../maths/rect.ts";
import type { KernelHeap } from "./heap.ts";

/** A plane in kernel memory: one f32 value a pixel, rows `stride` values apart. */
interface Plane {
  readonly pointer: number;
  readonly stride: number;
}

/** Room for a source of {@link scalePlane}: at least as large as the taps, of which those beyond a shorter source weigh nothing. */
export function sourceRoom(heap: KernelHeap, { width, height }: Size, x: AxisWeights, y: AxisWeights): Plane {
  const stride = ((Math.max(width, x.taps) + 3) & ~3) + 4;
  const rows = Math.max(height, y.taps);
  const pointer = heap.allocate(4 * stride * rows);
  if (x.taps > width || y.taps > height) heap.floats(pointer, stride * rows).fill(0);
  return { pointer, stride };
}

/**
 * Scales a plane by the weights of both axes, down the columns first.
 * @param source - begins where the weights begin, at least as large as the taps; its rows are taken whole, to their stride.
 */
export function scalePlane(
  heap: KernelHeap,
  source: Plane,
  x: AxisWeights,
  y: AxisWeights,
  out: Plane,
  { width, height }: Size,
): void {
  const mark = heap.mark();
  const rows = heap.allocate(4 * source.stride * height);
  heap.kernels.resampleColumns(
    source.pointer, rows, source.stride, height, heap.place(y.first), heap.place(y.weights), y.taps,
  ); // prettier-ignore
  heap.kernels.resampleRows(
    rows, source.stride, out.pointer, out.stride, width, height, heap.place(x.first), heap.place(x.weights), x.taps,
  ); // prettier-ignore
  heap.release(mark);
}
