import { open } from "node:fs/promises";
import sharp from "sharp";
import type { Band, PrintFormat } from "./print-bands.ts";
import type { WholeFile } from "./whole-file.ts";

const ICC_CHUNK_BYTES = 65000;

/** Writes a JPEG with its profile and, when given, an EXIF block. The encoder wants all pixels at once, one byte each. */
export async function writeJpegFile(
  file: WholeFile,
  { width, height, channels }: PrintFormat,
  bands: Iterable<Band>,
  quality: number,
  icc: Uint8Array,
  exif: Uint8Array | null,
): Promise<void> {
  const codes = new Uint8Array(width * height * channels);
  let row = 0;
  for (const band of bands) {
    codes.set(band.codes, row * width * channels);
    row += band.rows;
  }
  const image = sharp(codes, { raw: { width, height, channels } });
  const inside = channels === 1 ? image.toColourspace("b-w") : image;
  const jpeg = await inside.jpeg({ quality, chromaSubsampling: "4:4:4", mozjpeg: false }).toBuffer();
  // The pixels are already in the profile; the image library would convert them to it.
  await file.append(jpeg.subarray(0, 2));
  if (exif) await file.append(segment(0xe1, Buffer.concat([Buffer.from("Exif\0\0", "latin1"), exif])));
  const count = Math.ceil(icc.length / ICC_CHUNK_BYTES);
  for (let i = 0; i < count; i++) {
    const head = Buffer.concat([Buffer.from("ICC_PROFILE\0", "latin1"), Buffer.from([i + 1, count])]);
    const part = icc.subarray(i * ICC_CHUNK_BYTES, (i + 1) * ICC_CHUNK_BYTES);
    await file.append(segment(0xe2, Buffer.concat([head, part])));
  }
  await file.append(jpeg.subarray(2));
}

function segment(marker: number, data: Uint8Array): Buffer {
  const out = Buffer.alloc(4 + data.length);
  out.writeUInt16BE(0xff00 | marker, 0);
  out.writeUInt16BE(data.length + 2, 2);
  out.set(data, 4);
  return out;
}

/** Whether there is a JPEG at this path that reaches to its end marker (ITU-T T.81, B.1.1.3). */
export async function isWholeJpeg(path: string): Promise<boolean> {
  const file = await open(path).catch(() => null);
  if (!file) return false;
  try {
    const { size } = await file.stat();
    const end = Buffer.alloc(2);
    await file.read(end, 0, 2, Math.max(0, size - 2));
    return end[0] === 0xff && end[1] === 0xd9;
  } finally {
    await file.close();
  }
}
