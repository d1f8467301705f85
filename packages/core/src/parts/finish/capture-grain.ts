import { stopsToLight } from "../../colour/stops.ts";
import type { CaptureInfo } from "../../raw/capture-info.ts";
import { luminanceNoise } from "../ground/grey-noise.ts";
import { GRANULARITY_APERTURE_UM } from "./emulsion.ts";
import { FORMAT_LONG_EDGE_MM } from "./grain.ts";
import type { GrainFormat } from "./schema.ts";

/** A small step about middle grey, stops. */
const STEP = 0.05;

/**
 * The capture's own noise as a film's granularity: 1000·σ of the print's density where it is middle grey, as through 48 µm of a film of
 * a format that the whole negative would be. Null where the noise is not known.
 * @param curve - light → reflectance of the print; its slope at middle grey makes noise larger or smaller.
 */
export function captureGranularity(
  capture: CaptureInfo,
  format: GrainFormat,
  curve: (light: number) => number,
): number | null {
  const noise = luminanceNoise(capture);
  if (!noise) return null;
  const light = stopsToLight(0);
  const density = (stops: number) => -Math.log10(Math.max(1e-6, curve(stopsToLight(stops))));
  const slope = (density(-STEP) - density(STEP)) / (2 * STEP * Math.log10(2));
  const deviation = (Math.sqrt(noise.slope * light + noise.offset) / light) * Math.LOG10E * slope;
  const pixelUm = (1000 * FORMAT_LONG_EDGE_MM[format]) / Math.max(capture.width, capture.height);
  return (1000 * deviation * pixelUm) / Math.sqrt((Math.PI / 4) * GRANULARITY_APERTURE_UM ** 2);
}
