/** Weights that resample one axis: output i is Σ weights[i·taps + k] · source[first[i] + k]. */
export interface AxisWeights {
  readonly first: Int32Array;
  readonly weights: Float32Array;
  readonly taps: number;
  /** Source span used: from `start` up to but not including `end`. `first` counts from `start`. */
  readonly start: number;
  readonly end: number;
}

/**
 * Catmull–Rom cubic resampling, widened by 1/ratio when it shrinks so that it also filters (Keys 1981, a = -1/2).
 * @param ratio - output pixels per source pixel.
 * @param from - first output pixel, counted in the whole scaled picture.
 * @param sourceLength - pixels of the whole source; places beyond repeat the border pixel.
 */
export function cubicWeights(ratio: number, from: number, count: number, sourceLength: number): AxisWeights {
  const widen = Math.max(1, 1 / ratio);
  const reach = 2 * widen;
  // A multiple of four, so that the kernel works on whole vectors; those beyond a source that is shorter weigh nothing.
  const taps = (Math.ceil(2 * reach) + 4) & ~3;
  const first = new Int32Array(count);
  const weights = new Float32Array(count * taps);
  let start = sourceLength;
  let end = 0;
  for (let i = 0; i < count; i++) {
    const centre = (from + i + 0.5) / ratio - 0.5;
    const low = Math.ceil(centre - reach);
    const high = Math.floor(centre + reach);
    const begin = Math.max(0, Math.min(low, sourceLength - taps));
    let sum = 0;
    for (let k = low; k <= high; k++) sum += catmullRom((k - centre) / widen);
    for (let k = low; k <= high; k++) {
      const at = Math.min(sourceLength - 1, Math.max(0, k)) - begin;
      weights[i * taps + Math.min(taps - 1, Math.max(0, at))] += catmullRom((k - centre) / widen) / sum;
    }
    first[i] = begin;
    start = Math.min(start, begin);
    end = Math.max(end, Math.min(sourceLength, begin + taps));
  }
  for (let i = 0; i < count; i++) first[i] -= start;
  return { first, weights, taps, start, end };
}

function catmullRom(x: number): number {
  const t = Math.abs(x);
  if (t < 1) return 1 + t * t * (1.5 * t - 2.5);
  if (t < 2) return 2 + t * (-4 + t * (2.5 - 0.5 * t));
  return 0;
}
