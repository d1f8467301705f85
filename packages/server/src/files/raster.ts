import { REC709_TO_REC2020, SRGB_TRANSFER, type CaptureInfo, type KernelHeap } from "@yelm/core";
import exifr from "exifr";
import sharp from "sharp";
import { AppError } from "../errors.ts";

const MAXIMUM_PIXELS = 220e6;
const BAND_ROWS = 64;

/** A TIFF, PNG or JPEG, decoded upright into 16-bit sRGB codes through its own profile. */
export interface Raster {
  readonly info: CaptureInfo;
  readonly codes: Uint16Array;
}

/**
 * Decodes a raster file.
 * @throws {AppError} unreadable_file, unsupported_file or too_large.
 */
export async function readRaster(path: string): Promise<Raster> {
  const metadata = await sharp(path, { limitInputPixels: MAXIMUM_PIXELS, failOn: "error" }).metadata().catch(fail);
  if (!["tiff", "png", "jpeg"].includes(metadata.format))
    throw new AppError("unsupported_file", `Expected TIFF, PNG or JPEG but received ${metadata.format}.`);
  const image = sharp(path, { limitInputPixels: MAXIMUM_PIXELS, failOn: "error" })
    .autoOrient()
    .flatten({ background: "white" })
    .toColourspace("rgb16")
    .raw({ depth: "ushort" });
  const { data, info } = await image.toBuffer({ resolveWithObject: true }).catch(fail);
  const exif = ((await exifr.parse(path, { tiff: true, exif: true }).catch(() => undefined)) ?? {}) as Exif;
  const grey = info.channels === 1;
  const codes = new Uint16Array(data.buffer, data.byteOffset, data.byteLength / 2);
  return {
    codes: grey ? tripled(codes) : codes,
    info: {
      kind: metadata.format as "tiff" | "png" | "jpeg",
      width: info.width,
      height: info.height,
      quarterTurns: 0,
      make: exif.Make ?? "",
      model: exif.Model ?? "",
      lens: exif.LensModel ?? "",
      iso: exif.ISO ?? null,
      shutterSeconds: exif.ExposureTime ?? null,
      fNumber: exif.FNumber ?? null,
      focalLengthMm: exif.FocalLength ?? null,
      takenAt: exif.DateTimeOriginal instanceof Date ? exif.DateTimeOriginal.toISOString().slice(0, 19) : null,
      cfa: null,
      black: null,
      white: null,
      neutral: null,
      calibrations: [],
      noise: null,
      clipped: null,
      headroomStops: 0,
      demosaic: "none",
    },
  };
}

interface Exif {
  readonly Make?: string;
  readonly Model?: string;
  readonly LensModel?: string;
  readonly ISO?: number;
  readonly ExposureTime?: number;
  readonly FNumber?: number;
  readonly FocalLength?: number;
  readonly DateTimeOriginal?: unknown;
}

/**
 * Hands interleaved 16-bit codes on as bands of linear working planes.
 * @param decode - code 0–65535 → linear light.
 * @param matrix - to the working space, row-major.
 */
export function pushInterleaved(
  heap: KernelHeap,
  codes: Uint16Array,
  width: number,
  height: number,
  decode: Float32Array,
  matrix: Float32Array,
  push: (planes: Float32Array, rows: number) => void,
): void {
  for (let top = 0; top < height; top += BAND_ROWS) {
    const rows = Math.min(BAND_ROWS, height - top);
    const n = width * rows;
    const mark = heap.mark();
    const m = heap.place(matrix);
    const planes = [heap.allocate(4 * n), heap.allocate(4 * n), heap.allocate(4 * n)];
    planes.forEach((pointer, c) => {
      const plane = heap.floats(pointer, n);
      for (let i = 0, from = 3 * top * width + c; i < n; i++, from += 3) plane[i] = decode[codes[from]];
    });
    heap.kernels.applyMatrix(planes[0], planes[1], planes[2], n, m);
    const out = new Float32Array(3 * n);
    planes.forEach((pointer, c) => out.set(heap.floats(pointer, n), c * n));
    heap.release(mark);
    push(out, rows);
  }
}

export const SRGB_DECODE = (): Float32Array =>
  Float32Array.from({ length: 65536 }, (_, c) => SRGB_TRANSFER.decode(c / 65535));
export const LINEAR_DECODE = (): Float32Array => Float32Array.from({ length: 65536 }, (_, c) => c / 65535);
export const REC709_MATRIX = Float32Array.from(REC709_TO_REC2020);

function tripled(codes: Uint16Array): Uint16Array {
  const out = new Uint16Array(3 * codes.length);
  codes.forEach((code, i) => out.fill(code, 3 * i, 3 * i + 3));
  return out;
}

function fail(cause: unknown): never {
  const text = cause instanceof Error ? cause.message : String(cause);
  if (/pixel limit/i.test(text))
    throw new AppError(
      "too_large",
      `Expected at most ${MAXIMUM_PIXELS / 1e6} MP but the picture is larger.`,
      {},
      { cause },
    );
  throw new AppError(
    "unreadable_file",
    "Expected a whole TIFF, PNG or JPEG but its contents are broken or cut short.",
    { hint: "Open it elsewhere to see whether it is whole, or copy it again." },
    { cause },
  );
}
