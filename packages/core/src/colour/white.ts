import type { Vector3 } from "./matrix.ts";

/** CIE chromaticity (x, y). */
export type Chromaticity = readonly [number, number];

/** CIE standard illuminants, 2° observer (CIE 15:2018, table T.3). */
export const D65: Chromaticity = [0.3127, 0.329];
export const D50: Chromaticity = [0.34567, 0.3585];
export const ILLUMINANT_A: Chromaticity = [0.44758, 0.40745];

/** Chromaticity → XYZ with Y = 1. */
export function chromaticityToXyz([x, y]: Chromaticity): Vector3 {
  return [x / y, 1, (1 - x - y) / y];
}

/** XYZ → chromaticity; black gives D65. */
export function xyzToChromaticity([x, y, z]: Vector3): Chromaticity {
  const sum = x + y + z;
  return sum > 0 ? [x / sum, y / sum] : D65;
}

/**
 * Correlated colour temperature in kelvin of a chromaticity near the black-body locus.
 * McCamy 1992, cubic in the inverse slope; within 2 K of the isotherms from 2856 to 6500 K.
 */
export function correlatedTemperature([x, y]: Chromaticity): number {
  const n = (x - 0.332) / (0.1858 - y);
  return 449 * n ** 3 + 3525 * n ** 2 + 6823.3 * n + 5520.33;
}
