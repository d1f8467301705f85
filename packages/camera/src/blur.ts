const { ceil, exp, fround, max, min } = Math;

/** Interleaved values blurred by a Gaussian of `sigma` pixels; the border repeats. */
export function blur(values: Float32Array, width: number, channels: number, sigma: number): Float32Array {
  if (!(sigma > 0)) return values;
  const height = values.length / channels / width;
  const radius = ceil(3 * sigma);
  const taps = Array.from({ length: 2 * radius + 1 }, (_, i) => exp(-((i - radius) ** 2) / (2 * sigma ** 2)));
  const sum = taps.reduce((a, b) => a + b, 0);
  const weights = Float64Array.from(taps, (tap) => tap / sum);
  const row = channels * width;
  /** Where the values lie that a window takes, from the border on that side of it. */
  const places = (count: number, step: number) =>
    Int32Array.from({ length: count + 2 * radius }, (_, i) => step * min(count - 1, max(0, i - radius)));
  const across = blurAlong(values, weights, places(width, channels), channels, height, row);
  return blurAlong(across, weights, places(height, row), row, width, channels);
}

/**
 * Blurs along lines.
 * @param places - where a line's values lie, so many before and after it as a window reaches.
 * @param step - values from one of its places to the next.
 * @param lines - how many, of which the next begins `next` values on.
 */
function blurAlong(
  src: Float32Array,
  weights: Float64Array,
  places: Int32Array,
  step: number,
  lines: number,
  next: number,
): Float32Array {
  const out = new Float32Array(src.length);
  const count = places.length - weights.length + 1;
  const together = min(step, next);
  for (let line = 0; line < lines; line++)
    for (let place = 0; place < count; place++)
      for (let c = line * next; c < line * next + together; c++) {
        let sum = 0;
        for (let k = 0; k < weights.length; k++) sum = fround(sum + weights[k] * src[places[place + k] + c]);
        out[place * step + c] = sum;
      }
  return out;
}
