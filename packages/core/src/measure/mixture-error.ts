import { luminanceToLightness } from "../colour/lab.ts";

/** What a print made of pixels of which it is known how much of each of two materials they hold. */
export interface MixtureTruth {
  /** Share of the first material, 0–1. */
  readonly coverage: Float32Array;
  /** Light that each material is to have at each pixel, as if it covered it wholly; 1.0 = white. */
  readonly first: Float32Array;
  readonly second: Float32Array;
}

/** How far light lies from the mixture of the materials' lights. */
export interface MixtureError {
  /** Over pixels of coverage 0.02–0.98: mean and 99th percentile of |ΔL*|. */
  readonly mean: number;
  readonly p99: number;
  /** Share of them that lie more than 3 L* beyond both greys, 0–1. */
  readonly beyond: number;
  /** Over pixels of one material: how far their mean lies from what it is to be, stops, the worse of the two. */
  readonly flatStops: number;
  /** Number of mixed pixels. */
  readonly count: number;
}

/** Beyond both greys from here on, L*. */
const BEYOND = 3;
const MIXED = 0.02;
/** Pixels count as one material below this share of the other. */
const PURE = 0.001;

/**
 * Judges a light against its truth.
 * @param light - of the same pixels; those that are not finite are left out.
 */
export function mixtureError(light: Float32Array, { coverage, first, second }: MixtureTruth): MixtureError {
  const lightness = (e: number) => luminanceToLightness(Math.min(1, Math.max(0, e)));
  const errors: number[] = [];
  let outside = 0;
  const flat = [0, 0, 0, 0];
  coverage.forEach((share, i) => {
    if (!Number.isFinite(light[i])) return;
    const truth = share * first[i] + (1 - share) * second[i];
    if (share < PURE || share > 1 - PURE) {
      const side = share > 0.5 ? 2 : 0;
      flat[side] += light[i];
      flat[side + 1] += truth;
    }
    if (share < MIXED || share > 1 - MIXED) return;
    const found = lightness(light[i]);
    errors.push(Math.abs(found - lightness(truth)));
    const [a, b] = [lightness(first[i]), lightness(second[i])];
    if (found > Math.max(a, b) + BEYOND || found < Math.min(a, b) - BEYOND) outside++;
  });
  errors.sort((a, b) => a - b);
  const stops = (side: number) => (flat[side + 1] > 0 ? Math.abs(Math.log2(flat[side] / flat[side + 1])) : 0);
  const count = errors.length;
  return {
    mean: errors.reduce((sum, e) => sum + e, 0) / count,
    p99: errors[Math.floor(0.99 * (count - 1))],
    beyond: outside / count,
    flatStops: Math.max(stops(0), stops(2)),
    count,
  };
}
