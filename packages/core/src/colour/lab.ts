import { transform3, type Vector3 } from "./matrix.ts";
import { REC2020 } from "./rgb-space.ts";
import { chromaticityToXyz, D65 } from "./white.ts";

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

const WHITE = chromaticityToXyz(D65);

/** Linear Rec.2020 → CIELAB under D65 (CIE 15:2018, 8.2.1). */
export function workingToLab(working: Vector3): Vector3 {
  const [x, y, z] = transform3(REC2020.toXyz, working).map((v, c) => (luminanceToLightness(v / WHITE[c]) + 16) / 116);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

/** CIE 1976 difference ΔE*ab of two CIELAB colours. */
export function labDifference(a: Vector3, b: Vector3): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}
