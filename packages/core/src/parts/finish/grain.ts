import type { Grain, GrainFormat } from "./schema.ts";
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
  /** Standard deviation of density at D 1.0 of one pixel. */
  readonly sigma: number;
  /** One-dimensional weights, their squares adding up to 1; unit noise filtered by them in x and y is unit noise. */
  readonly taps: Float32Array;
}

/**
 * Grain as white noise on film, spread by a Gaussian the size of the clumps, seen through one pixel.
 *
 * Its strength is what is stated through 48 µm (RMS granularity), whatever the clumps take away of it there. A pixel sees the
 * mean of the film that it covers: the weights are those whose noise has, between pixels at every distance, the covariance of
 * such means, so that a picture scaled down has the grain of one rendered small (Selwyn 1935, where clumps are far smaller).
 * @param pixelUm - side of a pixel on film, µm.
 */
export function grainFilter(grain: Grain, pixelUm: number): GrainFilter {
  const spreadUm = grain.crystalUm / 2;
  const onFilm = (grain.granularity / 1000) * Math.sqrt(APERTURE_AREA_UM2 / keptThroughAperture(spreadUm));
  const weights = pixelWeights(spreadUm / pixelUm);
  const power = weights.reduce((sum, w) => sum + w * w, 0);
  return { sigma: (onFilm / pixelUm) * power, taps: Float32Array.from(weights, (w) => w / Math.sqrt(power)) };
}

const APERTURE_STEPS = 400;

/**
 * Share of a white noise's variance through the round aperture that is left once it is spread by a Gaussian: the mean over
 * pairs of places in the aperture, by their distance r, of a Gaussian of √2 times the spread.
 */
function keptThroughAperture(spreadUm: number): number {
  if (spreadUm < 1e-3) return 1;
  const pairs = Math.SQRT2 * spreadUm;
  const end = Math.min(GRANULARITY_APERTURE_UM, 8 * pairs);
  const step = end / APERTURE_STEPS;
  let sum = 0;
  for (let i = 0; i < APERTURE_STEPS; i++) {
    const r = (i + 0.5) * step;
    const t = r / GRANULARITY_APERTURE_UM;
    const overlap = (2 / Math.PI) * (Math.acos(t) - t * Math.sqrt(1 - t * t));
    sum += (r / pairs ** 2) * Math.exp(-(r * r) / (2 * pairs ** 2)) * overlap * step;
  }
  return sum;
}

/**
 * Weights w, sum 1, whose correlation with themselves is that of means over neighbouring pixels of film with this spread:
 * w's spectrum is the root of the spectrum of that covariance.
 * @param spreadPx - standard deviation of the clumps' spread, pixels.
 */
function pixelWeights(spreadPx: number): number[] {
  const covariance = pixelCovariance(spreadPx);
  const radius = covariance.length - 1;
  if (radius === 0) return [1];
  const n = 8 * radius + 1;
  const spectrum = Array.from({ length: n }, (_, f) => {
    let sum = covariance[0];
    for (let k = 1; k <= radius; k++) sum += 2 * covariance[k] * Math.cos((2 * Math.PI * f * k) / n);
    return Math.sqrt(Math.max(0, sum));
  });
  const half = Array.from(
    { length: radius + 1 },
    (_, k) => spectrum.reduce((sum, v, f) => sum + v * Math.cos((2 * Math.PI * f * k) / n), 0) / n,
  );
  const weights = [...half.slice(1).reverse(), ...half];
  const total = weights.reduce((sum, w) => sum + w, 0);
  return weights.map((w) => w / total);
}

/** Covariance of the means over two pixels k apart, for k from 0 to where nothing is left; they add up to 1. */
function pixelCovariance(spreadPx: number): number[] {
  const pairs = Math.SQRT2 * spreadPx;
  if (pairs < 0.02) return [1];
  // The overlap of two pixels x apart is a triangle; it is averaged over the Gaussian in fine steps.
  const steps = 240;
  const at = (k: number) => {
    let sum = 0;
    let weight = 0;
    for (let i = 0; i < steps; i++) {
      const z = -5 + (10 * (i + 0.5)) / steps;
      const g = Math.exp(-(z * z) / 2);
      sum += g * Math.max(0, 1 - Math.abs(k + z * pairs));
      weight += g;
    }
    return sum / weight;
  };
  return Array.from({ length: Math.ceil(4 * pairs) + 2 }, (_, k) => at(k));
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
