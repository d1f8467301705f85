/** Means over squares of 2·radius + 1 about each value of a plane, borders repeated; of values that are few. */
export function boxMeans(
  values: Float32Array,
  width: number,
  height: number,
  radius: number,
): Float32Array<ArrayBuffer> {
  const share = 1 / (2 * radius + 1);
  const rows = new Float32Array(values.length);
  // Each row with its border repeated, so that the sum that goes along needs not ask where it is.
  const padded = new Float64Array(width + 2 * radius + 1);
  for (let y = 0; y < height; y++) {
    const at = y * width;
    padded.fill(values[at], 0, radius);
    for (let x = 0; x < width; x++) padded[radius + x] = values[at + x];
    padded.fill(values[at + width - 1], radius + width);
    let sum = 0;
    for (let i = 0; i <= 2 * radius; i++) sum += padded[i];
    for (let x = 0; x < width; x++) {
      rows[at + x] = sum * share;
      sum += padded[x + 2 * radius + 1] - padded[x];
    }
  }
  const out = new Float32Array(values.length);
  const sums = new Float64Array(width);
  const rowAt = (y: number) => Math.min(height - 1, Math.max(0, y)) * width;
  for (let i = -radius; i <= radius; i++) for (let x = 0, at = rowAt(i); x < width; x++) sums[x] += rows[at + x];
  for (let y = 0, at = 0; y < height; y++) {
    const come = rowAt(y + radius + 1);
    const go = rowAt(y - radius);
    for (let x = 0; x < width; x++, at++) {
      out[at] = sums[x] * share;
      sums[x] += rows[come + x] - rows[go + x];
    }
  }
  return out;
}
