import type { Vector3 } from "./matrix.ts";

/** First wavelength of every spectrum here, nm. */
export const SHORTEST_NM = 380;
/** Distance of two samples, nm. */
export const STEP_NM = 10;
/** Samples of a spectrum: 380 to 830 nm, as far as the daylight series is tabulated. */
export const SAMPLES = 46;
export const LONGEST_NM = SHORTEST_NM + STEP_NM * (SAMPLES - 1);

/** Values at 380, 390 … 830 nm. */
export type Spectrum = Float64Array;

/** A spectrum from a formula of the wavelength in nm. */
export function spectrumOf(value: (nm: number) => number): Spectrum {
  return Float64Array.from({ length: SAMPLES }, (_, i) => value(SHORTEST_NM + STEP_NM * i));
}

/** CIE 1931 2° colour-matching functions every 10 nm from 380 to 780 nm (CIE 15:2018, table T.4). */
const OBSERVER: readonly Vector3[] = [
  [0.001368, 0.000039, 0.00645],
  [0.004243, 0.00012, 0.02005],
  [0.01431, 0.000396, 0.06785],
  [0.04351, 0.00121, 0.2074],
  [0.13438, 0.004, 0.6456],
  [0.2839, 0.0116, 1.3856],
  [0.34828, 0.023, 1.74706],
  [0.3362, 0.038, 1.77211],
  [0.2908, 0.06, 1.6692],
  [0.19536, 0.09098, 1.28764],
  [0.09564, 0.13902, 0.81295],
  [0.03201, 0.20802, 0.46518],
  [0.0049, 0.323, 0.272],
  [0.0093, 0.503, 0.1582],
  [0.06327, 0.71, 0.07825],
  [0.1655, 0.862, 0.04216],
  [0.2904, 0.954, 0.0203],
  [0.43345, 0.99495, 0.00875],
  [0.5945, 0.995, 0.0039],
  [0.7621, 0.952, 0.0021],
  [0.9163, 0.87, 0.00165],
  [1.0263, 0.757, 0.0011],
  [1.0622, 0.631, 0.0008],
  [1.0026, 0.503, 0.00034],
  [0.85445, 0.381, 0.00019],
  [0.6424, 0.265, 0.00005],
  [0.4479, 0.175, 0.00002],
  [0.2835, 0.107, 0],
  [0.1649, 0.061, 0],
  [0.0874, 0.032, 0],
  [0.04677, 0.017, 0],
  [0.0227, 0.00821, 0],
  [0.011359, 0.004102, 0],
  [0.00579, 0.002091, 0],
  [0.002899, 0.001047, 0],
  [0.00144, 0.00052, 0],
  [0.00069, 0.000249, 0],
  [0.000332, 0.00012, 0],
  [0.000166, 0.00006, 0],
  [0.000083, 0.00003, 0],
  [0.000042, 0.000015, 0],
];

/** Colour-matching functions x̄, ȳ, z̄ as spectra; nothing is seen beyond 780 nm. */
export const COLOUR_MATCHING: readonly [Spectrum, Spectrum, Spectrum] = [0, 1, 2].map((c) =>
  Float64Array.from({ length: SAMPLES }, (_, i) => OBSERVER[i]?.[c] ?? 0),
) as unknown as readonly [Spectrum, Spectrum, Spectrum];

/** Mean daylight and its two components, every 10 nm from 380 to 830 nm (CIE 15:2018, table T.2). */
const DAYLIGHT_MEAN = [
  63.4, 65.8, 94.8, 104.8, 105.9, 96.8, 113.9, 125.6, 125.5, 121.3, 121.3, 113.5, 113.1, 110.8, 106.5, 108.8, 105.3,
  104.4, 100, 96, 95.1, 89.1, 90.5, 90.3, 88.4, 84, 85.1, 81.9, 82.6, 84.9, 81.3, 71.9, 74.3, 76.4, 63.3, 71.7, 77,
  65.2, 47.7, 68.6, 65, 66, 61, 53.3, 58.9, 61.9,
];
const DAYLIGHT_YELLOW_BLUE = [
  38.5, 35, 43.4, 46.3, 43.9, 37.1, 36.7, 35.9, 32.6, 27.9, 24.3, 20.1, 16.2, 13.2, 8.6, 6.1, 4.2, 1.9, 0, -1.6, -3.5,
  -3.5, -5.8, -7.2, -8.6, -9.5, -10.9, -10.7, -12, -14, -13.6, -12, -13.3, -12.9, -10.6, -11.6, -12.2, -10.2, -7.8,
  -11.2, -10.4, -10.6, -9.7, -8.3, -9.3, -9.8,
];
const DAYLIGHT_PINK_GREEN = [
  3, 1.2, -1.1, -0.5, -0.7, -1.2, -2.6, -2.9, -2.8, -2.6, -2.6, -1.8, -1.5, -1.3, -1.2, -1, -0.5, -0.3, 0, 0.2, 0.5,
  2.1, 3.2, 4.1, 4.7, 5.1, 6.7, 7.3, 8.6, 9.8, 10.2, 8.3, 9.6, 8.5, 7, 7.6, 8, 6.7, 5.2, 7.4, 6.8, 7, 6.4, 5.5, 6.1,
  6.5,
];

/** Relative power of daylight of a chromaticity on the daylight locus (CIE 15:2018, 4.1.2, equations 4.4 to 4.6). */
export function daylightSpectrum([x, y]: readonly [number, number]): Spectrum {
  const below = 0.0241 + 0.2562 * x - 0.7341 * y;
  const m1 = (-1.3515 - 1.7703 * x + 5.9114 * y) / below;
  const m2 = (0.03 - 31.4424 * x + 30.0717 * y) / below;
  return Float64Array.from(DAYLIGHT_MEAN, (s, i) => s + m1 * DAYLIGHT_YELLOW_BLUE[i] + m2 * DAYLIGHT_PINK_GREEN[i]);
}

/** Second radiation constant, nm·K. */
const C2_NM_KELVIN = 1.4388e7;

/** Relative power of a black body by Planck's law, 100 at 560 nm. */
export function planckSpectrum(kelvin: number): Spectrum {
  const power = (nm: number) => nm ** -5 / Math.expm1(C2_NM_KELVIN / (nm * kelvin));
  return spectrumOf((nm) => (100 * power(nm)) / power(560));
}

/** Σ a·b, or Σ a·b·c: the integral in units of one step. */
export function integrate(a: Spectrum, b: Spectrum, c?: Spectrum): number {
  let sum = 0;
  for (let i = 0; i < SAMPLES; i++) sum += c ? a[i] * b[i] * c[i] : a[i] * b[i];
  return sum;
}

/** XYZ of a surface of a reflectance under a light, Y = 1 for the perfect white. */
export function reflectanceToXyz(reflectance: Spectrum, light: Spectrum): Vector3 {
  const white = integrate(light, COLOUR_MATCHING[1]);
  const [x, y, z] = COLOUR_MATCHING.map((response) => integrate(reflectance, light, response) / white);
  return [x, y, z];
}
