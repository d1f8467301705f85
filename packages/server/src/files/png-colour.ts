import { open } from "node:fs/promises";
import { inflate } from "node:zlib";
import { promisify } from "node:util";
import {
  adaptWhite,
  D65,
  GAMMA22_TRANSFER,
  multiply3,
  REC2020,
  REC709,
  rgbSpace,
  SRGB_TRANSFER,
  type Matrix3,
  type Transfer,
} from "@yelm/core";
import { AppError } from "../errors.ts";

/** What a PNG itself says its codes mean. */
export interface PngColour {
  /** Code 0–1 → linear light 0–1. */
  readonly decode: Transfer["decode"];
  /** Linear colour of the file → linear Rec.2020 (D65). */
  readonly toWorking: Matrix3;
}

/** Chunks looked at, and bytes of a profile once it is unpacked: the largest there are stay well below. */
const MAXIMUM_CHUNKS = 1000;
const MAXIMUM_PROFILE_BYTES = 32 * 2 ** 20;
const MAXIMUM_PACKED_BYTES = 32 * 2 ** 20;

/** ITU-T H.273 (PNG 3rd edition, 11.3.2.6): primaries and transfers that a still picture uses. */
const PRIMARIES: Readonly<Record<number, Matrix3>> = {
  1: multiply3(REC2020.fromXyz, REC709.toXyz),
  9: [1, 0, 0, 0, 1, 0, 0, 0, 1],
  12: multiply3(REC2020.fromXyz, rgbSpace([0.68, 0.32], [0.265, 0.69], [0.15, 0.06], D65).toXyz),
};
const camera709: Transfer["decode"] = (c) => (c < 0.081 ? c / 4.5 : ((c + 0.099) / 1.099) ** (1 / 0.45));
const TRANSFERS: Readonly<Record<number, Transfer["decode"]>> = {
  1: camera709,
  4: GAMMA22_TRANSFER.decode,
  8: (c) => c,
  13: SRGB_TRANSFER.decode,
  14: camera709,
  15: camera709,
};

/**
 * Reads the colour chunks before a PNG's pixels, in the order of their authority: cICP, then a profile (left to the
 * profile's reader), then sRGB, then gAMA with cHRM (PNG 3rd edition, 4.3).
 * @returns null when there is a profile, or nothing is said.
 * @throws {AppError} unsupported_file for light that is no print's, too_large for a profile that unpacks without end.
 */
export async function readPngColour(path: string): Promise<PngColour | null> {
  const chunks = await readChunks(path);
  const coded = chunks.get("cICP");
  if (coded && coded.length >= 4) {
    const [primaries, transfer] = coded;
    if (!Object.hasOwn(TRANSFERS, transfer) || !Object.hasOwn(PRIMARIES, primaries))
      throw new AppError(
        "unsupported_file",
        `Expected a PNG for a screen or for print but its light is coded otherwise (primaries ${primaries}, transfer ${transfer}).`,
        { hint: "Export it with a usual profile, or as 16-bit TIFF." },
      );
    return { decode: TRANSFERS[transfer], toWorking: PRIMARIES[primaries] };
  }
  const profile = chunks.get("iCCP");
  if (profile) {
    await checkProfile(profile);
    return null;
  }
  const gamma = chunks.get("gAMA");
  if (chunks.has("sRGB") || !gamma || gamma.length < 4) return null;
  const exponent = 100000 / Math.max(1, gamma.readUInt32BE(0));
  const decode = (c: number) => c ** exponent;
  return { decode, toWorking: chromaticities(chunks.get("cHRM")) ?? PRIMARIES[1] };
}

function chromaticities(chunk: Buffer | undefined): Matrix3 | null {
  if (!chunk || chunk.length < 32) return null;
  const at = (i: number) => [chunk.readUInt32BE(8 * i) / 100000, chunk.readUInt32BE(8 * i + 4) / 100000] as const;
  const [white, red, green, blue] = [at(0), at(1), at(2), at(3)];
  try {
    const toWorking = multiply3(
      REC2020.fromXyz,
      multiply3(adaptWhite(white, D65), rgbSpace(red, green, blue, white).toXyz),
    );
    return toWorking.every(Number.isFinite) ? toWorking : null;
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
}

async function checkProfile(chunk: Buffer): Promise<void> {
  const start = chunk.indexOf(0) + 2;
  try {
    await promisify(inflate)(chunk.subarray(start), { maxOutputLength: MAXIMUM_PROFILE_BYTES });
  } catch (error) {
    if ((error as { code?: string }).code === "ERR_BUFFER_TOO_LARGE") throw tooLarge();
    // A profile that cannot be unpacked is no profile; the decoder says what it makes of the file.
  }
}

const tooLarge = () =>
  new AppError("too_large", `Expected a profile of at most ${MAXIMUM_PROFILE_BYTES / 2 ** 20} MiB in the PNG.`, {
    hint: "Export it again with a usual profile.",
  });

async function readChunks(path: string): Promise<Map<string, Buffer>> {
  const found = new Map<string, Buffer>();
  const file = await open(path);
  try {
    const head = Buffer.alloc(8);
    let at = 8;
    for (let i = 0; i < MAXIMUM_CHUNKS; i++) {
      if ((await file.read(head, 0, 8, at)).bytesRead < 8) break;
      const length = head.readUInt32BE(0);
      const type = head.toString("latin1", 4, 8);
      if (type === "IDAT" || type === "IEND") break;
      if (["cICP", "iCCP", "sRGB", "gAMA", "cHRM"].includes(type)) {
        if (length > MAXIMUM_PACKED_BYTES) throw tooLarge();
        const data = Buffer.alloc(length);
        const { bytesRead } = await file.read(data, 0, length, at + 8);
        found.set(type, data.subarray(0, bytesRead));
      }
      at += 12 + length;
    }
    return found;
  } finally {
    await file.close();
  }
}
