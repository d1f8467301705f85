import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import {
  balanceGains,
  cameraToWorking,
  correlatedTemperature,
  D65,
  diagonal3,
  invert3,
  LIGHT_SOURCE_KELVIN,
  multiply3,
  neutralOfWhite,
  noiseOfProfile,
  REC709,
  type Calibration,
  type CaptureInfo,
  type Matrix3,
  type Mosaic,
  type Vector3,
} from "@yelm/core";
import createLibRaw, { type LibRawModule, type RawMetadata } from "libraw-wasm/dist/libraw.js";
import { AppError } from "../errors.ts";
import { readDngTags, type DngTags } from "./dng-tags.ts";
import { readExif } from "./exif.ts";

const MAXIMUM_PIXELS = 220e6;
/** LibRaw's flip codes: mirrored left to right first, then turned clockwise. */
const UPRIGHT: Readonly<Record<number, { readonly mirrored: boolean; readonly turns: number }>> = {
  0: { mirrored: false, turns: 0 },
  1: { mirrored: true, turns: 0 },
  2: { mirrored: true, turns: 2 },
  3: { mirrored: false, turns: 2 },
  4: { mirrored: true, turns: 3 },
  5: { mirrored: false, turns: 3 },
  6: { mirrored: false, turns: 1 },
  7: { mirrored: true, turns: 1 },
};

/**
 * What was unpacked: a mosaic to demosaic here, or, without a Bayer pattern, the unpacker's own linear camera RGB with the gain
 * that makes 1 of white in each of its channels.
 */
export type Unpacked =
  | { readonly info: CaptureInfo; readonly mosaic: Mosaic }
  | { readonly info: CaptureInfo; readonly rgb: Uint16Array; readonly gains: Vector3 };

let library: Promise<LibRawModule> | undefined;
/** What the unpacker has said of the file it is at. */
const said: string[] = [];
/** How it says that data inside a file cannot be decoded, and goes on. */
const DAMAGE = /data corrupted at (\d+)|Unexpected end of file/;

/**
 * Unpacks any maker's raw file. Exposure that a file asks to be shown with (BaselineExposure) is left out: tones are placed
 * against the sensor's saturation, and Shape's exposure is the photographer's.
 * @throws {AppError} unreadable_file with a reason in words.
 */
export async function unpackRaw(bytes: Uint8Array): Promise<Unpacked> {
  const module = await readyUnpacker();
  const raw = new module.LibRaw();
  said.length = 0;
  try {
    raw.open(bytes, {});
    const metadata = raw.metadata(true);
    const tags = readDngTags(bytes);
    const cfa = bayerPattern(metadata.filters);
    checkSize(metadata.raw_width, metadata.raw_height);
    if (!cfa) return unpackLinear(bytes, metadata, tags, module);
    const image = raw.rawImageData();
    checkDamage();
    const stride = image?.raw_width ?? 0;
    if (!image?.data?.length || image.data.length < stride * image.raw_height || image.width < 4 || image.height < 4)
      throw new AppError("unreadable_file", "Expected sensor data but the file holds none.");
    const white = metadata.color_data.maximum || 65535;
    const at = [image.left_margin - tags.activeCorner[0], image.top_margin - tags.activeCorner[1]] as const;
    const levels = blackOf(tags, at, metadata.color_data.black);
    const { black } = levels;
    if (!(white > Math.max(...black)))
      throw new AppError(
        "unreadable_file",
        `Expected a white level above black but received ${white} and ${black[0]}.`,
      );
    const info = await describe(bytes, metadata, tags, { cfa, black, white });
    const red = cfa.indexOf("R");
    // Copied out of the unpacker's memory, which the next file reuses.
    const data = Uint16Array.from(image.data);
    const mosaic: Mosaic = {
      data,
      stride,
      left: image.left_margin,
      top: image.top_margin,
      width: image.width & ~1,
      height: image.height & ~1,
      phase: { redX: (red & 1) as 0 | 1, redY: (red >> 1) as 0 | 1 },
      black,
      white,
    };
    if (levels.each) flattenBlack(mosaic, levels.each);
    return { info, mosaic };
  } catch (cause) {
    if (cause instanceof AppError) throw cause;
    throw unreadable(cause);
  } finally {
    raw.delete();
  }
}

