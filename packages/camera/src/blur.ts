const { ceil, exp, max, min } = Math;

/** Interleaved values blurred by a Gaussian of `sigma` pixels; the border repeats. */
export function blur(values: Float32Array, width: number, channels: number, sigma: number): Float32Array {
  if (!(sigma > 0)) return values;
  const height = values.length / channels / width;
  const radius = ceil(3 * sigma);
  const taps = Array.from({ length: 2 * radius + 1 }, (_, i) => exp(-((i - radius) ** 2) / (2 * sigma ** 2)));
  const sum = taps.reduce((a, b) => a + b, 0);
  const pass = (src: Float32Array, dx: number, dy: number) => {
    const out = new Float32Array(src.length);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        for (let k = -radius; k <= radius; k++) {
          const px = min(width - 1, max(0, x + k * dx));
          const py = min(height - 1, max(0, y + k * dy));
          const weight = taps[k + radius] / sum;
          for (let c = 0; c < channels; c++)
            out[channels * (y * width + x) + c] += weight * src[channels * (py * width + px) + c];
        }
    return out;
  };
  return pass(pass(values, 1, 0), 0, 1);
}
