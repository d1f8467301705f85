import type { Vector3 } from "../colour/matrix.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import type { NoiseModel } from "./noise-model.ts";
import { scaleMosaic, type BayerPhase, type Mosaic } from "./mosaic.ts";

/** `directional`: Zhang & Wu 2005, for pictures. `linear`: Malvar, He, Cutler 2004, three times as fast. */
export type DemosaicMethod = "directional" | "linear";

/** Cells of 2 × 2 sites on each side of the window in which channels are compared; it is laid twice. */
const COMPARED = 4;
/** Border that the directional one reads around its rows once the channels are even, pixels. */
const DIRECTIONAL = 16;
/** Border that each method reads around its rows, pixels. */
const BORDER: Readonly<Record<DemosaicMethod, number>> = { directional: DIRECTIONAL + 4 * COMPARED + 4, linear: 2 };

/** Room that `fuseDifferences` takes, bytes. */
export const FUSING = 4 * 41 * 2068;

/** Contrast of texture, a share of green, for whose sake a weak channel is raised: where its noise would be more, less of it is. */
const TEXTURE = 0.07;
/** Added to channels before they are compared, of white. */
const FLOOR = 0.002;
/** Difference of channels of which half is heeded, so that grey things stay as they are; powers of e. */
const ALIKE = 0.15;
/** Gains of red and blue, at least and at most. */
const GAINS = [1 / 16, 4] as const;

/** Deviations of noise by which a site must stand out to be taken for stuck. */
const DEFECT_REACH = 8;

/**
 * Demosaics `rows` rows from `firstRow` into three planes in kernel memory.
 * @param firstRow - even, so that the pattern's phase is kept.
 * @param noise - of the balanced channels: with it, stuck sites are mended first, and weak channels raised no further than it allows.
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
  const lines = heap.place(
    Float32Array.from([0, 1, 2].flatMap((c) => (noise ? [noise.slope[c], noise.offset[c]] : [0, 0]))),
  );
  if (noise) {
    kernels.mendDefects(padded, stride, height, phase.redX, phase.redY, lines, DEFECT_REACH);
  }
  if (method === "linear") kernels.demosaicMalvar(padded, planes, width, rows, phase.redX, phase.redY);
  else {
    const channels = evenChannels(heap, padded, stride, height, phase, lines);
    const apart = border - DIRECTIONAL;
    const inner = height - 2 * apart;
    const [along, down, alongLow, downLow, fused] = Array.from({ length: 5 }, () => heap.allocate(4 * stride * inner));
    const top = padded + 4 * apart * stride;
    kernels.colourDifferences(top, along, down, stride, inner, phase.redX, phase.redY);
    kernels.smoothDifferences(along, down, alongLow, downLow, stride, inner);
    kernels.fuseDifferences(along, down, alongLow, downLow, fused, stride, inner, heap.allocate(FUSING));
    kernels.coloursFromDifferences(
      top + 4 * apart, fused + 4 * apart, planes, width, rows, stride, DIRECTIONAL, phase.redX, phase.redY,
    ); // prettier-ignore
    kernels.restoreChannels(planes, width, rows, channels.gains, channels.cells, stride, border, channels.room);
  }
  heap.release(mark);
  return planes;
}

/**
 * Multiplies the sites of red and blue by what brings them to green's level around them, in place. Demosaicing takes the difference of two
 * channels for smooth; on a textured thing of strong colour that holds for channels of one level only, as light and shade
 * multiply all three (their ratio is what stays: Kimmel 1999; here over a window, so that noise and edges do not divide).
 * @returns the gains: planes of cells (red, another, blue), values from one plane to the next, room for rows of them.
 */
function evenChannels(
  heap: KernelHeap,
  padded: number,
  stride: number,
  height: number,
  { redX, redY }: BayerPhase,
  noise: number,
) {
  const { kernels } = heap;
  const [across, down] = [stride >> 1, height >> 1];
  const cells = (across * down + 3) & ~3;
  const gains = heap.allocate(4 * (3 * cells + 4));
  const room = heap.allocate(4 * 4 * (across + 2 * COMPARED + 12));
  const ring = heap.allocate(4 * (across + 4) * (2 * COMPARED + 2));
  kernels.cellColours(padded, gains, cells, stride, height, redX, redY);
  for (let pass = 0; pass < 2; pass++)
    for (let c = 0; c < 3; c++) kernels.boxMean(gains + 4 * cells * c, across, down, COMPARED, room, ring);
  kernels.channelGains(gains, cells, noise, TEXTURE, FLOOR, ALIKE, ...GAINS);
  kernels.evenSites(padded, gains, cells, stride, height, redX, redY, room);
  return { gains, cells, room };
}
