import { promisify } from "node:util";
import { constants, deflate } from "node:zlib";
import { tiffHeader, writeDirectories, type Directory, type Field } from "@yelm/core";
import { BAND_ROWS, type Band, type PrintFormat } from "./print-bands.ts";
import type { WholeFile } from "./whole-file.ts";

const compress = promisify(deflate);
/** Differences of a photograph hardly repeat: looking for runs only is six times as fast and packs no worse. */
const STRATEGY = { level: 1, strategy: constants.Z_RLE };
/** Strips that are compressed while the next band is computed. */
const UNDER_WAY = 3;

/** Writes a 16-bit TIFF strip by strip, deflated with horizontal differencing (TIFF 6.0, section 14). */
export async function writeTiffFile(
  file: WholeFile,
  format: PrintFormat,
  bands: Iterable<Band>,
  icc: Uint8Array,
  metadata: Directory | null,
): Promise<void> {
  const lengths: number[] = [];
  const offsets: number[] = [];
  const pending: Promise<Uint8Array>[] = [];
  let end = 8;
  await file.append(tiffHeader(0));
  const keep = async (strip: Promise<Uint8Array>) => {
    const bytes = await strip;
    await file.writeAt(bytes, end);
    offsets.push(end);
    lengths.push(bytes.length);
    end += bytes.length + (bytes.length & 1);
  };
  for (const band of bands) {
    const strip = compress(differences(band, format), STRATEGY);
    // Its failure is thrown where it is waited for, even when an earlier one fails first.
    strip.catch(() => undefined);
    pending.push(strip);
    if (pending.length >= UNDER_WAY) await keep(pending.shift()!);
  }
  for (const strip of pending) await keep(strip);
  const { channels } = format;
  const fields: Field[] = [
    { tag: 256, type: "long", values: [format.width] },
    { tag: 257, type: "long", values: [format.height] },
    { tag: 258, type: "short", values: new Array<number>(channels).fill(16) },
    { tag: 259, type: "short", values: [8] },
    { tag: 262, type: "short", values: [channels === 1 ? 1 : 2] },
    { tag: 273, type: "long", values: offsets },
    { tag: 277, type: "short", values: [channels] },
    { tag: 278, type: "long", values: [BAND_ROWS] },
    { tag: 279, type: "long", values: lengths },
    { tag: 282, type: "rational", values: [300] },
    { tag: 283, type: "rational", values: [300] },
    { tag: 284, type: "short", values: [1] },
    { tag: 296, type: "short", values: [2] },
    { tag: 317, type: "short", values: [2] },
    { tag: 34675, type: "undefined", values: Array.from(icc) },
    ...(metadata?.fields ?? []),
  ];
  const { bytes, directoryAt } = writeDirectories({ fields, children: metadata?.children }, end);
  await file.writeAt(bytes, end);
  await file.writeAt(tiffHeader(directoryAt), 0);
}

function differences({ codes, rows }: Band, { width, channels }: PrintFormat): Uint8Array {
  const strip = codes as Uint16Array;
  const row = width * channels;
  for (let y = 0; y < rows; y++)
    for (let i = (y + 1) * row - 1; i >= y * row + channels; i--) strip[i] -= strip[i - channels];
  return new Uint8Array(strip.buffer, strip.byteOffset, strip.byteLength);
}
