import { adaptWhite } from "../colour/adaptation.ts";
import { diagonal3, invert3, multiply3, transform3, type Matrix3, type Vector3 } from "../colour/matrix.ts";
import { REC2020 } from "../colour/rgb-space.ts";
import {
  chromaticityToXyz,
  correlatedTemperature,
  D65,
  xyzToChromaticity,
  type Chromaticity,
} from "../colour/white.ts";

/** One calibration of a camera: XYZ under an illuminant → camera RGB. */
export interface Calibration {
  readonly xyzToCamera: Matrix3;
  /** Correlated colour temperature of the illuminant, kelvin. */
  readonly temperatureK: number;
}

/** Kelvin of the EXIF LightSource codes that calibrations use (EXIF 2.32, table 8). */
export const LIGHT_SOURCE_KELVIN: Readonly<Record<number, number>> = {
  1: 5500,
  2: 4200,
  3: 2850,
  4: 5500,
  9: 5500,
  10: 6500,
  11: 7500,
  12: 6430,
  13: 5000,
  14: 4230,
  15: 3450,
  17: 2856,
  18: 4874,
  19: 6774,
  20: 5503,
  21: 6504,
  22: 7504,
  23: 5003,
  24: 3200,
};

const WHITE_ITERATIONS = 30;

/**
 * White-balanced camera RGB → linear Rec.2020 (D65), so that the camera's neutral (1, 1, 1 after balance) is working
 * white. With two calibrations the matrix is interpolated in inverse temperature, iterated from the neutral to the
 * white it implies (DNG 1.7, chapter 6).
 * @param calibrations - one or two.
 * @param neutral - camera response to white, any scale, all positive.
 * @throws {RangeError} when there is no calibration, a neutral is not positive, or a matrix is singular.
 */
export function cameraToWorking(calibrations: readonly Calibration[], neutral: Vector3): Matrix3 {
  if (calibrations.length === 0) throw new RangeError("Expected one or two calibrations but received none.");
  if (!neutral.every((v) => v > 0 && Number.isFinite(v)))
    throw new RangeError(`Expected a positive neutral but received ${neutral.join(", ")}.`);
  const { white, xyzToCamera } = findWhite(calibrations, neutral);
  const balanced = multiply3(invert3(xyzToCamera), diagonal3(neutral));
  const adapted = multiply3(adaptWhite(white, D65), balanced);
  const luminanceOfNeutral = transform3(adapted, [1, 1, 1])[1];
  const scale = 1 / luminanceOfNeutral;
  return multiply3(REC2020.fromXyz, multiply3(diagonal3([scale, scale, scale]), adapted));
}

/** The white point, and the matrix interpolated for it, that a camera neutral stands for. */
export function findWhite(
  calibrations: readonly Calibration[],
  neutral: Vector3,
): { white: Chromaticity; xyzToCamera: Matrix3 } {
  let white: Chromaticity = D65;
  let xyzToCamera = calibrations[0].xyzToCamera;
  for (let i = 0; i < WHITE_ITERATIONS; i++) {
    xyzToCamera = interpolate(calibrations, correlatedTemperature(white));
    const next = xyzToChromaticity(transform3(invert3(xyzToCamera), neutral));
    const moved = Math.abs(next[0] - white[0]) + Math.abs(next[1] - white[1]);
    white = next;
    if (moved < 1e-7) break;
  }
  return { white, xyzToCamera };
}

/** Camera response to a white stated by its chromaticity, largest 1 (DNG 1.7, AsShotWhiteXY). */
export function neutralOfWhite(calibrations: readonly Calibration[], white: Chromaticity): Vector3 {
  const response = transform3(interpolate(calibrations, correlatedTemperature(white)), chromaticityToXyz(white));
  const top = Math.max(...response);
  return [response[0] / top, response[1] / top, response[2] / top];
}

function interpolate(calibrations: readonly Calibration[], kelvin: number): Matrix3 {
  const [first, second] = [...calibrations].sort((a, b) => a.temperatureK - b.temperatureK);
  if (!second || kelvin <= first.temperatureK) return first.xyzToCamera;
  if (kelvin >= second.temperatureK) return second.xyzToCamera;
  const share = (1 / kelvin - 1 / second.temperatureK) / (1 / first.temperatureK - 1 / second.temperatureK);
  return first.xyzToCamera.map((v, i) => share * v + (1 - share) * second.xyzToCamera[i]) as unknown as Matrix3;
}
