import { adaptWhite } from "../../colour/adaptation.ts";
import { invert3, multiply3, transform3, type Matrix3, type Vector3 } from "../../colour/matrix.ts";
import { REC2020 } from "../../colour/rgb-space.ts";
import {
  mixKelvin,
  temperatureTintToWhite,
  whiteToTemperatureTint,
  type TemperatureTint,
} from "../../colour/temperature.ts";
import { D65, xyzToChromaticity, type Chromaticity } from "../../colour/white.ts";
import type { CaptureInfo } from "../../raw/capture-info.ts";
import { findWhite } from "../../raw/camera-matrix.ts";
import type { Ground } from "./schema.ts";

type WhiteBalance = Ground["whiteBalance"];

/** Lights to start from. */
export const LIGHTS: readonly (readonly [name: string, light: TemperatureTint])[] = [
  ["daylight", { kelvin: 5500, tint: 0 }],
  ["cloud", { kelvin: 6500, tint: 0 }],
  ["shade", { kelvin: 7500, tint: 0 }],
  ["lamp", { kelvin: 2850, tint: 0 }],
];

/** The light that a capture was balanced for when its tiles were made; D65 for what is no raw file. */
export function asShotWhite({ calibrations, neutral }: Pick<CaptureInfo, "calibrations" | "neutral">): Chromaticity {
  return neutral && calibrations.length > 0 ? findWhite(calibrations, neutral).white : D65;
}

/** The light that a recipe takes for white: as shot, or the one set, as far as it is followed. */
export function balancedLight(balance: WhiteBalance, asShot: Chromaticity): TemperatureTint {
  const shot = whiteToTemperatureTint(asShot);
  if (balance.mode === "as shot") return shot;
  return { kelvin: mixKelvin(shot.kelvin, balance.kelvin, balance.follow), tint: balance.tint };
}

/**
 * Working colour as shot → working colour under the recipe's white balance; null when it changes nothing. The tiles hold
 * colours adapted from the light as shot, so that adaptation is undone and the new one made (Bradford both ways).
 */
export function balanceMatrix(balance: WhiteBalance, asShot: Chromaticity): Matrix3 | null {
  if (balance.mode === "as shot") return null;
  const white = temperatureTintToWhite(balancedLight(balance, asShot));
  const adapt = multiply3(adaptWhite(white, D65), invert3(adaptWhite(asShot, D65)));
  return multiply3(REC2020.fromXyz, multiply3(adapt, REC2020.toXyz));
}

/**
 * The light under which a colour of the tiles is neutral: what a picker finds.
 * @param working - linear working colour as shot.
 * @returns null for black, and for colours that no light on or near the locus could make.
 */
export function lightThatMakesNeutral(working: Vector3, asShot: Chromaticity): TemperatureTint | null {
  const xyz = transform3(invert3(adaptWhite(asShot, D65)), transform3(REC2020.toXyz, working));
  if (!(xyz[1] > 1e-5) || xyz.some((v) => v <= 0)) return null;
  const light = whiteToTemperatureTint(xyzToChromaticity(xyz));
  return Math.abs(light.tint) > 60 ? null : light;
}
