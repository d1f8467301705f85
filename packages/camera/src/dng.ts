import sharp from "sharp";
import { neutralOf, type CameraModel, type Pattern } from "./camera.ts";
import { noiseProfile, type RawFrame } from "./expose.ts";
import { encodeLosslessJpeg } from "./lossless-jpeg.ts";
import { ascii, writeTiff, type Directory } from "@yelm/core";
import type { Scene } from "./scene.ts";

const TILE = 512;

/** What the file says of how it was taken. */
export interface ShotMetadata {
  readonly pattern: Pattern;
  readonly iso: number;
  /** Shutter time in seconds and f-number. */
  readonly shutterSeconds: number;
  readonly fNumber: number;
  /** Local time, "YYYY:MM:DD HH:MM:SS". */
  readonly takenAt: string;
  /** EXIF orientation 1–8. */
  readonly orientation: number;
  readonly compress: boolean;
  /** Columns on the left and rows at the top that see no light; even numbers. */
  readonly maskedBorder: readonly [left: number, top: number];
  /** Camera response to white; by default that of D65. */
  readonly neutral?: readonly [number, number, number];
}

export const PLAIN_SHOT: ShotMetadata = {
  pattern: "RGGB",
  iso: 100,
  shutterSeconds: 1 / 125,
  fNumber: 8,
  takenAt: "2026:10:24 16:05:00",
  orientation: 1,
  compress: true,
  maskedBorder: [0, 0],
};

/**
 * Writes a raw frame as DNG 1.4: CFA in lossless JPEG or uncompressed, black and white level, two
 * calibrations, neutral, noise profile, exposure, and a small JPEG preview.
 */
export async function writeDng(
  exposed: RawFrame,
  camera: CameraModel,
  shot: ShotMetadata,
  preview?: Scene,
): Promise<Uint8Array> {
  const { slope, offset } = noiseProfile(camera, shot.iso);
  const [left, top] = shot.maskedBorder;
  const frame = withBorder(exposed, camera, left, top);
  const layout = layOut(frame, camera.bits, shot.compress);
  const raw: Directory = {
    fields: [
      { tag: 254, type: "long", values: [0] },
      { tag: 256, type: "long", values: [frame.width] },
      { tag: 257, type: "long", values: [frame.height] },
      { tag: 258, type: "short", values: [16] },
      { tag: 259, type: "short", values: [shot.compress ? 7 : 1] },
      { tag: 262, type: "short", values: [32803] },
      { tag: 277, type: "short", values: [1] },
      { tag: 284, type: "short", values: [1] },
      { tag: 33421, type: "short", values: [2, 2] },
      { tag: 33422, type: "byte", values: [...shot.pattern].map((letter) => "RGB".indexOf(letter)) },
      { tag: 50710, type: "byte", values: [0, 1, 2] },
      { tag: 50711, type: "short", values: [1] },
      { tag: 50713, type: "short", values: [2, 2] },
      { tag: 50714, type: "short", values: camera.blackOffsets.map((offset) => camera.blackLevel + offset) },
      { tag: 50717, type: "long", values: [frame.white] },
      { tag: 50719, type: "long", values: [0, 0] },
      { tag: 50720, type: "long", values: [exposed.width, exposed.height] },
      { tag: 50829, type: "long", values: [top, left, frame.height, frame.width] },
      { tag: 51041, type: "double", values: [slope, offset] },
      ...layout.fields,
    ],
    data: layout.data,
  };
  const exif: Directory = {
    fields: [
      { tag: 33434, type: "rational", values: [shot.shutterSeconds] },
      { tag: 33437, type: "rational", values: [shot.fNumber] },
      { tag: 34855, type: "short", values: [Math.min(65535, shot.iso)] },
      { tag: 36864, type: "undefined", values: [48, 50, 51, 48] },
      ascii(36867, shot.takenAt),
      { tag: 37386, type: "rational", values: [camera.focalLengthMm] },
      ascii(42036, camera.lens),
    ],
  };
  const image = await jpegPreview(exposed, shot, camera, preview);
  const main: Directory = {
    fields: [
      { tag: 254, type: "long", values: [1] },
      { tag: 256, type: "long", values: [image.width] },
      { tag: 257, type: "long", values: [image.height] },
      { tag: 258, type: "short", values: [8, 8, 8] },
      { tag: 259, type: "short", values: [7] },
      { tag: 262, type: "short", values: [6] },
      ascii(271, camera.make),
      ascii(272, camera.model),
      { tag: 274, type: "short", values: [shot.orientation] },
      { tag: 277, type: "short", values: [3] },
      { tag: 278, type: "long", values: [image.height] },
      { tag: 284, type: "short", values: [1] },
      ascii(305, "Simulated camera"),
      ascii(306, shot.takenAt),
      { tag: 50706, type: "byte", values: [1, 4, 0, 0] },
      { tag: 50707, type: "byte", values: [1, 1, 0, 0] },
      ascii(50708, `${camera.make} ${camera.model}`),
      { tag: 50721, type: "srational", values: [...camera.xyzToCameraA] },
      { tag: 50722, type: "srational", values: [...camera.xyzToCamera] },
      { tag: 50728, type: "rational", values: [...(shot.neutral ?? neutralOf(camera))] },
      { tag: 50778, type: "short", values: [17] },
      { tag: 50779, type: "short", values: [21] },
    ],
    children: [
      { tag: 330, directory: raw },
      { tag: 34665, directory: exif },
    ],
    data: { offsetTag: 273, lengthTag: 279, blocks: [image.bytes] },
  };
  return writeTiff(main);
}

