/** A colour table in the open .cube format, reduced to what greys become: coded red, green, blue, 0–1, from black to white. */
export interface GreyTable {
  readonly title: string;
  /** Three numbers a node. */
  readonly values: readonly number[];
}

/** A file that is no such table, or is damaged; the message says what was expected and what came. */
export class CubeError extends Error {
  override readonly name = "CubeError";
}

/** Most nodes that are kept; a longer table is thinned to as many. */
export const MOST_NODES = 1024;
const LONGEST_1D = 65536;
const LONGEST_3D = 256;
const MOST_CHARACTERS = 64e6;

/**
 * Reads a .cube file of one or three dimensions. Of three only the diagonal is kept: a grey print asks for nothing else.
 * @throws {CubeError}
 */
export function readCube(text: string): GreyTable {
  if (text.length > MOST_CHARACTERS)
    throw new CubeError(`Expected a table of at most 64 MB but received ${Math.round(text.length / 1e6)} MB.`);
  let title = "";
  let size = 0;
  let dimensions = 0;
  const domain = { min: [0, 0, 0], max: [1, 1, 1] };
  const rows: number[] = [];
  text.split(/\r\n|\r|\n/).forEach((raw, i) => {
    const line = raw.replace(/#.*/, "").trim();
    if (line === "") return;
    const [word, ...rest] = line.split(/\s+/);
    const fail = (expected: string) =>
      new CubeError(`Expected ${expected} in line ${i + 1} but received “${raw.trim().slice(0, 60)}”.`);
    if (word === "TITLE")
      title = line
        .slice(5)
        .trim()
        .replace(/^"(.*)"$/, "$1")
        .slice(0, 80);
    else if (word === "LUT_1D_SIZE" || word === "LUT_3D_SIZE") {
      if (size > 0) throw fail("one size only");
      dimensions = word === "LUT_1D_SIZE" ? 1 : 3;
      size = Number(rest[0]);
      if (!Number.isInteger(size) || size < 2 || size > (dimensions === 1 ? LONGEST_1D : LONGEST_3D))
        throw fail(`a whole number from 2 to ${dimensions === 1 ? LONGEST_1D : LONGEST_3D}`);
    } else if (word === "DOMAIN_MIN" || word === "DOMAIN_MAX") {
      const numbers = rest.map(Number);
      if (numbers.length !== 3 || !numbers.every(Number.isFinite)) throw fail("three numbers");
      domain[word === "DOMAIN_MIN" ? "min" : "max"] = numbers;
    } else if (/^[A-Z_]{3,}/.test(word)) {
      // Words of other programs say nothing about the table itself.
    } else {
      const numbers = [word, ...rest].map(Number);
      if (numbers.length !== 3 || !numbers.every(Number.isFinite)) throw fail("three numbers");
      rows.push(...numbers);
    }
  });
  if (size === 0)
    throw new CubeError("Expected a line LUT_1D_SIZE or LUT_3D_SIZE, but there is none: this is no .cube file.");
  const count = dimensions === 1 ? size : size ** 3;
  if (rows.length !== 3 * count)
    throw new CubeError(
      `Expected ${count} lines of three numbers but received ${rows.length / 3}: the file may be cut short.`,
    );
  const span = domain.max.map((max, c) => max - domain.min[c]);
  if (span.some((one) => !(one > 0))) throw new CubeError("Expected DOMAIN_MAX to be greater than DOMAIN_MIN.");
  const step = dimensions === 1 ? 1 : 1 + size + size * size;
  const nodes = Array.from({ length: size }, (_, k) => [0, 1, 2].map((c) => rows[3 * k * step + c]));
  // What a grey of code v becomes: channel by channel where its code lies within the table's own domain.
  const at = (v: number) =>
    [0, 1, 2].map((c) => {
      const place = Math.min(1, Math.max(0, (v - domain.min[c]) / span[c])) * (size - 1);
      const k = Math.min(size - 2, Math.floor(place));
      const value = nodes[k][c] + (place - k) * (nodes[k + 1][c] - nodes[k][c]);
      return Math.min(1, Math.max(0, value));
    });
  const length = Math.min(MOST_NODES, size);
  return { title, values: Array.from({ length }, (_, k) => at(k / (length - 1))).flat() };
}

/** Writes a table as a .cube file of one dimension. */
export function writeCube({ title, values }: GreyTable): string {
  const rows = Array.from({ length: values.length / 3 }, (_, k) =>
    values
      .slice(3 * k, 3 * k + 3)
      .map((v) => v.toFixed(7))
      .join(" "),
  );
  const name = title.replace(/["\r\n]/g, " ").slice(0, 80);
  return [`TITLE "${name}"`, `LUT_1D_SIZE ${rows.length}`, ...rows, ""].join("\n");
}
