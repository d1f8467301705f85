import { crc32, deflateSync } from "node:zlib";

/** What goes into a file beside its pixels. */
export interface Attachments {
  readonly icc: Uint8Array;
  /** A TIFF structure with EXIF tags, or null to strip all metadata. */
  readonly exif: Uint8Array | null;
}

const ICC_CHUNK_BYTES = 65000;

/**
 * Adds profile and metadata to an encoded PNG. The image library would convert the pixels to the profile; here the
 * pixels are already in it.
 */
export function embedInPng(png: Uint8Array, { icc, exif }: Attachments): Uint8Array {
  const headerEnd = 8 + 25;
  const chunks = [pngChunk("iCCP", Buffer.concat([Buffer.from("Yelm\0\0", "latin1"), deflateSync(icc)]))];
  if (exif) chunks.push(pngChunk("eXIf", exif));
  return Buffer.concat([png.subarray(0, headerEnd), ...chunks, png.subarray(headerEnd)]);
}

/** Adds profile and metadata to an encoded JPEG, right after its start marker. */
export function embedInJpeg(jpeg: Uint8Array, { icc, exif }: Attachments): Uint8Array {
  const segments: Uint8Array[] = [];
  if (exif) segments.push(jpegSegment(0xe1, Buffer.concat([Buffer.from("Exif\0\0", "latin1"), exif])));
  const count = Math.ceil(icc.length / ICC_CHUNK_BYTES);
  for (let i = 0; i < count; i++) {
    const head = Buffer.concat([Buffer.from("ICC_PROFILE\0", "latin1"), Buffer.from([i + 1, count])]);
    segments.push(
      jpegSegment(0xe2, Buffer.concat([head, icc.subarray(i * ICC_CHUNK_BYTES, (i + 1) * ICC_CHUNK_BYTES)])),
    );
  }
  return Buffer.concat([jpeg.subarray(0, 2), ...segments, jpeg.subarray(2)]);
}

function pngChunk(type: string, data: Uint8Array): Uint8Array {
  const out = Buffer.alloc(12 + data.length);
  out.writeUInt32BE(data.length, 0);
  out.write(type, 4, "latin1");
  out.set(data, 8);
  out.writeUInt32BE(crc32(out.subarray(4, 8 + data.length)), 8 + data.length);
  return out;
}

function jpegSegment(marker: number, data: Uint8Array): Uint8Array {
  const out = Buffer.alloc(4 + data.length);
  out.writeUInt16BE(0xff00 | marker, 0);
  out.writeUInt16BE(data.length + 2, 2);
  out.set(data, 4);
  return out;
}
