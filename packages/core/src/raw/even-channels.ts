import type { KernelHeap } from "../kernels/heap.ts";
import type { BayerPhase } from "./mosaic.ts";

/** Cells of 2 × 2 sites on each side of the window in which channels are compared; it is laid twice. */
const COMPARED = 4;
/** Border that the comparison of channels reads around what it is for, sites. */
export const EVEN_BORDER = 4 * COMPARED + 4;
/** Contrast of texture, a share of green, for whose sake a weak channel is raised: where its noise would be more, less of it is. */
const TEXTURE = 0.07;
/** Added to channels before they are compared, of white. */
const FLOOR = 0.002;
/** Difference of channels of which half is heeded, so that grey things stay as they are; powers of e. */
const ALIKE = 0.15;
/** Gains of red and blue, at least and at most. */
const GAINS = [1 / 16, 4] as const;

/**
 * A mosaic whose sites of red and blue are multiplied by what brings them to green's level around them. Demosaicing takes the difference of two
 * channels for smooth; on a textured thing of strong colour that holds for channels of one level only, as light and shade
 * multiply all three (their ratio is what stays: Kimmel 1999; here over a window, so that noise and edges do not divide).
 */
export function evenChannels(
  heap: KernelHeap,
  padded: number,
  out: number,
  stride: number,
  height: number,
  { redX, redY }: BayerPhase,
  noise: number,
): void {
  const { kernels } = heap;
  const mark = heap.mark();
  const [across, down] = [stride >> 1, height >> 1];
  const cells = (across * down + 3) & ~3;
  const gains = heap.allocate(4 * (3 * cells + 4));
  const room = heap.allocate(4 * 4 * (across + 2 * COMPARED + 12));
  const ring = heap.allocate(4 * (across + 4) * (2 * COMPARED + 2));
  kernels.cellColours(padded, gains, cells, stride, height, redX, redY);
  for (let pass = 0; pass < 2; pass++)
    for (let c = 0; c < 3; c++) kernels.boxMean(gains + 4 * cells * c, across, down, COMPARED, room, ring);
  kernels.channelGains(gains, cells, noise, TEXTURE, FLOOR, ALIKE, ...GAINS);
  kernels.evenSites(padded, out, gains, cells, stride, height, redX, redY, room);
  heap.release(mark);
}
