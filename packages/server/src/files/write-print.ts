import { promisify } from "node:util";
import { deflate } from "node:zlib";
import {
  ascii,
  GAMMA22_TRANSFER,
  iccProfile,
  isNeutral,
  LIGHTNESS_TRANSFER,
  Preparer,
  scaledSize,
  SRGB_TRANSFER,
  writeTiff,
  type CaptureInfo,
  type Directory,
  type Engine,
  type ExportOptions,
  type Field,
  type KernelHeap,
  type PreparedPrint,
  type Transfer,
} from "@yelm/core";
import sharp from "sharp";
import { embedInJpeg, embedInPng } from "./embed.ts";

const TRANSFERS: Readonly<Record<ExportOptions["encoding"], Transfer>> = {
  srgb: SRGB_TRANSFER,
  gamma22: GAMMA22_TRANSFER,
  lightness: LIGHTNESS_TRANSFER,
};
const STRIP_ROWS = 256;
const BLOCK_PIXELS = 1 << 20;
const compress = promisify(deflate);

/** A print's pixels as codes: one channel when neutral, else three, interleaved. */
interface CodedPrint {
  readonly width: number;
  readonly height: number;
  readonly channels: 1 | 3;
  readonly codes: Uint16Array | Uint8Array;
}

/** Milliseconds of each step of writing a print. */
export interface WriteTimings {
  renderMs: number;
  encodeMs: number;
}

/**
 * Renders a print at full size (then scaled, when a long edge is asked for) and encodes it.
 * @param onProgress - told the share done; may throw to stop.
 * @returns the file's bytes.
 */
export async function writePrint(
  heap: KernelHeap,
  engine: Engine,
  print: PreparedPrint,
  options: ExportOptions,
  info: CaptureInfo | null,
  onProgress: (share: number) => void = () => undefined,
): Promise<{ bytes: Uint8Array; width: number; height: number; timings: WriteTimings }> {
  const started = performance.now();
  const coded = codePrint(heap, engine, print, options, (share) => onProgress(0.85 * share));
  const rendered = performance.now();
  const icc = iccProfile({
    description: `Yelm ${coded.channels === 1 ? "grey" : "sRGB"} ${options.encoding}`,
    transfer: TRANSFERS[options.encoding],
    model: coded.channels === 1 ? "grey" : "rgb",
  });
  const exif = options.metadata && info ? captureFields(info) : null;
  const bytes = await encode(coded, options, icc, exif);
  onProgress(1);
  const timings = { renderMs: rendered - started, encodeMs: performance.now() - rendered };
  return { bytes, width: coded.width, height: coded.height, timings };
}

function codePrint(
  heap: KernelHeap,
  engine: Engine,
  print: PreparedPrint,
  { longEdge, encoding, format }: ExportOptions,
  onProgress: (share: number) => void,
): CodedPrint {
  const frameEdge = Math.max(print.frame.width, print.frame.height);
  const scale = longEdge && longEdge < frameEdge ? longEdge / frameEdge : 1;
  const { width, height } = scaledSize(print.frame, scale);
  const { toning } = print.recipe.finish;
  const tables = new Preparer().encodeTables(toning, TRANSFERS[encoding], encoding);
  const channels = isNeutral(toning) ? 1 : 3;
  const codes =
    format === "jpeg" ? new Uint8Array(width * height * channels) : new Uint16Array(width * height * channels);
  const blockEdge = Math.max(64, Math.floor(Math.sqrt(BLOCK_PIXELS) * scale) & ~3);
  for (let y = 0; y < height; y += blockEdge) {
    for (let x = 0; x < width; x += blockEdge) {
      const view = {
        x,
        y,
        width: Math.min(blockEdge, width - x),
        height: Math.min(blockEdge, height - y),
        scale,
        level: 0,
      };
      if (codes instanceof Uint8Array) {
        // The screen's own encoder, dither and all, so that the file is the picture that was shown.
        const rgba =
          encoding === "srgb"
            ? engine.renderRgba(print, view)
            : encodeBlock8(heap, engine.renderReflectance(print, view), view.width, view.height, x, y, tables);
        copyBlock8(rgba, codes, view, width, channels);
      } else {
        const reflectance = engine.renderReflectance(print, view);
        copyBlock16(heap, reflectance, tables.slice(0, channels), codes, view, width, channels);
      }
    }
    onProgress(Math.min(1, (y + blockEdge) / height));
  }
  return { width, height, channels, codes };
}

