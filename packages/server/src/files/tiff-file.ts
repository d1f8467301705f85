import { endianness } from "node:os";
import { tiffHeader, writeDirectories, type Directory, type Field } from "@yelm/core";
import { BAND_ROWS, type Band, type PrintFormat } from "./print-bands.ts";
import type { WholeFile } from "./whole-file.ts";

/**
 * Writes a 16-bit TIFF strip by strip, as it is (TIFF 6.0, part 1): packing photographs of 16 bits takes longer than computing them and
 * saves a tenth, since their lowest bits are noise.
 */
export async function writeTiffFile(
  file: WholeFile,
  format: PrintFormat,
  bands: Iterable<Band>,
  icc: Uint8Array,
  metadata: Directory | null,
): Promise<void> {
  const lengths: number[] = [];
  const offsets: number[] = [];
  let end = 8;
  await file.append(tiffHeader(0));
  let writing: Promise<void> = Promise.resolve();
  for (const band of bands) {
    // One strip is written while the next is computed.
    await writing;
    const bytes = littleEndian(band);
    offsets.push(end);
    lengths.push(bytes.length);
    writing = file.writeAt(bytes, end);
    // Its failure is thrown where it is waited for.
    writing.catch(() => undefined);
    end += bytes.length;
  }
  await writing;
  const { channels } = format;
  const fields: Field[] = [
    { tag: 256, type: "long", values: [format.width] },
    { tag: 257, type: "long", values: [format.height] },
    { tag: 258, type: "short", values: new Array<number>(channels).fill(16) },
    { tag: 259, type: "short", values: [1] },
    { tag: 262, type: "short", values: [channels === 1 ? 1 : 2] },
    { tag: 273, type: "long", values: offsets },
    { tag: 277, type: "short", values: [channels] },
    { tag: 278, type: "long", values: [BAND_ROWS] },
    { tag: 279, type: "long", values: lengths },
    { tag: 282, type: "rational", values: [300] },
    { tag: 283, type: "rational", values: [300] },
    { tag: 284, type: "short", values: [1] },
    { tag: 296, type: "short", values: [2] },
    { tag: 34675, type: "undefined", values: Array.from(icc) },
    ...(metadata?.fields ?? []),
  ];
  const { bytes, directoryAt } = writeDirectories({ fields, children: metadata?.children }, end);
  await file.writeAt(bytes, end);
  await file.writeAt(tiffHeader(directoryAt), 0);
}

function littleEndian({ codes }: Band): Uint8Array {
  const bytes = Buffer.from(codes.buffer, codes.byteOffset, codes.byteLength);
  return endianness() === "LE" ? bytes : bytes.swap16();
}
