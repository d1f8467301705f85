/**
 * Weights of a sampled Gaussian, cut at three standard deviations, sum 1. Below a quarter of a pixel it is one tap.
 * @param sigmaPx - standard deviation, pixels.
 */
export function gaussianTaps(sigmaPx: number): Float32Array {
  if (sigmaPx < 0.25) return Float32Array.of(1);
  const radius = Math.ceil(3 * sigmaPx);
  const taps = Float32Array.from({ length: 2 * radius + 1 }, (_, i) =>
    Math.exp(-((i - radius) ** 2) / (2 * sigmaPx ** 2)),
  );
  const sum = taps.reduce((total, weight) => total + weight, 0);
  return taps.map((weight) => weight / sum);
}
