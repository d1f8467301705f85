/** Deepest density of the simulated paper; a straight curve goes beyond it. */
export const PAPER_DMAX = 2.2;
/** Softness 1 bends the curve over this width, in density. */
const WIDEST_BEND = 0.35;

/**
 * Print density of a film-like curve: a straight line of slope 1 (density = -log10 of straight reflectance) that bends
 * softly into paper white (toe, D 0) and into the deepest black (shoulder, D 2.2).
 * Soft clipping by two soft-plus terms; softness 0 is a hard corner.
 * @param straightDensity - any finite density; negative means lighter than paper.
 */
export function filmDensity(straightDensity: number, toe: number, shoulder: number): number {
  const bent =
    softPlus(straightDensity, toe * WIDEST_BEND) - softPlus(straightDensity - PAPER_DMAX, shoulder * WIDEST_BEND);
  // A toe softer than the shoulder would overshoot the deepest black by a trace and come back.
  return Math.min(PAPER_DMAX, bent);
}

function softPlus(x: number, width: number): number {
  if (width < 1e-6) return Math.max(0, x);
  const t = x / width;
  return t > 30 ? x : width * Math.log1p(Math.exp(t));
}
