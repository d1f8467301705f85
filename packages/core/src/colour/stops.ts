import { luminanceToLightness } from "./lab.ts";

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

/** Print reflectance (0–1) → print zone 0–10: a tenth of L*, so that Zone V is L* 50. */
export function printZone(reflectance: number): number {
  return luminanceToLightness(Math.min(1, reflectance)) / 10;
}
