const FRACTIONS: Readonly<Record<string, number>> = {
  "⅙": 1 / 6, "¼": 1 / 4, "⅓": 1 / 3, "½": 1 / 2, "⅔": 2 / 3, "¾": 3 / 4, "⅚": 5 / 6,
}; // prettier-ignore

/**
 * Reads an amount as people type it: "0.5", "−1,25", "+1/3", "-1 1/3", "1⅓", "12 %".
 * @returns null when it is no number.
 */
export function parseAmount(text: string): number | null {
  const plain = text
    .trim()
    .replace(/[−–]/g, "-")
    .replace(",", ".")
    .replace(/\s*(%|°|µm|stops?)$/, "");
  const match = /^([+-]?)\s*(\d*\.?\d*)\s*(?:([⅙¼⅓½⅔¾⅚])|(\d+)\s*\/\s*(\d+))?$/u.exec(plain);
  if (!match) return null;
  const [, sign, digits, glyph, over, under] = match;
  // "1/3" is read as digits "1" followed by "/3" only when a space or nothing parts them.
  const bare = /^([+-]?)(\d+)\s*\/\s*(\d+)$/.exec(plain);
  const size = bare
    ? Number(bare[2]) / Number(bare[3])
    : (digits === "" || digits === "." ? 0 : Number(digits)) +
      (glyph ? FRACTIONS[glyph] : over ? Number(over) / Number(under) : 0);
  const said = digits !== "" || glyph !== undefined || over !== undefined;
  if (!said || digits === "." || !Number.isFinite(size)) return null;
  return sign === "-" ? -size : size;
}
