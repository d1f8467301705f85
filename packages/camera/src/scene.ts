import { readFile } from "node:fs/promises";
import { dirname, join, resolve } from "node:path";
import sharp from "sharp";

/** Scene-referred light: interleaved linear Rec.709, D65, 1.0 about diffuse white, unbounded above. */
export interface Scene {
  readonly width: number;
  readonly height: number;
  readonly rgb: Float32Array;
}

interface SceneDescription {
  readonly width: number;
  readonly height: number;
  readonly scale: number;
  readonly strips: readonly { readonly file: string; readonly firstRow: number; readonly rows: number }[];
}

/**
 * Reads a scene: a JSON description of square-root coded 16-bit strips, or a 16-bit TIFF or PNG holding linear light.
 * @throws {RangeError} when the description or a strip does not fit.
 */
export async function readScene(path: string): Promise<Scene> {
  return path.endsWith(".json") ? readStrips(path) : readLinearImage(path);
}

async function readStrips(path: string): Promise<Scene> {
  const { width, height, scale, strips } = JSON.parse(await readFile(path, "utf8")) as SceneDescription;
  if (![width, height, scale].every((n) => n > 0) || !Array.isArray(strips))
    throw new RangeError(`Expected width, height, scale and strips in ${path}.`);
  const rgb = new Float32Array(3 * width * height);
  for (const { file, firstRow, rows } of strips as SceneDescription["strips"]) {
    const strip = resolve(dirname(path), file);
    if (dirname(strip) !== resolve(dirname(path))) throw new RangeError(`Expected a strip beside ${path}: ${file}.`);
    const codes = await readCodes(join(strip));
    if (codes.width !== width || codes.height !== rows || firstRow + rows > height)
      throw new RangeError(`Expected ${width}×${rows} pixels in ${file} but received ${codes.width}×${codes.height}.`);
    codes.data.forEach((code, i) => (rgb[3 * firstRow * width + i] = scale * (code / 65535) ** 2));
  }
  return { width, height, rgb };
}

async function readLinearImage(path: string): Promise<Scene> {
  const { data, width, height } = await readCodes(path);
  return { width, height, rgb: Float32Array.from(data, (code) => code / 65535) };
}

async function readCodes(path: string): Promise<{ data: Uint16Array; width: number; height: number }> {
  const image = sharp(path).removeAlpha().toColourspace("rgb16").raw({ depth: "ushort" });
  const { data, info } = await image.toBuffer({ resolveWithObject: true });
  if (info.channels !== 3) throw new RangeError(`Expected three channels in ${path} but received ${info.channels}.`);
  return {
    data: new Uint16Array(data.buffer, data.byteOffset, data.length / 2),
    width: info.width,
    height: info.height,
  };
}

/** Scales a scene to another width by bilinear sampling of area means; light is averaged, not codes. */
export function resizeScene(scene: Scene, width: number): Scene {
  const height = Math.max(1, Math.round((scene.height * width) / scene.width));
  const rgb = new Float32Array(3 * width * height);
  const step = scene.width / width;
  const samples = Math.max(1, Math.round(step));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        for (let v = 0; v < samples; v++)
          for (let u = 0; u < samples; u++)
            sum += bilinear(scene, (x + (u + 0.5) / samples) * step - 0.5, (y + (v + 0.5) / samples) * step - 0.5, c);
        rgb[3 * (y * width + x) + c] = sum / samples ** 2;
      }
  return { width, height, rgb };
}

/** Holds the camera upright: the scene as the sensor sees it when its right side is down (EXIF orientation 6). */
export function turnScene({ width, height, rgb }: Scene): Scene {
  const out = new Float32Array(rgb.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++) out[3 * ((width - 1 - x) * height + y) + c] = rgb[3 * (y * width + x) + c];
  return { width: height, height: width, rgb: out };
}

/** One channel at a place between pixel centres; the border repeats. */
export function bilinear({ width, height, rgb }: Scene, x: number, y: number, channel: number): number {
  const cx = Math.min(width - 1, Math.max(0, x));
  const cy = Math.min(height - 1, Math.max(0, y));
  const x0 = Math.floor(cx);
  const y0 = Math.floor(cy);
  const x1 = Math.min(width - 1, x0 + 1);
  const y1 = Math.min(height - 1, y0 + 1);
  const fx = cx - x0;
  const fy = cy - y0;
  const at = (px: number, py: number) => rgb[3 * (py * width + px) + channel];
  return (1 - fy) * ((1 - fx) * at(x0, y0) + fx * at(x1, y0)) + fy * ((1 - fx) * at(x0, y1) + fx * at(x1, y1));
}
