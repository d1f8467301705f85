import { diagonal3, invert3, multiply3, transform3, type Matrix3, type Vector3 } from "./matrix.ts";
import { chromaticityToXyz, D65, type Chromaticity } from "./white.ts";

/** A linear RGB space: both matrices follow from primaries and white (SMPTE RP 177). */
export interface RgbSpace {
  readonly toXyz: Matrix3;
  readonly fromXyz: Matrix3;
  /** Luminance Y of each primary at full drive; sums to 1. */
  readonly luminance: Vector3;
}

/** ITU-R BT.2020 primaries, the working space of the whole pipeline. */
export const REC2020 = rgbSpace([0.708, 0.292], [0.17, 0.797], [0.131, 0.046], D65);
/** ITU-R BT.709 primaries, shared by sRGB. */
export const REC709 = rgbSpace([0.64, 0.33], [0.3, 0.6], [0.15, 0.06], D65);

/** Luminance Y of a linear working colour. */
export function luminanceOf([red, green, blue]: Vector3): number {
  const [r, g, b] = REC2020.luminance;
  return r * red + g * green + b * blue;
}

export const REC709_TO_REC2020 = multiply3(REC2020.fromXyz, REC709.toXyz);
export const REC2020_TO_REC709 = multiply3(REC709.fromXyz, REC2020.toXyz);

/** Derives a space from its chromaticities. */
export function rgbSpace(red: Chromaticity, green: Chromaticity, blue: Chromaticity, white: Chromaticity): RgbSpace {
  const r = chromaticityToXyz(red);
  const g = chromaticityToXyz(green);
  const b = chromaticityToXyz(blue);
  const primaries: Matrix3 = [r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]];
  const toXyz = multiply3(primaries, diagonal3(transform3(invert3(primaries), chromaticityToXyz(white))));
  return { toXyz, fromXyz: invert3(toXyz), luminance: [toXyz[3], toXyz[4], toXyz[5]] };
}
