const DIGITS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_";
const VALUES = new Map([...DIGITS].map((digit, i) => [digit, i]));
const BITS = 5;
const GOES_ON = 1 << BITS;

/** Cells of 0 and 1 as the lengths of their runs by turns, beginning with 0; digits of 5 bits, least first. */
export function encodeRuns(cells: Uint8Array): string {
  const out: string[] = [];
  const put = (length: number) => {
    let rest = length;
    while (rest >= GOES_ON) {
      out.push(DIGITS[GOES_ON | (rest & (GOES_ON - 1))]);
      rest >>>= BITS;
    }
    out.push(DIGITS[rest]);
  };
  let [value, length] = [0, 0];
  for (const cell of cells) {
    if (cell === value) {
      length++;
      continue;
    }
    put(length);
    [value, length] = [cell, 1];
  }
  if (value === 1) put(length);
  return out.join("");
}

/** The cells that {@link encodeRuns} was given; what the runs leave open is 0, what goes beyond is cut off. */
export function decodeRuns(runs: string, count: number): Uint8Array {
  const cells = new Uint8Array(count);
  let [at, value, length, shift] = [0, 0, 0, 0];
  for (const digit of runs) {
    const bits = VALUES.get(digit) ?? 0;
    if (shift < 25) length += (bits & (GOES_ON - 1)) << shift;
    shift += BITS;
    if (bits & GOES_ON) continue;
    const end = Math.min(count, at + length);
    if (value === 1) cells.fill(1, at, end);
    at = end;
    [value, length, shift] = [1 - value, 0, 0];
  }
  return cells;
}
