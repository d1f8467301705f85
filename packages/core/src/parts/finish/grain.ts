import type { Grain, GrainFormat } from "./schema.ts";
import { gaussianTaps } from "../../maths/gaussian.ts";
import type { KernelHeap } from "../../kernels/heap.ts";

/** Long edge of each format on film, mm. */
export const FORMAT_LONG_EDGE_MM: Readonly<Record<GrainFormat, number>> = {
  "half frame": 24,
  small: 36,
  medium: 56,
  large: 127,
};
/** Diameter of the aperture through which RMS granularity is stated, µm. */
export const GRANULARITY_APERTURE_UM = 48;
const APERTURE_AREA_UM2 = Math.PI * (GRANULARITY_APERTURE_UM / 2) ** 2;

/** What the kernels need to lay grain on pixels of one size. */
export interface GrainFilter {
  /** Standard deviation of density at D 1.0 that multiplies the filtered noise. */
  readonly sigma: number;
  /** One-dimensional weights of the crystal's spread; unit noise filtered by them in x and y. */
  readonly taps: Float32Array;
}

/**
 * Grain as white noise on film, spread by a Gaussian the size of the clumps, seen through one pixel.
 * Selwyn 1935: σ(D)·√area is constant, so σ for a pixel of side p is σ48·√(area48)/p; the spread then takes its part.
 * @param pixelUm - side of a pixel on film, µm.
 */
export function grainFilter(grain: Grain, pixelUm: number): GrainFilter {
  const sigma = ((grain.granularity / 1000) * Math.sqrt(APERTURE_AREA_UM2)) / pixelUm;
  const spread = grain.crystalUm / 2 / pixelUm;
  return { sigma, taps: gaussianTaps(spread) };
}

/**
 * The grain's noise for a block of pixels, to be laid on by the kernels with the filter's sigma.
 * @param width - multiple of 4; the block's stride.
 * @param x0 - place of the block in the whole picture, so that tiles meet without a seam.
 * @returns pointer to width·height f32 on the heap's stack; the caller releases it.
 */
export function grainNoise(
  heap: KernelHeap,
  { taps }: GrainFilter,
  seed: number,
  width: number,
  height: number,
  x0: number,
  y0: number,
): number {
  const { kernels } = heap;
  const filtered = heap.allocate(4 * width * height);
  const radius = (taps.length - 1) / 2;
  if (radius === 0) {
    kernels.whiteNoise(filtered, width, height, x0, y0, seed);
    return filtered;
  }
  const mark = heap.mark();
  const wide = (width + 2 * radius + 3) & ~3;
  const tall = height + 2 * radius;
  const noise = heap.allocate(4 * wide * tall);
  kernels.whiteNoise(noise, wide, tall, x0 - radius, y0 - radius, seed);
  const weights = heap.place(taps);
  const rows = heap.allocate(4 * width * tall);
  kernels.convolveRows(noise, wide, rows, width, tall, weights, taps.length);
  kernels.convolveColumns(rows, filtered, width, height, weights, taps.length);
  heap.release(mark);
  return filtered;
}
