import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { GAMMA22_TRANSFER, iccProfile, REC2020, writeTiff } from "@yelm/core";
import sharp, { type Sharp } from "sharp";

/** Of the space that colour is brought to where only the colour engine can read a file's profile: the working space's. */
export const WIDE_TRANSFER = GAMMA22_TRANSFER;
let path: string | undefined;

/** The profile as a file: the decoder takes it by path. */
function widePath(): string {
  if (path) return path;
  const folder = mkdtempSync(join(tmpdir(), "yelm-profile-"));
  process.once("exit", () => rmSync(folder, { recursive: true, force: true }));
  path = join(folder, "wide.icc");
  writeFileSync(path, iccProfile({ description: "Yelm wide", transfer: WIDE_TRANSFER, model: "rgb", space: REC2020 }));
  return path;
}

/** 16-bit codes of an RGB picture under a profile → 16-bit codes of the wide space, {@link WIDE_TRANSFER}. */
export async function toWide(
  codes: Uint16Array,
  { width, height }: { width: number; height: number },
  profile: Uint8Array,
): Promise<Uint16Array> {
  const { data } = await tagged(codes, width, height, profile)
    .toColourspace("rgb16")
    .withIccProfile(widePath())
    .raw({ depth: "ushort" })
    .toBuffer({ resolveWithObject: true });
  return new Uint16Array(data.buffer, data.byteOffset, data.byteLength / 2);
}

/** Codes of colours that no two spaces give the same. */
const PROBE = Uint16Array.of(52000, 9000, 21000, 7000, 40000, 60000);

/** Whether the colour engine makes anything of a profile; what it cannot read it leaves as it was. */
export async function isReadable(profile: Uint8Array): Promise<boolean> {
  const wide = await toWide(PROBE, { width: 2, height: 1 }, profile).catch(() => PROBE);
  return wide.some((code, i) => code !== PROBE[i]);
}

/** The pixels as a file in memory: only so can a profile be given to the decoder. */
function tagged(codes: Uint16Array, width: number, height: number, profile: Uint8Array): Sharp {
  const tiff = writeTiff({
    fields: [
      { tag: 256, type: "long", values: [width] },
      { tag: 257, type: "long", values: [height] },
      { tag: 258, type: "short", values: [16, 16, 16] },
      { tag: 259, type: "short", values: [1] },
      { tag: 262, type: "short", values: [2] },
      { tag: 277, type: "short", values: [3] },
      { tag: 278, type: "long", values: [height] },
      { tag: 284, type: "short", values: [1] },
      { tag: 34675, type: "undefined", values: [...profile] },
    ],
    data: {
      offsetTag: 273,
      lengthTag: 279,
      blocks: [new Uint8Array(codes.buffer, codes.byteOffset, codes.byteLength)],
    },
  });
  return sharp(tiff, { ignoreIcc: true, limitInputPixels: false });
}
