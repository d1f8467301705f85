import type { Grain, GrainFormat } from "./schema.ts";
import { covarianceVolume, emulsionOf, X_AT_DENSITY_1, type Emulsion } from "./emulsion.ts";
import type { KernelHeap } from "../../kernels/heap.ts";

/** Long edge of each format on film, mm. */
export const FORMAT_LONG_EDGE_MM: Readonly<Record<GrainFormat, number>> = {
  "half frame": 24,
  small: 36,
  medium: 56,
  large: 127,
};
/** What the kernels need to lay grain on pixels of one size. */
export interface GrainFilter {
  /** One-dimensional weights, their squares adding up to 1; unit noise filtered by them in x and y is unit noise. */
  readonly taps: Float32Array;
  /** The noise's strength and lean by the print's depth: four numbers for `grainOctaves` in the kernels. */
  readonly model: Float32Array;
}

/**
 * Grain of an emulsion of semi-opaque discs (`emulsion.ts`) as seen through pixels of one size, by a fast model: Gaussian
 * noise, spread like the grains, in the logarithm of light. Such light has the covariance e^K − 1 where the noise has K, as the
 * discs have; its skewness is that of the discs through a pixel: dark specks in the lights, light ones in the darks.
 *
 * A pixel sees the mean of the film that it covers: the weights are those whose noise has, between pixels at every distance, the
 * covariance of such means, so that a picture scaled down has the grain of one rendered small.
 * @param pixelUm - side of a pixel on film, µm.
 */
export function grainFilter(grain: Grain, pixelUm: number): GrainFilter {
  const emulsion = emulsionOf(grain);
  const weights = pixelWeights(spreadOf(emulsion) / pixelUm);
  const power = weights.reduce((sum, w) => sum + w * w, 0);
  const taps = Float32Array.from(weights, (w) => w / Math.sqrt(power));
  const lean = 2 * emulsion.opacity - emulsion.opacity ** 2 / 2;
  return { taps, model: Float32Array.of(...strengthCurve(emulsion, taps, pixelUm, lean), lean) };
}

/** Cycles per µm up to which the noise's spectrum follows the grains'. */
const FINEST_CYCLES = 0.08;

/**
 * Standard deviation, µm, of the Gaussian that spreads noise as the grains do. Their spectrum falls more slowly than a Gaussian
 * beyond its beginning: the constants are the fit up to 80 cycles/mm.
 */
function spreadOf({ diameterUm }: Emulsion): number {
  const reach = Math.PI * diameterUm * FINEST_CYCLES;
  return diameterUm * Math.sqrt(0.1664 / (1 + 0.073 * reach ** 2));
}

/** Depths, as −ln of light, at which the strength is fitted. */
const FITTED_AT = [0.5, X_AT_DENSITY_1, 5] as const;

/**
 * Variance of the noise by depth x: a·x·(1 + b·x)/(1 + c·x), so that the light through apertures of many pixels varies as the
 * discs make it.
 */
function strengthCurve(
  emulsion: Emulsion,
  taps: Float32Array,
  pixelUm: number,
  lean: number,
): [number, number, number] {
  const line = Array.from(taps, (_, k) => taps.reduce((sum, w, j) => sum + w * (taps[j + k] ?? 0), 0));
  // Correlations between pixels, each with how many neighbours have it.
  const pairs = line
    .flatMap((p, i) => line.map((q, j) => ({ correlation: p * q, count: (i ? 2 : 1) * (j ? 2 : 1) })))
    .filter(({ correlation }) => Math.abs(correlation) > 1e-4);
  const perDepth = FITTED_AT.map((x) => {
    const wanted = covarianceVolume(emulsion, x) / pixelUm ** 2;
    let [low, high] = [0, 64];
    for (let i = 0; i < 40; i++) {
      const variance = (low + high) / 2;
      const k = Math.min((1 / x + lean) / 6, 0.2236 / Math.sqrt(variance));
      const sum = pairs.reduce(
        (all, { correlation, count }) => all + count * lightCovariance(variance, k, correlation),
        0,
      );
      if (sum < wanted) low = variance;
      else high = variance;
    }
    return low / x;
  });
  const [x0, x1, x2] = FITTED_AT;
  const [y0, y1, y2] = perDepth;
  // y·(1 + c·x) = a + ab·x at three places.
  const [d1, d2] = [(y1 - y0) / (x1 - x0), (y2 - y0) / (x2 - x0)];
  const [e1, e2] = [(x1 * y1 - x0 * y0) / (x1 - x0), (x2 * y2 - x0 * y0) / (x2 - x0)];
  const c = Math.abs(e2 - e1) < 1e-12 ? 0 : Math.max(-0.05, -(d2 - d1) / (e2 - e1));
  const slope = d1 + c * e1;
  const a = y0 * (1 + c * x0) - slope * x0;
  return [a, slope / a, c];
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
 * The grain's noise for a block of pixels, to be laid on by the kernels with the filter's model.
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

/**
 * Covariance of e^(m − k·m²) at two places, by its mean squared, where m is normal with a variance and a correlation between them.
 */
function lightCovariance(variance: number, k: number, correlation: number): number {
  const [together, apart] = [variance * (1 + correlation), variance * (1 - correlation)];
  const mean = 1 + 2 * k * variance;
  const spread = Math.sqrt((1 + 2 * k * together) * (1 + 2 * k * apart));
  return (mean / spread) * Math.exp(together / (1 + 2 * k * together) - variance / mean) - 1;
}