/** The unpacker, which takes some tenths of a second to compile. */
export function readyUnpacker(): Promise<LibRawModule> {
  return (library ??= loadLibRaw());
}

/** Whether anything was said of damage: the picture would have torn places that nobody made. */
function checkDamage(): void {
  const found = said.map((line) => DAMAGE.exec(line)).find((match) => match !== null);
  if (!found) return;
  const where = found[1] ? ` at byte ${found[1]}` : "";
  throw new AppError("unreadable_file", `Expected whole sensor data but they are damaged${where} of the file.`, {
    hint: "Copy it from the card again; where the card's own file is damaged too, its camera's program may save a part.",
  });
}

async function unpackLinear(
  bytes: Uint8Array,
  metadata: RawMetadata,
  tags: DngTags,
  module: LibRawModule,
): Promise<Unpacked> {
  const image = developByUnpacker(bytes, module, tags.isLinear);
  checkDamage();
  const described = await describe(bytes, metadata, tags, { cfa: null, black: [0, 0, 0, 0], white: 65535 });
  // The unpacker has already turned it upright.
  const info = { ...described, width: image.width, height: image.height, quarterTurns: 0, mirrored: false };
  if (!tags.isLinear) return { info, rgb: image.rgb, gains: [1, 1, 1] };
  // The unpacker takes black away but scales as if there were none, and leaves the balance to us.
  const white = metadata.color_data.maximum || 65535;
  const balance = balanceGains(info.neutral ?? [1, 1, 1]);
  const black = tags.black ?? [];
  const gains = balance.map((gain, c) => {
    const level = meanOf(black.filter((_, i) => black.length < 3 || i % 3 === c));
    return level < white ? (gain * white) / (white - level) : gain;
  }) as unknown as Vector3;
  return { info: { ...info, headroomStops: Math.log2(Math.max(...balance)) }, rgb: image.rgb, gains };
}

const meanOf = (values: readonly number[]) => values.reduce((sum, v) => sum + v, 0) / Math.max(1, values.length);

function developByUnpacker(bytes: Uint8Array, module: LibRawModule, unbalanced: boolean) {
  const raw = new module.LibRaw();
  try {
    raw.open(bytes, {
      outputBps: 16,
      outputColor: 0,
      useCameraMatrix: 0,
      ...(unbalanced ? { useCameraWb: false, userMul: [1, 1, 1, 1] } : { useCameraWb: true }),
      noAutoBright: true,
      gamm: [1, 1, 0, 0, 0, 0],
      adjustMaximumThr: 0,
      userQual: 3,
    });
    const image = raw.imageData();
    if (!image?.data?.length || image.colors !== 3)
      throw new AppError("unreadable_file", "Expected three colours but the file's sensor has another layout.");
    return { width: image.width, height: image.height, rgb: Uint16Array.from(image.data) };
  } finally {
    raw.delete();
  }
}

async function loadLibRaw(): Promise<LibRawModule> {
  const file = createRequire(import.meta.url).resolve("libraw-wasm/dist/libraw.wasm");
  return createLibRaw({
    wasmBinary: readFileSync(file),
    print: () => undefined,
    printErr: (line: string) => said.push(line),
  });
}

