import type { Vector3 } from "../colour/matrix.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import type { NoiseModel } from "./noise-model.ts";
import { scaleMosaic, type Mosaic } from "./mosaic.ts";

/** `directional`: Zhang & Wu 2005, for pictures. `linear`: Malvar, He, Cutler 2004, three times as fast. */
export type DemosaicMethod = "directional" | "linear";

/** Border that each method reads around its rows, pixels. */
const BORDER: Readonly<Record<DemosaicMethod, number>> = { directional: 16, linear: 2 };

/** Deviations of noise by which a site must stand out to be taken for stuck. */
const DEFECT_REACH = 8;

/**
 * Demosaics `rows` rows from `firstRow` into three planes in kernel memory.
 * @param firstRow - even, so that the pattern's phase is kept.
 * @param noise - of the balanced channels: with it, stuck sites are mended first.
 * @returns pointer to red, green and blue planes of width·rows f32 each, balanced camera RGB.
 */
export function demosaicRows(
  heap: KernelHeap,
  mosaic: Mosaic,
  gains: Vector3,
  firstRow: number,
  rows: number,
  method: DemosaicMethod = "directional",
  noise: NoiseModel | null = null,
): number {
  if (firstRow & 1) throw new RangeError(`Expected an even first row but received ${firstRow}.`);
  const { width, phase } = mosaic;
  const border = BORDER[method];
  const stride = method === "linear" ? width + 2 * border : (width + 2 * border + 3) & ~3;
  const height = rows + 2 * border;
  const planes = heap.allocate(3 * width * rows * 4);
  const mark = heap.mark();
  const padded = heap.allocate(4 * stride * height);
  scaleMosaic(heap, mosaic, gains, firstRow, rows, border, stride, padded);
  const { kernels } = heap;
  if (noise) {
    const lines = heap.place(Float32Array.from([0, 1, 2].flatMap((c) => [noise.slope[c], noise.offset[c]])));
    kernels.mendDefects(padded, stride, height, phase.redX, phase.redY, lines, DEFECT_REACH);
  }
  if (method === "linear") kernels.demosaicMalvar(padded, planes, width, rows, phase.redX, phase.redY);
  else {
    const [along, down, alongLow, downLow, fused] = Array.from({ length: 5 }, () => heap.allocate(4 * stride * height));
    kernels.colourDifferences(padded, along, down, stride, height, phase.redX, phase.redY);
    kernels.smoothDifferences(along, down, alongLow, downLow, stride, height);
    kernels.fuseDifferences(along, down, alongLow, downLow, fused, stride, height);
    kernels.coloursFromDifferences(padded, fused, planes, width, rows, stride, border, phase.redX, phase.redY);
  }
  heap.release(mark);
  return planes;
}
