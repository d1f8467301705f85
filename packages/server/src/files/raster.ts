import {
  halvedCellsOf,
  readMatrixProfile,
  rebuildHalvedColour,
  REC709_TO_REC2020,
  SRGB_TRANSFER,
  type CaptureInfo,
  type KernelHeap,
  type Matrix3,
} from "@yelm/core";
import sharp from "sharp";
import { AppError } from "../errors.ts";
import { readExif } from "./exif.ts";
import { NOISE_OF_FORMER_JPEG, readJpegColour } from "./jpeg-colour.ts";
import { readPngColour, type PngColour } from "./png-colour.ts";
import { isReadable, toWide, WIDE_TRANSFER } from "./wide-profile.ts";

const MAXIMUM_PIXELS = 220e6;
/** Of a picture that is stored turned, which the decoder must hold whole to turn it. */
const MAXIMUM_TURNED_PIXELS = 110e6;
/** Pixels decoded at a time: what is held does not grow with the picture. */
const DECODED_PIXELS = 24e6;

/** Interleaved codes of three channels: bytes of an 8-bit file, 16-bit codes of any other. */
export type Codes = Uint8Array | Uint16Array;

/** A TIFF, PNG or JPEG that can be decoded upright, with what makes light of its codes. */
export interface Raster {
  /** Of which `grey` is known for certain only once every row has been read, and `halvedColour` by the first of them. */
  readonly info: CaptureInfo;
  /** Code → linear light for each channel, one entry for each code. */
  readonly decode: readonly Float32Array[];
  /** Linear light of the file's own space → the working space, row-major. */
  readonly matrix: Float32Array;
  /** Whether its colour is stored at half the resolution of its light, or once was. */
  halvedColour(): boolean;
  /** Variance of its colour by its light, linear, that a JPEG's rounding left at edges; known once the first rows have been read. */
  roundingNoise(): number;
  /** Decodes from top to bottom, some rows at a time. */
  rows(heap: KernelHeap): AsyncGenerator<{ readonly codes: Codes; readonly rows: number }>;
}

/**
 * Opens a raster file; its pixels are decoded as its rows are asked for.
 * @throws {AppError} unreadable_file, unsupported_file or too_large.
 */
export async function readRaster(path: string): Promise<Raster> {
  const metadata = await sharp(path, { limitInputPixels: MAXIMUM_PIXELS, failOn: "error" }).metadata().catch(fail);
  const { format, depth, orientation = 1 } = metadata;
  if (!["tiff", "png", "jpeg"].includes(format))
    throw new AppError("unsupported_file", `Expected TIFF, PNG or JPEG but received ${format}.`);
  if (depth !== "uchar" && depth !== "ushort")
    throw new AppError(
      "unsupported_file",
      `Expected 8 or 16 bits without a sign for each channel but received ${DEPTH_WORDS[depth] ?? depth}.`,
      { hint: "Export it as 16-bit TIFF." },
    );
  if (orientation !== 1 && metadata.width * metadata.height > MAXIMUM_TURNED_PIXELS)
    throw new AppError("too_large", `Expected at most ${MAXIMUM_TURNED_PIXELS / 1e6} MP in a picture stored turned.`, {
      hint: "Turn it upright in another program and save it as TIFF.",
    });
  const colours = metadata.channels - (metadata.hasAlpha ? 1 : 0);
  const said = format === "png" ? await readPngColour(path) : null;
  const meaning = await meaningOf(said, metadata.icc, colours);
  const [width, height] = orientation > 4 ? [metadata.height, metadata.width] : [metadata.width, metadata.height];
  const step = orientation === 1 ? Math.max(4, Math.floor(DECODED_PIXELS / width) & ~3) : height;
  const bits = depth === "uchar" && !meaning.wide ? 8 : 16;
  const table = decodeTable(bits === 8 ? 256 : 65536);
  const tables = meaning.curves.map(table);
  const isJpeg = format === "jpeg" && colours === 3;
  const stored = isJpeg ? await readJpegColour(path, orientation, width, height) : null;
  let { halved, rebuilt } = stored ?? { halved: null, rebuilt: null };

  async function* rows(heap: KernelHeap) {
    for (let top = 0; top < height; top += step) {
      const count = Math.min(step, height - top);
      const open = sharp(path, {
        limitInputPixels: MAXIMUM_PIXELS,
        failOn: "error",
        ignoreIcc: meaning.ours,
        autoOrient: true,
      });
      const part = step < height ? open.extract({ left: 0, top, width, height: count }) : open;
      const flat = part.flatten({ background: "white" });
      const image = depth === "uchar" ? flat.toColourspace("srgb").raw() : flat.toColourspace("rgb16").raw({ depth });
      const { data, info } = await image.toBuffer({ resolveWithObject: true }).catch(fail);
      const decoded: Codes =
        depth === "uchar" ? data : new Uint16Array(data.buffer, data.byteOffset, data.byteLength / 2);
      const codes = info.channels === 1 ? tripled(decoded) : decoded;
      if (codes instanceof Uint8Array) {
        // What was a JPEG once may be stored as anything by now, and what was cut may begin amid a cell.
        if (top === 0 && colours === 3) halved ??= halvedCellsOf(codes, width, count);
        rebuilt ??= halved;
        if (rebuilt) rebuildHalvedColour(heap, codes, width, count, rebuilt);
      }
      const sixteen = () => (codes instanceof Uint16Array ? codes : Uint16Array.from(codes, (code) => 257 * code));
      yield {
        codes: meaning.wide ? await toWide(sixteen(), { width, height: count }, meaning.wide) : codes,
        rows: count,
      };
    }
  }

  return {
    rows,
    halvedColour: () => halved !== null,
    roundingNoise: () => stored?.noise ?? (halved ? NOISE_OF_FORMER_JPEG : 0),
    decode: tables.length === 3 ? tables : [tables[0], tables[0], tables[0]],
    matrix: Float32Array.from(meaning.toWorking),
    info: {
      kind: format as "tiff" | "png" | "jpeg",
      width,
      height,
      quarterTurns: 0,
      ...(await readExif(path)),
      cfa: null,
      black: null,
      white: null,
      neutral: null,
      calibrations: [],
      noise: null,
      clipped: null,
      headroomStops: 0,
      bits: depth === "uchar" ? 8 : 16,
      toWorking: meaning.toWorking,
      halvedColour: halved !== null,
      coarseColour: stored?.coarse ?? false,
      grey: colours === 1,
      demosaic: "none",
    },
  };
}

