/** A TIFF writer of the tests' own, which shares no code with what reads or writes TIFF in Yelm. */

/** Tag, type (2 text, 1 and 7 bytes, 3 short, 4 long, 5 and 10 rational) and values. */
export type TiffField = [tag: number, type: 1 | 2 | 3 | 4 | 5 | 7 | 10, values: readonly number[]];
const SIZES = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 7: 1, 10: 8 };

/** A little-endian TIFF of one strip; every field is [tag, type, values]. */
export function tiff(fields: readonly TiffField[], pixels: Buffer): Buffer {
  const all = [...fields, [273, 4, [8]] as TiffField, [279, 4, [pixels.length]] as TiffField].sort(
    (a, b) => a[0] - b[0],
  );
  const start = 8 + pixels.length + (pixels.length & 1);
  const table = Buffer.alloc(6 + 12 * all.length);
  table.writeUInt16LE(all.length);
  const long: Buffer[] = [];
  let end = start + table.length;
  all.forEach(([tag, type, values], i) => {
    const body = Buffer.alloc(Math.max(4, SIZES[type] * values.length));
    values.forEach((v, j) => {
      if (SIZES[type] === 1) body[j] = v;
      else if (type === 5 || type === 10) {
        body.writeInt32LE(Math.round(v * 1e6), 8 * j);
        body.writeInt32LE(1e6, 8 * j + 4);
      } else if (SIZES[type] === 2) body.writeUInt16LE(v, 2 * j);
      else body.writeUInt32LE(v, 4 * j);
    });
    const at = 2 + 12 * i;
    table.writeUInt16LE(tag, at);
    table.writeUInt16LE(type, at + 2);
    table.writeUInt32LE(values.length, at + 4);
    if (body.length === 4) return void body.copy(table, at + 8);
    table.writeUInt32LE(end, at + 8);
    long.push(body);
    end += body.length;
  });
  const head = Buffer.from([0x49, 0x49, 42, 0, 0, 0, 0, 0]);
  head.writeUInt32LE(start, 4);
  return Buffer.concat([head, pixels, Buffer.alloc(pixels.length & 1), table, ...long]);
}

export const shape = (width: number, height: number, channels: number, bits: number): TiffField[] => [
  [256, 4, [width]],
  [257, 4, [height]],
  [258, 3, Array<number>(channels).fill(bits)],
  [259, 3, [1]],
  [262, 3, [channels === 1 ? 1 : 2]],
  [277, 3, [channels]],
  [278, 4, [height]],
];