/** The frame with sites around it that saw no light. */
function withBorder(frame: RawFrame, { blackLevel, blackOffsets }: CameraModel, left: number, top: number): RawFrame {
  if (left === 0 && top === 0) return frame;
  const width = frame.width + left;
  const height = frame.height + top;
  const data = Uint16Array.from({ length: width * height }, (_, i) => {
    const x = (i % width) - left;
    const y = Math.floor(i / width) - top;
    if (x >= 0 && y >= 0) return frame.data[y * frame.width + x];
    return blackLevel + blackOffsets[2 * (y & 1) + (x & 1)];
  });
  return { ...frame, width, height, data };
}

/** How the mosaic lies in the file: compressed tiles, or one strip when it is uncompressed or narrower than a tile. */
function layOut(frame: RawFrame, bits: number, compress: boolean): Pick<Directory, "fields" | "data"> {
  const { width, height, data } = frame;
  if (compress && width >= TILE) {
    // The unpacker takes a mosaic of exactly two tiles' width for another maker's layout.
    const tileWidth = width === 2 * TILE ? TILE / 2 : TILE;
    return {
      fields: [
        { tag: 322, type: "long", values: [tileWidth] },
        { tag: 323, type: "long", values: [TILE] },
      ],
      data: { offsetTag: 324, lengthTag: 325, blocks: compressTiles(frame, bits, tileWidth) },
    };
  }
  const strip = compress ? encodeLosslessJpeg(data, width, 0, 0, width, height, bits) : littleEndian(data);
  return {
    fields: [{ tag: 278, type: "long", values: [height] }],
    data: { offsetTag: 273, lengthTag: 279, blocks: [strip] },
  };
}

function compressTiles({ width, height, data }: RawFrame, bits: number, tileWidth: number): Uint8Array[] {
  const tile = new Uint16Array(tileWidth * TILE);
  const blocks: Uint8Array[] = [];
  for (let top = 0; top < height; top += TILE)
    for (let left = 0; left < width; left += tileWidth) {
      // Tiles at the border are padded by repeating the last two sites, which cost almost nothing.
      for (let y = 0; y < TILE; y++)
        for (let x = 0; x < tileWidth; x++)
          tile[y * tileWidth + x] = data[inside(top + y, height) * width + inside(left + x, width)];
      blocks.push(encodeLosslessJpeg(tile, tileWidth, 0, 0, tileWidth, TILE, bits));
    }
  return blocks;
}

function inside(i: number, n: number): number {
  return i < n ? i : Math.max(0, n - 2 + ((i - n) & 1) + (n < 2 ? 1 : 0)) % n;
}

function littleEndian(data: Uint16Array): Uint8Array {
  return new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
}

/** A small picture of the scene, or of the mosaic's greens when the scene is not given. */
async function jpegPreview(frame: RawFrame, shot: ShotMetadata, camera: CameraModel, scene?: Scene) {
  const step = Math.max(2, Math.ceil(Math.max(frame.width, frame.height) / 400) & ~1);
  const width = Math.max(1, Math.floor(frame.width / step));
  const height = Math.max(1, Math.floor(frame.height / step));
  const rgb = new Uint8Array(3 * width * height);
  const site = Math.max(0, shot.pattern.indexOf("G"));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++) {
        const sx = x * step;
        const sy = y * step;
        const mosaic =
          frame.data[
            Math.min(frame.height - 1, sy + (site >> 1)) * frame.width + Math.min(frame.width - 1, sx + (site & 1))
          ];
        const light = scene
          ? scene.rgb[3 * (sy * scene.width + sx) + c]
          : (mosaic - camera.blackLevel) / (frame.white - camera.blackLevel);
        rgb[3 * (y * width + x) + c] = Math.min(255, Math.round(255 * Math.max(0, light) ** (1 / 2.2)));
      }
  const bytes = await sharp(rgb, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 70 })
    .toBuffer();
  return { width, height, bytes: new Uint8Array(bytes) };
}
