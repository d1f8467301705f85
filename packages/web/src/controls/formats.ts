import { formatSigned, formatStops } from "@yelm/core";

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

const NUMERALS = ["0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X"] as const;

/** A print zone 0–10 as a Roman numeral, the nearest whole zone. */
export function zoneNumeral(zone: number): string {
  return NUMERALS[Math.min(10, Math.max(0, Math.round(zone)))];
}

/** A print zone to a third: "V", "V⅓", "V⅔". */
export function zoneThirds(zone: number): string {
  const thirds = Math.round(Math.min(10, Math.max(0, zone)) * 3);
  return NUMERALS[Math.floor(thirds / 3)] + ["", "⅓", "⅔"][thirds % 3];
}
