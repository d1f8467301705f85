/** CIE L* break points in their exact rational form (CIE 15:2018, 8.2.1). */
const EPSILON = 216 / 24389;
const KAPPA = 24389 / 27;

/** Relative luminance Y (0–1, unbounded above) → CIE lightness L* (0–100). Negative counts as 0. */
export function luminanceToLightness(y: number): number {
  const v = Math.max(0, y);
  return v > EPSILON ? 116 * Math.cbrt(v) - 16 : KAPPA * v;
}

/** CIE lightness L* → relative luminance Y; inverse of {@link luminanceToLightness}. */
export function lightnessToLuminance(lightness: number): number {
  const f = (lightness + 16) / 116;
  return lightness > KAPPA * EPSILON ? f ** 3 : Math.max(0, lightness) / KAPPA;
}
