import type { Finish } from "./schema.ts";

/** Blur of a screen's pixel in the eye, pixels. */
const SCREEN_SIGMA = 0.6;
/** A minute of arc, radians: what eyes resolve. */
const MINUTE = Math.PI / 180 / 60;
/** The eye's blur, as a share of what it resolves. */
const EYE_SIGMA = 0.5;
/** A blur less than this is none, and one beyond this is not undone, pixels. */
const LEAST_SIGMA = 0.3;
const MOST_SIGMA = 4;
/** Gain of what differs from the blurred picture at full strength. */
export const OUTPUT_GAIN = 1.6;
/** Most change of a cube root of reflectance: about seven L*, so that no edge gets a halo to see. */
export const OUTPUT_MOST = 0.06;

/**
 * Standard deviation of the blur that output sharpening undoes, in pixels of an output; 0 where there is nothing to do.
 * @param longEdgePx - long edge of the whole picture at the output's scale.
 */
export function outputSigma({ amount, medium, paperCm, viewingCm }: Finish["output"], longEdgePx: number): number {
  if (amount === 0) return 0;
  const sigma = medium === "screen" ? SCREEN_SIGMA : (EYE_SIGMA * MINUTE * viewingCm * longEdgePx) / paperCm;
  return sigma < LEAST_SIGMA ? 0 : Math.min(MOST_SIGMA, sigma);
}
