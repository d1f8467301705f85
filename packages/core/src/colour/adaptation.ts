import { diagonal3, invert3, multiply3, transform3, type Matrix3 } from "./matrix.ts";
import { chromaticityToXyz, type Chromaticity } from "./white.ts";

/** Bradford cone responses (Lam 1985; ICC.1:2022 annex E). */
const XYZ_TO_CONES: Matrix3 = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296];
const CONES_TO_XYZ = invert3(XYZ_TO_CONES);

/** XYZ under white `from` → XYZ that looks alike under white `to`. */
export function adaptWhite(from: Chromaticity, to: Chromaticity): Matrix3 {
  const source = transform3(XYZ_TO_CONES, chromaticityToXyz(from));
  const target = transform3(XYZ_TO_CONES, chromaticityToXyz(to));
  const gains = diagonal3([target[0] / source[0], target[1] / source[1], target[2] / source[2]]);
  return multiply3(CONES_TO_XYZ, multiply3(gains, XYZ_TO_CONES));
}