const DEPTH_WORDS: Readonly<Record<string, string>> = {
  char: "signed 8 bits",
  short: "signed 16 bits",
  uint: "32 bits",
  int: "signed 32 bits",
  float: "floating point",
  double: "floating point of 64 bits",
  complex: "complex numbers",
  dpcomplex: "complex numbers",
};

/** What a file's codes mean. */
interface Meaning {
  /** Code 0–1 → linear light; one for all channels, or three. */
  readonly curves: readonly ((code: number) => number)[];
  readonly toWorking: Matrix3;
  /** True when the decoder shall leave the codes as they are stored. */
  readonly ours: boolean;
  /** A profile that only the colour engine can read; it brings the codes to the wide space. */
  readonly wide: Uint8Array | null;
}

/**
 * A profile of curves and a matrix is applied here, so that no colour is lost to a smaller space on the way; one of tables by
 * the colour engine, into the working space; what has four colours by the decoder.
 */
async function meaningOf(said: PngColour | null, icc: Buffer | undefined, colours: number): Promise<Meaning> {
  if (said) return { curves: [said.decode], toWorking: said.toWorking, ours: true, wide: null };
  const standard = { curves: [SRGB_TRANSFER.decode], toWorking: REC709_TO_REC2020, wide: null };
  if (!icc || colours > 3) return { ...standard, ours: false };
  const profile = readMatrixProfile(icc);
  // Grey under a colour profile is that profile's greys; colour under a grey profile says nothing of its colours.
  if (profile && (profile.model === "rgb" || colours === 1)) return { ...profile, ours: true, wide: null };
  if (!profile && colours === 3 && (await isReadable(icc)))
    return { curves: [WIDE_TRANSFER.decode], toWorking: IDENTITY, ours: true, wide: icc };
  return { ...standard, ours: true };
}

const IDENTITY: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** Codes that are light already, times a gain. */
export const linearDecode = (gain: number): Float32Array =>
  Float32Array.from({ length: 65536 }, (_, c) => (gain * c) / 65535);

const decodeTable =
  (length: number) =>
  (curve: (code: number) => number): Float32Array =>
    Float32Array.from({ length }, (_, c) => curve(c / (length - 1)));

/** Codes that differ by less than this share of the range between channels are one grey. */
const GREY_TOLERANCE = 0.0046;
const GREY_SAMPLES = 20_000;

/** Whether rows of three channels hold no colour, looked at in places all over them. */
export function isGrey(codes: Codes): boolean {
  const pixels = codes.length / 3;
  const tolerance = GREY_TOLERANCE * (codes instanceof Uint8Array ? 255 : 65535);
  const step = Math.max(1, Math.floor(pixels / GREY_SAMPLES));
  for (let i = 0; i < pixels; i += step) {
    const [r, g, b] = [codes[3 * i], codes[3 * i + 1], codes[3 * i + 2]];
    if (Math.max(r, g, b) - Math.min(r, g, b) > tolerance) return false;
  }
  return true;
}

function tripled(codes: Codes): Codes {
  const out = codes instanceof Uint8Array ? new Uint8Array(3 * codes.length) : new Uint16Array(3 * codes.length);
  codes.forEach((code: number, i: number) => out.fill(code, 3 * i, 3 * i + 3));
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
