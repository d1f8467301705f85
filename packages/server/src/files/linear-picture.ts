import { readFile } from "node:fs/promises";
import {
  balanceGains,
  cameraToWorking,
  CHROMA_BORDER,
  clippedShares,
  demosaicRows,
  measureNoise,
  orientMosaic,
  PyramidBuilder,
  REC2020,
  scaleNoise,
  smoothChroma,
  transform3,
  transpose3,
  type CaptureInfo,
  type KernelHeap,
  type TileSink,
} from "@yelm/core";
import { AppError } from "../errors.ts";
import { readDngTags } from "./dng-tags.ts";
import { isGrey, linearDecode, pushInterleaved, readRaster } from "./raster.ts";
import { unpackRaw, type Unpacked } from "./raw.ts";

const BAND_ROWS = 384;

/** Milliseconds of each step of opening a capture. */
export interface OpenTimings {
  unpackMs: number;
  demosaicMs: number;
}

/** Pictures that are not taken, by their first bytes: they are refused by name. */
const OTHER_KINDS: readonly (readonly [string, RegExp])[] = [
  ["BigTIFF", /^(II\+\0|MM\0\+)/],
  ["WebP", /^RIFF[^]{4}WEBP/],
  ["GIF", /^GIF8/],
  ["HEIC or AVIF", /^[^]{4}ftyp(hei|hev|mif1|msf1|avi)/],
  ["BMP", /^BM[^]{4}\0\0\0\0/],
  ["JPEG XL", /^[^]{4}JXL /],
  ["JPEG 2000", /^[^]{4}jP /],
  ["PDF", /^%PDF/],
];

/** What a file is, by what is in it; its name decides only where a TIFF could be either. */
export function sniff(bytes: Uint8Array, fileName: string): "raw" | "raster" {
  const ascii = String.fromCharCode(...bytes.subarray(0, 12));
  const other = OTHER_KINDS.find(([, pattern]) => pattern.test(ascii));
  if (other)
    throw new AppError("unsupported_file", `Expected a raw file, TIFF, PNG or JPEG but received ${other[0]}.`, {
      hint: "Convert it to 16-bit TIFF, or bring in the camera's raw file.",
    });
  if (bytes[0] === 0xff && bytes[1] === 0xd8) return "raster";
  if (ascii.startsWith("\x89PNG")) return "raster";
  if (!/^(II\*|MM\0\*)/.test(ascii)) return "raw";
  return /\.tiff?$/i.test(fileName) && !readDngTags(bytes).isRaw ? "raster" : "raw";
}

/**
 * Opens a capture: file → linear Rec.2020, balanced as shot, upright, as pyramid tiles.
 * @param sink - made once the size is known; receives every tile.
 * @throws {AppError} with the reason when the file cannot be read.
 */
export async function openCapture(
  heap: KernelHeap,
  path: string,
  fileName: string,
  sink: (info: CaptureInfo) => TileSink,
): Promise<{ info: CaptureInfo; timings: OpenTimings }> {
  const started = performance.now();
  const bytes = await readFile(path);
  if (bytes.length === 0)
    throw new AppError("unreadable_file", "Expected a picture but the file is empty.", { hint: "Copy it again." });
  if (sniff(bytes, fileName) === "raster") {
    const raster = await readRaster(path);
    const { info, decode, matrix } = raster;
    const builder = new PyramidBuilder(heap, info, sink(info));
    let unpackMs = performance.now() - started;
    let grey = true;
    let asked = performance.now();
    for await (const { codes, rows } of raster.rows()) {
      unpackMs += performance.now() - asked;
      grey &&= isGrey(codes);
      pushInterleaved(heap, codes, info.width, rows, decode, matrix, (planes, count) => builder.push(planes, count));
      asked = performance.now();
    }
    return { info: { ...info, grey }, timings: { unpackMs, demosaicMs: performance.now() - started - unpackMs } };
  }
  const opened = await unpackRaw(bytes);
  const unpacked = performance.now();
  const info = developRaw(heap, opened, sink(opened.info));
  return { info, timings: { unpackMs: unpacked - started, demosaicMs: performance.now() - unpacked } };
}

/** Unpacked sensor data → tiles, and what was measured of it. */
export function developRaw(heap: KernelHeap, opened: Unpacked, sink: TileSink): CaptureInfo {
  const { info } = opened;
  const neutral = info.neutral ?? [1, 1, 1];
  const builder = new PyramidBuilder(heap, info, sink);
  const camera = cameraToWorking(info.calibrations, neutral);
  const matrix = Float32Array.from(camera);
  if ("rgb" in opened) {
    const tables = opened.gains.map(linearDecode);
    pushInterleaved(heap, opened.rgb, info.width, info.height, tables, matrix, (p, rows) => builder.push(p, rows));
    return info;
  }
  const mosaic = orientMosaic(opened.mosaic, info.quarterTurns, info.mirrored);
  const gains = balanceGains(neutral);
  const noise = info.noise ?? measureNoise(mosaic);
  const balanced = noise && scaleNoise(noise, gains);
  const luminance = transform3(transpose3(camera), REC2020.luminance);
  for (let top = 0; top < mosaic.height; top += BAND_ROWS) {
    const rows = Math.min(BAND_ROWS, mosaic.height - top);
    // Smoothing looks beyond the band, so it is given more rows than are taken.
    const first = balanced ? Math.max(0, top - CHROMA_BORDER) : top;
    const end = balanced ? Math.min(mosaic.height, top + rows + CHROMA_BORDER) : top + rows;
    const n = mosaic.width * (end - first);
    const mark = heap.mark();
    const planes = demosaicRows(heap, mosaic, gains, first, end - first, "directional", balanced);
    const [red, green, blue] = [planes, planes + 4 * n, planes + 8 * n];
    heap.kernels.reconstructHighlights(red, green, blue, n, ...gains);
    if (balanced) smoothChroma(heap, planes, mosaic.width, end - first, balanced, luminance);
    heap.kernels.applyMatrix(red, green, blue, n, heap.place(matrix));
    builder.push(takeRows(heap, [red, green, blue], mosaic.width, top - first, rows), rows);
    heap.release(mark);
  }
  return { ...info, noise, clipped: clippedShares(mosaic), headroomStops: Math.log2(Math.max(...gains)) };
}

function takeRows(heap: KernelHeap, planes: readonly number[], width: number, first: number, rows: number) {
  const out = new Float32Array(3 * width * rows);
  planes.forEach((plane, c) => out.set(heap.floats(plane + 4 * width * first, width * rows), c * width * rows));
  return out;
}
