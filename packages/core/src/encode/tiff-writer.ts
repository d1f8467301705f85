/** Field types of TIFF 6.0 with their size in bytes. */
const TYPES = { byte: [1, 1], ascii: [2, 1], short: [3, 2], long: [4, 4], rational: [5, 8], undefined: [7, 1], srational: [10, 8], double: [12, 8] } as const; // prettier-ignore
type FieldType = keyof typeof TYPES;

/** One directory entry: tag, type and values; rationals are given as plain numbers. */
export interface Field {
  readonly tag: number;
  readonly type: FieldType;
  readonly values: readonly number[];
}

/** An image file directory, with directories below it and blocks of data it points to. */
export interface Directory {
  readonly fields: Field[];
  /** Directories named by a tag (SubIFDs, EXIF). */
  readonly children?: { readonly tag: number; readonly directory: Directory }[];
  /** Data blocks and the tags that hold their offsets and lengths. */
  readonly data?: { readonly offsetTag: number; readonly lengthTag: number; readonly blocks: Uint8Array[] };
}

/** A text field; letters outside ASCII become question marks. */
export const ascii = (tag: number, text: string): Field => ({
  tag,
  type: "ascii",
  values: [...Array.from(text, (letter) => (letter > "~" ? 0x3f : letter.charCodeAt(0))), 0],
});

const RATIONAL_DENOMINATOR = 1_000_000;

/** The first bytes of a little-endian TIFF whose top directory lies at `directoryAt`. */
export function tiffHeader(directoryAt: number): Uint8Array {
  const out = Uint8Array.of(0x49, 0x49, 42, 0, 0, 0, 0, 0);
  new DataView(out.buffer).setUint32(4, directoryAt, true);
  return out;
}

/** Writes a little-endian TIFF 6.0 file with one top directory. */
export function writeTiff(top: Directory): Uint8Array {
  const { bytes, directoryAt } = writeDirectories(top, 8);
  const out = new Uint8Array(8 + bytes.length);
  out.set(tiffHeader(directoryAt));
  out.set(bytes, 8);
  return out;
}

/**
 * Writes directories, and the data they hold, as they stand from byte `start` of a file.
 * @param start - even.
 * @returns the bytes, and where in the file the top directory begins.
 */
export function writeDirectories(top: Directory, start: number): { bytes: Uint8Array; directoryAt: number } {
  const chunks: { at: number; bytes: Uint8Array }[] = [];
  let end = start;
  const append = (bytes: Uint8Array): number => {
    const at = end;
    chunks.push({ at, bytes });
    end += bytes.length + (bytes.length & 1);
    return at;
  };
  const writeDirectory = (directory: Directory): number => {
    const fields = [...directory.fields];
    for (const { tag, directory: child } of directory.children ?? [])
      fields.push({ tag, type: "long", values: [writeDirectory(child)] });
    if (directory.data) {
      const { offsetTag, lengthTag, blocks } = directory.data;
      fields.push({ tag: offsetTag, type: "long", values: blocks.map(append) });
      fields.push({ tag: lengthTag, type: "long", values: blocks.map((b) => b.length) });
    }
    fields.sort((a, b) => a.tag - b.tag);
    const table = new Uint8Array(6 + 12 * fields.length);
    const view = new DataView(table.buffer);
    view.setUint16(0, fields.length, true);
    fields.forEach((field, i) => {
      const at = 2 + 12 * i;
      const [code] = TYPES[field.type];
      const bytes = fieldBytes(field);
      view.setUint16(at, field.tag, true);
      view.setUint16(at + 2, code, true);
      view.setUint32(at + 4, field.values.length, true);
      if (bytes.length <= 4) table.set(bytes, at + 8);
      else view.setUint32(at + 8, append(bytes), true);
    });
    return append(table);
  };
  const directoryAt = writeDirectory(top);
  const bytes = new Uint8Array(end - start);
  for (const { at, bytes: chunk } of chunks) bytes.set(chunk, at - start);
  return { bytes, directoryAt };
}

function fieldBytes({ type, values }: Field): Uint8Array {
  const [, size] = TYPES[type];
  const bytes = new Uint8Array(size * values.length);
  const view = new DataView(bytes.buffer);
  values.forEach((value, i) => {
    const at = i * size;
    if (type === "short") view.setUint16(at, value, true);
    else if (type === "long") view.setUint32(at, value, true);
    else if (type === "double") view.setFloat64(at, value, true);
    else if (type === "rational" || type === "srational") {
      const exact = Number.isInteger(value) ? 1 : RATIONAL_DENOMINATOR;
      view.setInt32(at, Math.round(value * exact), true);
      view.setInt32(at + 4, exact, true);
    } else bytes[at] = value;
  });
  return bytes;
}
