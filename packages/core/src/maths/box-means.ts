/** Means over squares of 2·radius + 1 about each value of a plane, borders repeated; of values that are few. */
export function boxMeans(
  values: Float32Array,
  width: number,
  height: number,
  radius: number,
): Float32Array<ArrayBuffer> {
  const share = 1 / (2 * radius + 1);
  const inside = (i: number, length: number) => Math.min(length - 1, Math.max(0, i));
  const rows = new Float32Array(values.length);
  for (let y = 0; y < height; y++) {
    const at = y * width;
    let sum = 0;
    for (let i = -radius; i <= radius; i++) sum += values[at + inside(i, width)];
    for (let x = 0; x < width; x++) {
      rows[at + x] = sum * share;
      sum += values[at + inside(x + radius + 1, width)] - values[at + inside(x - radius, width)];
    }
  }
  const out = new Float32Array(values.length);
  const sums = new Float64Array(width);
  for (let i = -radius; i <= radius; i++)
    for (let x = 0; x < width; x++) sums[x] += rows[inside(i, height) * width + x];
  for (let y = 0; y < height; y++) {
    const [come, go] = [inside(y + radius + 1, height) * width, inside(y - radius, height) * width];
    for (let x = 0; x < width; x++) {
      out[y * width + x] = sums[x] * share;
      sums[x] += rows[come + x] - rows[go + x];
    }
  }
  return out;
}
