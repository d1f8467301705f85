/** The middle one of some values, the upper of two; 0 of none. */
export function median(values: ArrayLike<number>): number {
  const sorted = Float64Array.from(values).sort();
  return sorted[sorted.length >> 1] ?? 0;
}
