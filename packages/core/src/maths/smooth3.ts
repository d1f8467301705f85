/** Means over 3 × 3 pixels, at borders over those that are there. */
export function smooth3(values: Float32Array, width: number, height: number): Float32Array {
  return values.map((_, i) => {
    const x = i % width;
    const y = (i - x) / width;
    let sum = 0;
    let count = 0;
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++) {
        if (x + dx < 0 || x + dx >= width || y + dy < 0 || y + dy >= height) continue;
        sum += values[i + dy * width + dx];
        count++;
      }
    return sum / count;
  });
}
