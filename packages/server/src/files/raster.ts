import { readMatrixProfile, REC709_TO_REC2020, SRGB_TRANSFER, type CaptureInfo, type KernelHeap } from "@yelm/core";
import exifr from "exifr";
import sharp from "sharp";
import { AppError } from "../errors.ts";

const MAXIMUM_PIXELS = 220e6;
const BAND_ROWS = 64;

/** A TIFF, PNG or JPEG, decoded upright into 16-bit codes, with what makes light of them. */
export interface Raster {
  readonly info: CaptureInfo;
  readonly codes: Uint16Array;
  /** Code → linear light for each channel, 65536 entries. */
  readonly decode: readonly Float32Array[];
  /** Linear light of the file's own space → the working space, row-major. */
  readonly matrix: Float32Array;
}

/**
 * Decodes a raster file.
 * @throws {AppError} unreadable_file, unsupported_file or too_large.
 */
export async function readRaster(path: string): Promise<Raster> {
  const metadata = await sharp(path, { limitInputPixels: MAXIMUM_PIXELS, failOn: "error" }).metadata().catch(fail);
  if (!["tiff", "png", "jpeg"].includes(metadata.format))
    throw new AppError("unsupported_file", `Expected TIFF, PNG or JPEG but received ${metadata.format}.`);
  const profile = metadata.icc ? readMatrixProfile(metadata.icc) : null;
  const colours = metadata.channels - (metadata.hasAlpha ? 1 : 0);
  const own = profile !== null && profile.curves.length === colours;
  // A matrix profile is applied here, so that no colour is lost to a smaller space on the way; any other by the decoder.
  const image = sharp(path, { limitInputPixels: MAXIMUM_PIXELS, failOn: "error", ignoreIcc: own })
    .autoOrient()
    .flatten({ background: "white" })
    .toColourspace("rgb16")
    .raw({ depth: "ushort" });
  const { data, info } = await image.toBuffer({ resolveWithObject: true }).catch(fail);
  const exif = ((await exifr.parse(path, { tiff: true, exif: true }).catch(() => undefined)) ?? {}) as Exif;
  const grey = info.channels === 1;
  const codes = new Uint16Array(data.buffer, data.byteOffset, data.byteLength / 2);
  const standard = profile === null || !own;
  const tables = standard ? [SRGB_DECODE()] : profile.curves.map(decodeTable);
  return {
    codes: grey ? tripled(codes) : codes,
    decode: tables.length === 3 ? tables : [tables[0], tables[0], tables[0]],
    matrix: standard ? REC709_MATRIX : Float32Array.from(profile.toWorking),
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
      grey: colours === 1 || isGrey(codes),
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
 * @param decode - code 0–65535 → linear light, one table for each channel.
 * @param matrix - to the working space, row-major.
 */
export function pushInterleaved(
  heap: KernelHeap,
  codes: Uint16Array,
  width: number,
  height: number,
  decode: readonly Float32Array[],
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
      const table = decode[c];
      for (let i = 0, from = 3 * top * width + c; i < n; i++, from += 3) plane[i] = table[codes[from]];
    });
    heap.kernels.applyMatrix(planes[0], planes[1], planes[2], n, m);
    const out = new Float32Array(3 * n);
    planes.forEach((pointer, c) => out.set(heap.floats(pointer, n), c * n));
    heap.release(mark);
    push(out, rows);
  }
}

const SRGB_DECODE = (): Float32Array => Float32Array.from({ length: 65536 }, (_, c) => SRGB_TRANSFER.decode(c / 65535));
export const LINEAR_DECODE = (): Float32Array => Float32Array.from({ length: 65536 }, (_, c) => c / 65535);
const REC709_MATRIX = Float32Array.from(REC709_TO_REC2020);

const decodeTable = (curve: (code: number) => number): Float32Array =>
  Float32Array.from({ length: 65536 }, (_, c) => curve(c / 65535));

/** Codes that differ by less than this between channels are one grey. */
const GREY_TOLERANCE = 300;
const GREY_SAMPLES = 60_000;

/** Whether a picture of three channels holds no colour, looked at in places all over it. */
function isGrey(codes: Uint16Array): boolean {
  const pixels = codes.length / 3;
  const step = Math.max(1, Math.floor(pixels / GREY_SAMPLES));
  for (let i = 0; i < pixels; i += step) {
    const [r, g, b] = [codes[3 * i], codes[3 * i + 1], codes[3 * i + 2]];
    if (Math.max(r, g, b) - Math.min(r, g, b) > GREY_TOLERANCE) return false;
  }
  return true;
}

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
