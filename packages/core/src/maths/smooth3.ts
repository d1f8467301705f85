/** Means over 3 × 3 pixels, at borders over those that are there. */
export function smooth3(values: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(values.length);
  // Sums of a column of three, with an empty one on either side of the row.
  const columns = new Float64Array(width + 2);
  for (let y = 0; y < height; y++) {
    const from = Math.max(0, y - 1);
    const to = Math.min(height - 1, y + 1);
    columns.fill(0);
    for (let row = from; row <= to; row++)
      for (let x = 0, i = row * width; x < width; x++, i++) columns[x + 1] += values[i];
    for (let x = 0, i = y * width; x < width; x++, i++) {
      const across = Math.min(width - 1, x + 1) - Math.max(0, x - 1) + 1;
      out[i] = (columns[x] + columns[x + 1] + columns[x + 2]) / (across * (to - from + 1));
    }
  }
  return out;
}
