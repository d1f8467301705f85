import { once } from "node:events";
import { constants, createDeflate, crc32, deflateSync } from "node:zlib";
import type { Band, PrintFormat } from "./print-bands.ts";
import type { WholeFile } from "./whole-file.ts";

const SIGNATURE = Uint8Array.of(137, 80, 78, 71, 13, 10, 26, 10);
/** Filter type that stores the difference to the pixel on the left (PNG 9.2). */
const SUB = 1;

/** Writes a 16-bit PNG band by band, with its profile and, when given, an EXIF block. */
export async function writePngFile(
  file: WholeFile,
  { width, height, channels }: PrintFormat,
  bands: Iterable<Band>,
  icc: Uint8Array,
  exif: Uint8Array | null,
): Promise<void> {
  const header = Buffer.alloc(13);
  header.writeUInt32BE(width, 0);
  header.writeUInt32BE(height, 4);
  header.set([16, channels === 1 ? 0 : 2, 0, 0, 0], 8);
  const profile = Buffer.concat([Buffer.from("Yelm\0\0", "latin1"), deflateSync(icc)]);
  await file.append(SIGNATURE);
  await file.append(chunk("IHDR", header));
  await file.append(chunk("iCCP", profile));
  if (exif) await file.append(chunk("eXIf", exif));
  // As in the TIFF writer: differences of a photograph hardly repeat.
  const stream = createDeflate({ level: 1, strategy: constants.Z_RLE });
  const written = (async () => {
    for await (const piece of stream) await file.append(chunk("IDAT", piece as Buffer));
  })();
  // Whatever fails while bands are still made is thrown here, not lost on the way.
  written.catch(() => stream.destroy());
  for (const band of bands)
    if (!stream.write(filtered(band, width, channels))) await Promise.race([once(stream, "drain"), written]);
  stream.end();
  await written;
  await file.append(chunk("IEND", new Uint8Array(0)));
}

/** Rows in network byte order, each after its filter type, as differences to the left. */
function filtered({ codes, rows }: Band, width: number, channels: number): Buffer {
  const row = width * channels;
  const out = Buffer.allocUnsafe(rows * (1 + 2 * row));
  let to = 0;
  for (let y = 0; y < rows; y++) {
    out[to++] = SUB;
    for (let i = y * row; i < (y + 1) * row; i++) {
      const left = i >= y * row + channels ? codes[i - channels] : 0;
      out[to++] = (codes[i] >> 8) - (left >> 8);
      out[to++] = (codes[i] & 0xff) - (left & 0xff);
    }
  }
  return out;
}

function chunk(type: string, data: Uint8Array): Buffer {
  const out = Buffer.alloc(12 + data.length);
  out.writeUInt32BE(data.length, 0);
  out.write(type, 4, "latin1");
  out.set(data, 8);
  out.writeUInt32BE(crc32(out.subarray(4, 8 + data.length)), 8 + data.length);
  return out;
}
