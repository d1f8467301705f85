/**
 * Noise of a piece of a print, L*: the median of what each pixel differs from its neighbours' mean, which detail hardly moves
 * where a piece is mostly even (Immerkær's mask, 1996, with a median for the mean).
 */
export function pieceNoise(lightness: Float32Array, width: number, height: number): number {
  const found: number[] = [];
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const [n, s] = [i - width, i + width];
      const corners = lightness[n - 1] + lightness[n + 1] + lightness[s - 1] + lightness[s + 1];
      const sides = lightness[n] + lightness[s] + lightness[i - 1] + lightness[i + 1];
      found.push(Math.abs(corners - 2 * sides + 4 * lightness[i]));
    }
  found.sort((p, q) => p - q);
  // The mask multiplies a deviation by 6; a normal median is 0.6745 of it.
  return found[found.length >> 1] / 6 / 0.6745;
}