interface Block {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

function encodeBlock8(
  heap: KernelHeap,
  reflectance: Float32Array,
  width: number,
  height: number,
  x: number,
  y: number,
  tables: Float32Array[],
): Uint8Array {
  const mark = heap.mark();
  const stride = (width + 3) & ~3;
  const src = heap.allocate(4 * stride * height);
  const [red, green, blue] = tables.map((table) => heap.place(table));
  const neutral = tables[1] === tables[0];
  const out = heap.allocate(4 * stride * height);
  const block = heap.floats(src, stride * height);
  for (let row = 0; row < height; row++) block.set(reflectance.subarray(row * width, (row + 1) * width), row * stride);
  heap.kernels.encodeRgba8(src, stride, out, stride, height, x, y, red, neutral ? red : green, neutral ? red : blue);
  const rgba = new Uint8Array(4 * width * height);
  const source = heap.bytes(out, 4 * stride * height);
  for (let row = 0; row < height; row++)
    rgba.set(source.subarray(4 * row * stride, 4 * (row * stride + width)), 4 * row * width);
  heap.release(mark);
  return rgba;
}

function copyBlock8(rgba: Uint8Array, codes: Uint8Array, block: Block, width: number, channels: number): void {
  for (let row = 0; row < block.height; row++) {
    let to = ((block.y + row) * width + block.x) * channels;
    for (let from = 4 * row * block.width, end = from + 4 * block.width; from < end; from += 4)
      for (let c = 0; c < channels; c++) codes[to++] = rgba[from + c];
  }
}

function copyBlock16(
  heap: KernelHeap,
  reflectance: Float32Array,
  tables: Float32Array[],
  codes: Uint16Array,
  block: Block,
  width: number,
  channels: number,
): void {
  const mark = heap.mark();
  const n = reflectance.length;
  const src = heap.place(reflectance);
  const out = heap.allocate(2 * channels * (n + 4));
  tables.forEach((table, c) => heap.kernels.encode16(src, out + 2 * c, n, heap.place(table), channels));
  const source = heap.halves(out, channels * n);
  const row = block.width * channels;
  for (let y = 0; y < block.height; y++)
    codes.set(source.subarray(y * row, (y + 1) * row), ((block.y + y) * width + block.x) * channels);
  heap.release(mark);
}

async function encode(
  print: CodedPrint,
  options: ExportOptions,
  icc: Uint8Array,
  exif: ExifFields | null,
): Promise<Uint8Array> {
  const { width, height, channels, codes } = print;
  if (options.format === "tiff") return encodeTiff(print, icc, exif);
  const attachments = { icc, exif: exif ? writeTiff(exifDirectory(exif)) : null };
  if (codes instanceof Uint8Array) {
    const image = sharp(codes, { raw: { width, height, channels } });
    const grey = channels === 1 ? image.toColourspace("b-w") : image;
    const jpeg = await grey
      .jpeg({ quality: options.jpegQuality, chromaSubsampling: "4:4:4", mozjpeg: false })
      .toBuffer();
    return embedInJpeg(jpeg, attachments);
  }
  const image = sharp(codes, { raw: { width, height, channels } });
  const png = await image
    .toColourspace(channels === 1 ? "grey16" : "rgb16")
    .png({ compressionLevel: 6 })
    .toBuffer();
  return embedInPng(png, attachments);
}

/** 16-bit TIFF in deflated strips with horizontal differencing (TIFF 6.0, section 14). */
async function encodeTiff(
  { width, height, channels, codes }: CodedPrint,
  icc: Uint8Array,
  exif: ExifFields | null,
): Promise<Uint8Array> {
  const strips: Promise<Uint8Array>[] = [];
  const row = width * channels;
  for (let top = 0; top < height; top += STRIP_ROWS) {
    const rows = Math.min(STRIP_ROWS, height - top);
    const strip = (codes as Uint16Array).slice(top * row, (top + rows) * row);
    for (let y = 0; y < rows; y++)
      for (let i = (y + 1) * row - 1; i >= y * row + channels; i--) strip[i] -= strip[i - channels];
    strips.push(compress(new Uint8Array(strip.buffer), { level: 1 }));
  }
  const fields: Field[] = [
    { tag: 256, type: "long", values: [width] },
    { tag: 257, type: "long", values: [height] },
    { tag: 258, type: "short", values: new Array<number>(channels).fill(16) },
    { tag: 259, type: "short", values: [8] },
    { tag: 262, type: "short", values: [channels === 1 ? 1 : 2] },
    { tag: 277, type: "short", values: [channels] },
    { tag: 278, type: "long", values: [STRIP_ROWS] },
    { tag: 282, type: "rational", values: [300] },
    { tag: 283, type: "rational", values: [300] },
    { tag: 284, type: "short", values: [1] },
    { tag: 296, type: "short", values: [2] },
    { tag: 317, type: "short", values: [2] },
    { tag: 34675, type: "undefined", values: Array.from(icc) },
  ];
  const described = exif ? exifDirectory(exif) : { fields: [] as Field[], children: [] };
  return writeTiff({
    fields: [...fields, ...described.fields],
    children: described.children,
    data: { offsetTag: 273, lengthTag: 279, blocks: await Promise.all(strips) },
  });
}

interface ExifFields {
  readonly main: Field[];
  readonly exif: Field[];
}

function captureFields(info: CaptureInfo): ExifFields {
  const main: Field[] = [ascii(305, "Yelm")];
  const exif: Field[] = [{ tag: 36864, type: "undefined", values: [48, 50, 51, 50] }];
  if (info.make) main.push(ascii(271, info.make));
  if (info.model) main.push(ascii(272, info.model));
  if (info.takenAt) {
    const text = info.takenAt.replaceAll("-", ":").replace("T", " ");
    main.push(ascii(306, text));
    exif.push(ascii(36867, text));
  }
  if (info.shutterSeconds) exif.push({ tag: 33434, type: "rational", values: [info.shutterSeconds] });
  if (info.fNumber) exif.push({ tag: 33437, type: "rational", values: [info.fNumber] });
  if (info.iso) exif.push({ tag: 34855, type: "short", values: [Math.min(65535, info.iso)] });
  if (info.focalLengthMm) exif.push({ tag: 37386, type: "rational", values: [info.focalLengthMm] });
  if (info.lens) exif.push(ascii(42036, info.lens));
  return { main, exif };
}

function exifDirectory({ main, exif }: ExifFields): Directory {
  return { fields: main, children: [{ tag: 34665, directory: { fields: exif } }] };
}
