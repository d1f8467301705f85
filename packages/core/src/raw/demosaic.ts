import type { Vector3 } from "../colour/matrix.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import { coloursByLines, LINES_BORDER, type NoiseLine } from "./colours-by-lines.ts";
import { EVEN_BORDER, evenChannels } from "./even-channels.ts";
import type { NoiseModel } from "./noise-model.ts";
import { scaleMosaic, type Mosaic } from "./mosaic.ts";

/** `directional`: Zhang & Wu 2005, then local lines, for pictures. `linear`: Malvar, He, Cutler 2004, some times as fast. */
export type DemosaicMethod = "directional" | "linear";

/** Border that green's first estimate reads, sites. */
const GREEN_BORDER = 12;
/** Border that each method reads around its rows, sites. */
const BORDER: Readonly<Record<DemosaicMethod, number>> = {
  directional: GREEN_BORDER + LINES_BORDER + EVEN_BORDER,
  linear: 2,
};

/** Room that `fuseDifferences` takes, bytes. */
export const FUSING = 4 * 41 * 2068;

/** Bytes that are written beyond the last plane. */
const BEYOND = 32;

/** Deviations of noise by which a site must stand out to be taken for stuck. */
const DEFECT_REACH = 8;

/**
 * Demosaics `rows` rows from `firstRow` into three planes in kernel memory.
 * @param firstRow - even, so that the pattern's phase is kept.
 * @param noise - of the balanced channels: with it, stuck sites are mended first, weak channels raised no further than it allows, and no lines fitted to it.
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
  const stride = method === "linear" ? width + 2 * border : (width + 2 * border + 7) & ~7;
  const height = rows + 2 * border;
  const planes = heap.allocate(3 * width * rows * 4 + BEYOND);
  const mark = heap.mark();
  const padded = heap.allocate(4 * stride * height);
  scaleMosaic(heap, mosaic, gains, firstRow, rows, border, stride, padded);
  const { kernels } = heap;
  const lines = [0, 1, 2].map((c): NoiseLine => (noise ? [noise.slope[c], noise.offset[c]] : [0, 0]));
  const placed = heap.place(Float32Array.from(lines.flat()));
  if (noise) kernels.mendDefects(padded, stride, height, phase.redX, phase.redY, placed, DEFECT_REACH);
  if (method === "linear") kernels.demosaicMalvar(padded, planes, width, rows, phase.redX, phase.redY);
  else {
    const plane = 4 * stride * height;
    const room = heap.allocate(4 * plane);
    const [along, down, alongLow, downLow] = [0, 1, 2, 3].map((k) => room + k * plane);
    const [fused, level] = [heap.allocate(plane), heap.allocate(plane)];
    evenChannels(heap, padded, level, stride, height, phase, placed);
    kernels.colourDifferences(level, along, down, stride, height, phase.redX, phase.redY);
    kernels.smoothDifferences(along, down, alongLow, downLow, stride, height);
    kernels.fuseDifferences(along, down, alongLow, downLow, fused, stride, height, heap.allocate(FUSING));
    coloursByLines(heap, { src: padded, level, difference: fused, stride, height, border, phase }, lines, room, planes, width, rows); // prettier-ignore
  }
  heap.release(mark);
  return planes;
}
