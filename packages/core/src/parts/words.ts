const FRACTIONS: readonly [number, string][] = [
  [0, ""],
  [1 / 6, "⅙"],
  [1 / 4, "¼"],
  [1 / 3, "⅓"],
  [1 / 2, "½"],
  [2 / 3, "⅔"],
  [3 / 4, "¾"],
  [5 / 6, "⅚"],
  [1, ""],
];

/** A number of stops as a printer writes it: "+⅔", "−1⅓"; what is no common fraction gets two decimals. */
export function formatStops(stops: number): string {
  const size = Math.abs(stops);
  if (size < 0.005) return "0";
  const sign = stops < 0 ? "−" : "+";
  const near = FRACTIONS.find(([value]) => Math.abs((size % 1) - value) < 0.006);
  if (!near) return sign + size.toFixed(2);
  const whole = near[0] === 1 ? Math.ceil(size) : Math.floor(size);
  return sign + (whole > 0 || near[1] === "" ? whole : "") + near[1];
}

/** A signed number with a real minus. */
export function formatSigned(value: number, digits: number): string {
  const text = Math.abs(value).toFixed(digits);
  return Number(text) === 0 ? text : (value < 0 ? "−" : "+") + text;
}

const NUMERALS = ["0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X"] as const;

/** A zone 0–10 as a Roman numeral to a third: "V", "V⅓". */
export function formatZone(zone: number): string {
  const thirds = Math.round(Math.min(10, Math.max(0, zone)) * 3);
  return NUMERALS[Math.floor(thirds / 3)] + ["", "⅓", "⅔"][thirds % 3];
}
