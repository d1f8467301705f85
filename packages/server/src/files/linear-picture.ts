import { readFile } from "node:fs/promises";
import {
  cameraToWorking,
  clippedShares,
  developPlan,
  PyramidBuilder,
  type CaptureInfo,
  type KernelHeap,
  type TileSink,
} from "@yelm/core";
import { AppError } from "../errors.ts";
import { BandHelpers } from "./band-helpers.ts";
import { readDngTags } from "./dng-tags.ts";
import { FinishedPicture } from "./finished-picture.ts";
import { isGrey, linearDecode, readRaster } from "./raster.ts";
import { unpackRaw, type Unpacked } from "./raw.ts";

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

/** How a capture is opened. */
export interface Opening {
  /** Threads that help to develop it; none unless stated. */
  readonly helping?: number;
  /** Whether the noise of finished colours is smoothed; it is unless stated. A mosaic's always is. */
  readonly smooth?: boolean;
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
  { helping = 0, smooth = true }: Opening = {},
): Promise<{ info: CaptureInfo; timings: OpenTimings }> {
  const started = performance.now();
  const bytes = await readFile(path);
  if (bytes.length === 0)
    throw new AppError("unreadable_file", "Expected a picture but the file is empty.", { hint: "Copy it again." });
  // Others start while the file is unpacked.
  const helpers = new BandHelpers(helping, bytes.length);
  try {
    if (sniff(bytes, fileName) === "raster") return await openRaster(heap, path, sink, smooth, helpers, started);
    const opened = await unpackRaw(bytes);
    const unpacked = performance.now();
    // What has no mosaic holds finished colours, too.
    const told = "rgb" in opened ? { ...opened, info: { ...opened.info, smoothed: smooth } } : opened;
    const info = await developRaw(heap, told, sink(told.info), helpers);
    return { info, timings: { unpackMs: unpacked - started, demosaicMs: performance.now() - unpacked } };
  } finally {
    await helpers.close();
  }
}

async function openRaster(
  heap: KernelHeap,
  path: string,
  sink: (info: CaptureInfo) => TileSink,
  smooth: boolean,
  helpers: BandHelpers,
  started: number,
): Promise<{ info: CaptureInfo; timings: OpenTimings }> {
  const raster = await readRaster(path);
  const info = { ...raster.info, smoothed: smooth };
  const builder = new PyramidBuilder(heap, info, sink(info));
  const picture = new FinishedPicture(heap, { ...raster, info }, builder, helpers);
  let unpackMs = performance.now() - started;
  let grey = true;
  let asked = performance.now();
  for await (const { codes, rows } of raster.rows(heap)) {
    unpackMs += performance.now() - asked;
    grey &&= isGrey(codes);
    await picture.push(codes, rows);
    asked = performance.now();
  }
  const halvedColour = raster.halvedColour();
  return {
    info: { ...info, grey, halvedColour },
    timings: { unpackMs, demosaicMs: performance.now() - started - unpackMs },
  };
}

/** Unpacked sensor data → tiles, and what was measured of it. */
export async function developRaw(
  heap: KernelHeap,
  opened: Unpacked,
  sink: TileSink,
  helpers = new BandHelpers(0),
): Promise<CaptureInfo> {
  const { info } = opened;
  const builder = new PyramidBuilder(heap, info, sink);
  if ("rgb" in opened) {
    const matrix = Float32Array.from(cameraToWorking(info.calibrations, info.neutral ?? [1, 1, 1]));
    const decode = opened.gains.map(linearDecode);
    await new FinishedPicture(heap, { info, decode, matrix }, builder, helpers).push(opened.rgb, info.height);
    return info;
  }
  const plan = developPlan(opened.mosaic, info);
  await helpers.develop(heap, plan, (band) => builder.pushBand(band));
  const { noise, gains, mosaic } = plan;
  return { ...info, noise, clipped: clippedShares(heap, mosaic), headroomStops: Math.log2(Math.max(...gains)) };
}
