/** A ratio of the longer to the shorter side. */
export interface Ratio {
  readonly value: number;
  readonly text: string;
}

/** The ratios of usual papers and screens. */
export const STANDARD_RATIOS: readonly Ratio[] = [
  [1, 1],
  [5, 4],
  [4, 3],
  [7, 5],
  [3, 2],
  [16, 9],
].map(([long, short]) => ({ value: long / short, text: `${long}:${short}` }));

/** How near two ratios are one: a pixel at the edge of a small crop. */
export const SAME_RATIO = 0.005;

/** "3:2", "2:3" upright, or the number where it is none of the usual. @param ratio - width over height. */
export function formatRatio(ratio: number): string {
  const wide = ratio >= 1 ? ratio : 1 / ratio;
  const known = STANDARD_RATIOS.find(({ value }) => Math.abs(value - wide) < SAME_RATIO);
  if (!known) return `${ratio.toFixed(2)}:1`;
  return ratio >= 1 ? known.text : known.text.split(":").reverse().join(":");
}
