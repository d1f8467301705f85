import { REC2020_TO_REC709, REC709_TO_REC2020, SRGB_TRANSFER, transform3, type Vector3 } from "@yelm/core";
import sharp from "sharp";
import { createNormal, createRandom } from "./random.ts";
import type { Scene } from "./scene.ts";

export interface JpegOptions {
  readonly stops: number;
  /** 1–100. */
  readonly quality: number;
  readonly seed: number;
  /** "YYYY:MM:DD HH:MM:SS". */
  readonly takenAt?: string;
}

/** Photons at white. */
const FULL_WELL = 30000;

/**
 * A scene as a camera that keeps no raw file gives it: photon noise, eight bits sRGB, chroma halved both ways (4:2:0).
 * Colours beyond sRGB are drawn to grey until they fit.
 */
export async function shootJpeg({ width, height, rgb }: Scene, options: JpegOptions): Promise<Buffer> {
  const { stops, quality, seed, takenAt } = options;
  const normal = createNormal(createRandom(seed));
  const codes = new Uint8Array(rgb.length);
  for (let i = 0; i < rgb.length; i += 3) {
    const light = [0, 1, 2].map((c) => {
      const v = Math.max(0, rgb[i + c] * 2 ** stops);
      return v + Math.sqrt(v / FULL_WELL) * normal();
    }) as unknown as Vector3;
    fitted(light).forEach((v, c) => (codes[i + c] = Math.round(255 * SRGB_TRANSFER.encode(v))));
  }
  const image = sharp(codes, { raw: { width, height, channels: 3 } });
  const dated = takenAt ? image.withExif({ IFD2: { DateTimeOriginal: takenAt } }) : image;
  return dated.jpeg({ quality, chromaSubsampling: "4:2:0" }).toBuffer();
}

/** A colour within 0–1 of its own luminance and hue. */
function fitted(colour: Vector3): Vector3 {
  const working = transform3(REC709_TO_REC2020, colour);
  const grey = Math.min(1, Math.max(0, 0.2627 * working[0] + 0.678 * working[1] + 0.0593 * working[2]));
  const [g] = transform3(REC2020_TO_REC709, [grey, grey, grey]);
  let share = 1;
  for (const v of colour) {
    if (v > 1) share = Math.min(share, (1 - g) / (v - g));
    if (v < 0) share = Math.min(share, g / (g - v));
  }
  return colour.map((v) => Math.min(1, Math.max(0, g + share * (v - g)))) as unknown as Vector3;
}
