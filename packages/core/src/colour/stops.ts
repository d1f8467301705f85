import { lightnessToLuminance, luminanceToLightness } from "./lab.ts";
import { SRGB_TRANSFER } from "./transfer.ts";

/** Light of middle grey, Zone V: an 18 % reflector under base exposure. */
export const MIDDLE_GREY = 0.18;
/** The white point at which sensor white prints as paper white: log2(1 / 0.18) stops above Zone V. */
export const SENSOR_WHITE_STOPS = Math.log2(1 / MIDDLE_GREY);

/** Stops about Zone V → scene light. */
export function stopsToLight(stops: number): number {
  return MIDDLE_GREY * 2 ** stops;
}

/** Scene light → stops about Zone V; 0 or less gives -Infinity. */
export function lightToStops(light: number): number {
  return light > 0 ? Math.log2(light / MIDDLE_GREY) : -Infinity;
}

/** What each of the 256 codes of sRGB becomes when a print is shown by its zones alone: the code of its zone's middle, 0–1. */
export function zoneSteps(): number[] {
  const { encode, decode } = SRGB_TRANSFER;
  return Array.from({ length: 256 }, (_, code) => {
    const zone = Math.round(printZone(decode(code / 255)));
    return encode(lightnessToLuminance(10 * zone));
  });
}

/** Print reflectance (0–1) → print zone 0–10: a tenth of L*, so that Zone V is L* 50. */
export function printZone(reflectance: number): number {
  return luminanceToLightness(Math.min(1, reflectance)) / 10;
}
