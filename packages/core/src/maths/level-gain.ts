/** The factor that brings what so much of some values (0–1) lies below to a level; of what is nearly black no more than a million times. */
export function levelGain(values: Float32Array, share: number, level: number): number {
  const sorted = values.slice().sort();
  return level / Math.max(1e-6 * level, sorted[Math.floor(share * (sorted.length - 1))] ?? level);
}
