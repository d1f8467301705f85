import { NEUTRAL_LABEL } from "./picture-colours.ts";

/** What a conversion clips that plain luminance does not. */
export interface ClippingCost {
  /** Share of the picture that prints black, or white, and would not under plain luminance. */
  readonly black: number;
  readonly white: number;
  /** The family with most of it, by its index; null when none has any. */
  readonly family: number | null;
}

const BLACK = 0.0012;
const WHITE = 0.985;

/**
 * Counts the pixels that the weights push into pure black or bare paper.
 * @param print - reflectance under the weights; @param plain - under plain luminance; both of the labels' size.
 */
export function clippingCost(print: Float32Array, plain: Float32Array, labels: Uint8Array): ClippingCost {
  const counts = new Map<number, number>();
  let black = 0;
  let white = 0;
  print.forEach((value, i) => {
    const toBlack = value < BLACK && plain[i] >= BLACK;
    const toWhite = value > WHITE && plain[i] <= WHITE;
    if (!toBlack && !toWhite) return;
    if (toBlack) black++;
    else white++;
    counts.set(labels[i], (counts.get(labels[i]) ?? 0) + 1);
  });
  const [most] = [...counts].sort((p, q) => q[1] - p[1]);
  const family = most === undefined || most[0] === NEUTRAL_LABEL ? null : most[0];
  return { black: black / print.length, white: white / print.length, family };
}
