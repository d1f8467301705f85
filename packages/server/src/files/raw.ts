import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import {
  cameraToWorking,
  correlatedTemperature,
  D65,
  invert3,
  LIGHT_SOURCE_KELVIN,
  multiply3,
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
import { readDngTags } from "./dng-tags.ts";

const MAXIMUM_PIXELS = 220e6;
/** LibRaw's flip codes as clockwise quarter turns. */
const QUARTER_TURNS: Readonly<Record<number, number>> = { 0: 0, 3: 2, 5: 3, 6: 1 };

/** What was unpacked: a mosaic to demosaic here, or, without a Bayer pattern, the unpacker's own linear camera RGB. */
export type Unpacked =
  { readonly info: CaptureInfo; readonly mosaic: Mosaic } | { readonly info: CaptureInfo; readonly rgb: Uint16Array };

let library: Promise<LibRawModule> | undefined;

/**
 * Unpacks any maker's raw file.
 * @throws {AppError} unreadable_file with a reason in words.
 */
export async function unpackRaw(bytes: Uint8Array): Promise<Unpacked> {
  const module = await (library ??= loadLibRaw());
  const raw = new module.LibRaw();
  try {
    raw.open(bytes, {});
    const metadata = raw.metadata(true);
    const tags = readDngTags(bytes);
    const cfa = bayerPattern(metadata.filters);
    checkSize(metadata.raw_width, metadata.raw_height);
    if (!cfa) return unpackLinear(bytes, metadata, module);
    const image = raw.rawImageData();
    const stride = image?.raw_width ?? 0;
    if (!image?.data?.length || image.data.length < stride * image.raw_height || image.width < 4 || image.height < 4)
      throw new AppError("unreadable_file", "Expected sensor data but the file holds none.");
    const black = blackLevels(tags.black, tags.blackRepeat, metadata.color_data.black);
    const white = metadata.color_data.maximum || 65535;
    if (!(white > Math.max(...black)))
      throw new AppError(
        "unreadable_file",
        `Expected a white level above black but received ${white} and ${black[0]}.`,
      );
    const info = describe(metadata, cfa, black, white, tags.noiseProfile);
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
    return { info, mosaic };
  } catch (cause) {
    if (cause instanceof AppError) throw cause;
    throw unreadable(cause);
  } finally {
    raw.delete();
  }
}

function unpackLinear(bytes: Uint8Array, metadata: RawMetadata, module: LibRawModule): Unpacked {
  const image = developByUnpacker(bytes, module);
  const info = describe(metadata, null, [0, 0, 0, 0], 65535, null);
  // The unpacker has already turned it upright.
  return { info: { ...info, width: image.width, height: image.height, quarterTurns: 0 }, rgb: image.rgb };
}

function developByUnpacker(bytes: Uint8Array, module: LibRawModule) {
  const raw = new module.LibRaw();
  try {
    raw.open(bytes, {
      outputBps: 16,
      outputColor: 0,
      useCameraMatrix: 0,
      useCameraWb: true,
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
  return createLibRaw({ wasmBinary: readFileSync(file), print: () => undefined, printErr: () => undefined });
}

function describe(
  m: RawMetadata,
  cfa: string | null,
  black: readonly number[],
  white: number,
  noiseProfile: readonly number[] | null,
): CaptureInfo {
  const turns = QUARTER_TURNS[m.flip] ?? 0;
  const width = cfa ? m.iwidth & ~1 : m.iwidth;
  const height = cfa ? m.iheight & ~1 : m.iheight;
  return {
    kind: "raw",
    width: turns & 1 ? height : width,
    height: turns & 1 ? width : height,
    quarterTurns: turns,
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
    neutral: neutralOf(m),
    calibrations: usable(calibrationsOf(m), neutralOf(m)),
    noise: noiseOfProfile(noiseProfile),
    clipped: null,
    headroomStops: 0,
    grey: false,
    demosaic: cfa ? "directional" : "unpacker",
  };
}

function neutralOf({ color_data: { cam_mul, dng_levels } }: RawMetadata): Vector3 {
  const stated = dng_levels?.asshotneutral?.slice(0, 3) ?? [];
  const neutral = stated.every((v) => v > 0) && stated.length === 3 ? stated : cam_mul.slice(0, 3).map((v) => 1 / v);
  if (!neutral.every((v) => v > 0 && Number.isFinite(v))) return [1, 1, 1];
  const top = Math.max(...neutral);
  return [neutral[0] / top, neutral[1] / top, neutral[2] / top];
}

function calibrationsOf({ color_data: { dng_color, cam_xyz, rgb_cam } }: RawMetadata): Calibration[] {
  const stated = (dng_color ?? [])
    .map(({ illuminant, colormatrix }) => ({
      xyzToCamera: colormatrix.slice(0, 3).flat() as unknown as Matrix3,
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

function blackLevels(
  stated: readonly number[] | null,
  [rows, columns]: readonly [number, number],
  fallback: number,
): [number, number, number, number] {
  if (!stated || stated.length < rows * columns) return [fallback, fallback, fallback, fallback];
  const at = (y: number, x: number) => stated[(y % rows) * columns + (x % columns)];
  return [at(0, 0), at(0, 1), at(1, 0), at(1, 1)];
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
