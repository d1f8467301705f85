import {
  isNeutral,
  Preparer,
  scaledSize,
  type Engine,
  type ExportOptions,
  type KernelHeap,
  type PreparedPrint,
  type Transfer,
} from "@yelm/core";

/** What the file will be. */
export interface PrintFormat {
  readonly width: number;
  readonly height: number;
  readonly channels: 1 | 3;
  readonly bits: 8 | 16;
}

/** Some whole rows of a print as code values, channels interleaved. */
export interface Band {
  readonly rows: number;
  readonly codes: Uint16Array | Uint8Array;
}

export const BAND_ROWS = 512;
/** Pixels of the negative computed at a time: a tile and its neighbours' share. */
const BLOCK_EDGE = 1024;

export function formatOf(print: PreparedPrint, { longEdge, format }: ExportOptions): PrintFormat & { scale: number } {
  const frameEdge = Math.max(print.frame.width, print.frame.height);
  const scale = longEdge && longEdge < frameEdge ? longEdge / frameEdge : 1;
  const channels = isNeutral(print.recipe.finish.toning) ? 1 : 3;
  return { ...scaledSize(print.frame, scale), channels, bits: format === "jpeg" ? 8 : 16, scale };
}

/** Renders a print from top to bottom; only one band is in memory at a time. */
export function* printBands(
  heap: KernelHeap,
  engine: Engine,
  print: PreparedPrint,
  options: ExportOptions,
  transfer: Transfer,
): Generator<Band> {
  const { width, height, channels, bits, scale } = formatOf(print, options);
  const tables = new Preparer().encodeTables(print.recipe.finish.toning, transfer, options.encoding);
  const blockWidth = Math.max(64, Math.floor(BLOCK_EDGE * scale));
  for (let y = 0; y < height; y += BAND_ROWS) {
    const rows = Math.min(BAND_ROWS, height - y);
    const codes = bits === 8 ? new Uint8Array(width * rows * channels) : new Uint16Array(width * rows * channels);
    for (let x = 0; x < width; x += blockWidth) {
      const view = { x, y, width: Math.min(blockWidth, width - x), height: rows, scale, level: 0 };
      if (codes instanceof Uint8Array) {
        // The screen's own encoder, dither and all, so that the file is the picture that was shown.
        const rgba = engine.renderCoded(print, view, transfer, options.encoding);
        copyBlock8(rgba, codes, view, width, channels);
      } else {
        encodeBlock16(heap, engine.renderReflectance(print, view), tables.slice(0, channels), codes, view, width);
      }
    }
    yield { rows, codes };
  }
}

interface Columns {
  readonly x: number;
  readonly width: number;
  readonly height: number;
}

function copyBlock8(rgba: Uint8Array, codes: Uint8Array, block: Columns, width: number, channels: number): void {
  for (let row = 0; row < block.height; row++) {
    let to = (row * width + block.x) * channels;
    for (let from = 4 * row * block.width, end = from + 4 * block.width; from < end; from += 4)
      for (let c = 0; c < channels; c++) codes[to++] = rgba[from + c];
  }
}

function encodeBlock16(
  heap: KernelHeap,
  reflectance: Float32Array,
  tables: Float32Array[],
  codes: Uint16Array,
  block: Columns,
  width: number,
): void {
  const mark = heap.mark();
  const channels = tables.length;
  const n = reflectance.length;
  const src = heap.place(reflectance);
  const out = heap.allocate(2 * channels * (n + 4));
  tables.forEach((table, c) => heap.kernels.encode16(src, out + 2 * c, n, heap.place(table), channels));
  const source = heap.halves(out, channels * n);
  const row = block.width * channels;
  for (let y = 0; y < block.height; y++)
    codes.set(source.subarray(y * row, (y + 1) * row), (y * width + block.x) * channels);
  heap.release(mark);
}
