import { formatSigned, formatStops, formatZone } from "@yelm/core";

export const asStops = formatStops;
export const asPercent = (share: number): string => `${Math.round(100 * share)} %`;
export const asSignedPercent = (share: number): string => `${formatSigned(Math.round(100 * share), 0)} %`;
export const asDegrees = (degrees: number): string => `${formatSigned(degrees, 1)}°`;
export const asWeight = (weight: number): string => formatSigned(weight, 2).replace("+", "");
export const asPlain =
  (digits: number) =>
  (value: number): string =>
    formatSigned(value, digits).replace("+", "");

/** A sentence begins with it. */
export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** A print zone 0–10 as a Roman numeral, the nearest whole zone. */
export function zoneNumeral(zone: number): string {
  return formatZone(Math.round(zone));
}

/** A print zone to a third: "V", "V⅓", "V⅔". */
export const zoneThirds = formatZone;