async function describe(
  bytes: Uint8Array,
  m: RawMetadata,
  tags: DngTags,
  { cfa, black, white }: Pick<CaptureInfo, "cfa" | "black" | "white">,
): Promise<CaptureInfo> {
  const { turns, mirrored } = UPRIGHT[m.flip] ?? UPRIGHT[0];
  const width = cfa ? m.iwidth & ~1 : m.iwidth;
  const height = cfa ? m.iheight & ~1 : m.iheight;
  const stated = calibrationsOf(m, tags);
  const neutral = neutralOf(m, tags, stated);
  const { artist, copyright, caption } = await readExif(bytes);
  return {
    kind: "raw",
    width: turns & 1 ? height : width,
    height: turns & 1 ? width : height,
    quarterTurns: turns,
    ...(mirrored && { mirrored }),
    ...(artist && { artist }),
    ...(copyright && { copyright }),
    ...(caption && { caption }),
    make: m.camera_make ?? "",
    model: m.camera_model ?? "",
    lens: m.lens?.Lens ?? "",
    iso: positive(m.iso_speed),
    shutterSeconds: positive(m.shutter),
    fNumber: positive(m.aperture),
    focalLengthMm: positive(m.focal_len),
    takenAt: m.timestamp > 0 ? new Date(m.timestamp * 1000).toISOString().slice(0, 19) : null,
    cfa,
    black,
    white,
    neutral,
    calibrations: usable(stated, neutral),
    noise: noiseOfProfile(tags.noiseProfile),
    clipped: null,
    headroomStops: 0,
    grey: false,
    demosaic: cfa ? "directional" : "unpacker",
  };
}

function neutralOf(
  { color_data: { cam_mul, dng_levels } }: RawMetadata,
  { whiteXy }: DngTags,
  calibrations: readonly Calibration[],
): Vector3 {
  const stated = dng_levels?.asshotneutral?.slice(0, 3) ?? [];
  if (stated.length === 3 && stated.every((v) => v > 0)) return largestOne(stated);
  if (whiteXy && whiteXy[0] > 0 && whiteXy[1] > 0)
    return largestOne(neutralOfWhite(calibrations, [whiteXy[0], whiteXy[1]]));
  return largestOne(cam_mul.slice(0, 3).map((v) => 1 / v));
}

/** Scaled so that the largest is 1; [1, 1, 1] for what is no neutral. */
function largestOne(neutral: readonly number[]): Vector3 {
  if (!neutral.every((v) => v > 0 && Number.isFinite(v))) return [1, 1, 1];
  const top = Math.max(...neutral);
  return [neutral[0] / top, neutral[1] / top, neutral[2] / top];
}

/** A body's matrix is its model's, times what the body differs by, times the gains before its converter (DNG 1.7, chapter 6). */
function ofBody(model: Matrix3, calibration: readonly number[] | null | undefined, gains: readonly number[] | null) {
  const calibrated = calibration ? multiply3(calibration as unknown as Matrix3, model) : model;
  return gains ? multiply3(diagonal3(gains as unknown as Vector3), calibrated) : calibrated;
}

function calibrationsOf(
  { color_data: { dng_color, cam_xyz, rgb_cam } }: RawMetadata,
  { bodyCalibrations, analogBalance }: DngTags,
): Calibration[] {
  const stated = (dng_color ?? [])
    .map(({ illuminant, colormatrix }, i) => ({
      xyzToCamera: ofBody(colormatrix.slice(0, 3).flat() as unknown as Matrix3, bodyCalibrations[i], analogBalance),
      temperatureK: LIGHT_SOURCE_KELVIN[illuminant] ?? correlatedTemperature(D65),
    }))
    .filter(({ xyzToCamera }) => xyzToCamera.some((v) => v !== 0));
  if (stated.length > 0) return stated;
  const temperatureK = correlatedTemperature(D65);
  const known = cam_xyz.slice(0, 3).flat() as unknown as Matrix3;
  if (known.length === 9 && known.some((v) => v !== 0)) return [{ xyzToCamera: known, temperatureK }];
  // The unpacker's camera → Rec.709 is for balanced channels; its inverse serves as calibration when nothing else does.
  const toRec709 = rgb_cam.map((row) => row.slice(0, 3)).flat() as unknown as Matrix3;
  return [{ xyzToCamera: multiply3(invert3(toRec709), REC709.fromXyz), temperatureK }];
}

