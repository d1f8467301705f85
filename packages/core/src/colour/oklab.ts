import { invert3, multiply3, transform3, type Matrix3, type Vector3 } from "./matrix.ts";
import { REC2020 } from "./rgb-space.ts";

const { cbrt } = Math;

/** Ottosson 2020: XYZ (D65) → cone-like responses. */
const XYZ_TO_LMS: Matrix3 = [
  0.8189330101, 0.3618667424, -0.1288597137, 0.0329845436, 0.9293118715, 0.0361456387, 0.0482003018, 0.2643662691,
  0.633851707,
];
/** Their cube roots → Lab. */
export const LMS_TO_LAB: Matrix3 = [
  0.2104542553, 0.793617785, -0.0040720468, 1.9779984951, -2.428592205, 0.4505937099, 0.0259040371, 0.7827717662,
  -0.808675766,
];
const LMS_TO_XYZ = invert3(XYZ_TO_LMS);
const LAB_TO_LMS = invert3(LMS_TO_LAB);
/** Linear Rec.2020 → cone-like responses. */
export const WORKING_TO_LMS = multiply3(XYZ_TO_LMS, REC2020.toXyz);

/** XYZ (D65, Y = 1 white) → OKLab (L 0–1, a, b about ±0.4). */
export function xyzToOklab(xyz: Vector3): Vector3 {
  return rootsToLab(transform3(XYZ_TO_LMS, xyz));
}

/** OKLab → XYZ (D65). */
export function oklabToXyz(lab: Vector3): Vector3 {
  const [l, m, s] = transform3(LAB_TO_LMS, lab);
  return transform3(LMS_TO_XYZ, [l ** 3, m ** 3, s ** 3]);
}

/** Linear Rec.2020 → OKLab. */
export function workingToOklab(rgb: Vector3): Vector3 {
  return rootsToLab(transform3(WORKING_TO_LMS, rgb));
}

/** OKLab → linear Rec.2020. */
export function oklabToWorking(lab: Vector3): Vector3 {
  return transform3(REC2020.fromXyz, oklabToXyz(lab));
}

function rootsToLab([l, m, s]: Vector3): Vector3 {
  return transform3(LMS_TO_LAB, [cbrt(l), cbrt(m), cbrt(s)]);
}