/** Largest element of a camera's matrix that is taken for one. */
const LARGEST_ELEMENT = 100;

/** The calibrations, unless they make nonsense of the neutral (a damaged file): then plain Rec.709 stands in. */
function usable(calibrations: readonly Calibration[], neutral: Vector3): readonly Calibration[] {
  try {
    const matrix = cameraToWorking(calibrations, neutral);
    if (matrix.every((v) => Math.abs(v) < LARGEST_ELEMENT)) return calibrations;
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
  }
  return [{ xyzToCamera: REC709.fromXyz, temperatureK: correlatedTemperature(D65) }];
}

/** Four letters of the 2×2 pattern, or null when the filters are not Bayer's. */
function bayerPattern(filters: number): string | null {
  if (filters < 1000) return null;
  const site = (row: number, column: number) => "RGBG"[(filters >>> ((((row << 1) & 14) + (column & 1)) << 1)) & 3];
  for (let row = 0; row < 8; row += 2)
    for (const [r, c] of [
      [0, 0],
      [0, 1],
      [1, 0],
      [1, 1],
    ])
      // prettier-ignore
      if (site(row + r, c) !== site(r, c)) return null;
  const pattern = site(0, 0) + site(0, 1) + site(1, 0) + site(1, 1);
  return [...pattern].sort().join("") === "BGGR" ? pattern : null;
}

/** Black of the four sites at the picture's corner, and, where that does not tell it all, of every site. */
interface Black {
  readonly black: [number, number, number, number];
  readonly each: ((x: number, y: number) => number) | null;
}

/** @param at - the picture's corner, from that of the active area, where the file begins to count. */
function blackOf(tags: DngTags, [left, top]: readonly [number, number], fallback: number): Black {
  const { black: stated, blackAcross, blackDown } = tags;
  const [rows, columns] = tags.blackRepeat;
  if (!stated || stated.length < rows * columns || !(rows > 0 && columns > 0))
    return { black: [fallback, fallback, fallback, fallback], each: null };
  const wrap = (v: number, n: number) => ((v % n) + n) % n;
  const each = (x: number, y: number) =>
    stated[wrap(y + top, rows) * columns + wrap(x + left, columns)] +
    (blackAcross[x + left] ?? 0) +
    (blackDown[y + top] ?? 0);
  const deltas = [...blackAcross, ...blackDown].some((v) => v !== 0);
  if (!deltas && rows <= 2 && columns <= 2)
    return { black: [each(0, 0), each(1, 0), each(0, 1), each(1, 1)], each: null };
  const mean = meanOf(stated) + meanOf(blackAcross) + meanOf(blackDown);
  return { black: [mean, mean, mean, mean], each };
}

/** Brings every site to the mosaic's one black level, so that white stays where it is. In place. */
function flattenBlack(
  { data, stride, left, top, width, height, black, white }: Mosaic,
  each: (x: number, y: number) => number,
) {
  const [level] = black;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = (top + y) * stride + left + x;
      const own = each(x, y);
      if (data[i] >= white || own >= white) continue;
      data[i] = Math.max(0, Math.round(level + ((data[i] - own) * (white - level)) / (white - own)));
    }
}

function checkSize(width: number, height: number): void {
  if (!(width > 0 && height > 0)) throw new AppError("unreadable_file", "Expected a picture but the file has no size.");
  if (width * height > MAXIMUM_PIXELS)
    throw new AppError("too_large", `Expected at most ${MAXIMUM_PIXELS / 1e6} MP but received ${width}×${height}.`);
}

function unreadable(cause: unknown): AppError {
  return new AppError(
    "unreadable_file",
    "Expected a raw file but its contents are broken, cut short or of an unknown kind.",
    { hint: "Copy it from the card again, or open it in the program of its camera to see whether it is whole." },
    { cause },
  );
}

function positive(value: number | undefined): number | null {
  return value !== undefined && value > 0 && Number.isFinite(value) ? value : null;
}
