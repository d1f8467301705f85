import {
  isGrey,
  isMounted,
  mountColour,
  mountLayout,
  Preparer,
  scaledSize,
  wornShare,
  type Engine,
  type ExportOptions,
  type KernelHeap,
  type MountLayout,
  type PreparedPrint,
  type Rect,
  type Size,
  type Transfer,
  type View,
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

const NUDGES = 12;

/** A file's format, and what of it is the picture. */
export interface SheetFormat extends PrintFormat {
  /** Of the picture. */
  readonly scale: number;
  /** How the picture lies on the sheet; null where there is nothing but the picture. */
  readonly mount: MountLayout | null;
}

/**
 * What a print's file will be. A long edge that is asked for is that of the whole sheet, so that files of a set are equally large.
 */
export function formatOf({ frame, recipe }: PreparedPrint, options: ExportOptions): SheetFormat {
  const { longEdge, format } = options;
  const { finish } = recipe;
  const mounted = options.mount && isMounted(finish.mount);
  const edgeAt = (scale: number) => {
    const picture = scaledSize(frame, scale);
    const { width, height } = mounted ? mountLayout(finish.mount, picture).sheet : picture;
    return Math.max(width, height);
  };
  const whole = edgeAt(1);
  let scale = longEdge && longEdge < whole ? longEdge / whole : 1;
  // Widths are rounded one by one: a little smaller or larger, until their sum is the one asked for.
  for (let i = 0; mounted && longEdge && scale < 1 && i < NUDGES && edgeAt(scale) !== longEdge; i++)
    scale += (0.3 * (longEdge - edgeAt(scale))) / whole;
  const picture = scaledSize(frame, scale);
  const mount = mounted ? mountLayout(finish.mount, picture) : null;
  return {
    ...(mount?.sheet ?? picture),
    channels: isGrey(finish) ? 1 : 3,
    bits: format === "jpeg" ? 8 : 16,
    scale,
    mount,
  };
}

/** Letters on the sheet: how much of each pixel they cover, 0–255. */
export interface Letters extends Rect {
  readonly coverage: Uint8Array;
}

/** Renders a print from top to bottom, with what lies around it; only one band is in memory at a time. */
export function* printBands(
  heap: KernelHeap,
  engine: Engine,
  print: PreparedPrint,
  options: ExportOptions,
  transfer: Transfer,
  letters: Letters | null,
): Generator<Band> {
  const { width, height, channels, bits, mount, scale } = formatOf(print, options);
  const rows = pictureRows(heap, engine, print, options, transfer);
  const picture = mount?.picture ?? { x: 0, y: 0, ...scaledSize(print.frame, scale) };
  const top = bits === 8 ? 255 : 65535;
  const codesOf = (part: Parameters<typeof mountColour>[1]) =>
    mountColour(print.recipe.finish, part).map((light) => Math.round(top * transfer.encode(light)));
  for (let y = 0; y < height; y += BAND_ROWS) {
    const band = { x: 0, y, width, height: Math.min(BAND_ROWS, height - y) };
    const length = width * band.height * channels;
    const codes = bits === 8 ? new Uint8Array(length) : new Uint16Array(length);
    for (const layer of mount?.layers ?? []) fill(codes, band, channels, layer, codesOf(layer.part));
    const first = Math.max(y, picture.y);
    const end = Math.min(y + band.height, picture.y + picture.height);
    if (first < end) {
      const part = rows(first - picture.y, end - first);
      for (let row = 0; row < end - first; row++)
        codes.set(
          part.subarray(row * picture.width * channels, (row + 1) * picture.width * channels),
          ((first - y + row) * width + picture.x) * channels,
        );
    }
    if (letters) letter(codes, band, channels, letters, codesOf("caption"));
    yield { rows: band.height, codes };
  }
}

/** Fills what of a rectangle lies in a band. */
function fill(codes: Band["codes"], band: Rect, channels: number, rect: Rect, colour: readonly number[]): void {
  const end = Math.min(band.y + band.height, rect.y + rect.height);
  for (let y = Math.max(band.y, rect.y); y < end; y++) {
    const from = ((y - band.y) * band.width + rect.x) * channels;
    if (channels === 1) codes.fill(colour[0], from, from + rect.width);
    else for (let i = from; i < from + 3 * rect.width; i++) codes[i] = colour[(i - from) % 3];
  }
}

/** Lays letters over a band. */
function letter(codes: Band["codes"], band: Rect, channels: number, at: Letters, colour: readonly number[]): void {
  const [left, right] = [Math.max(0, at.x), Math.min(band.width, at.x + at.width)];
  const end = Math.min(band.y + band.height, at.y + at.height);
  for (let y = Math.max(band.y, at.y, 0); y < end; y++)
    for (let x = left; x < right; x++) {
      const share = at.coverage[(y - at.y) * at.width + x - at.x] / 255;
      if (share === 0) continue;
      const to = ((y - band.y) * band.width + x) * channels;
      for (let c = 0; c < channels; c++) codes[to + c] = Math.round(codes[to + c] * (1 - share) + colour[c] * share);
    }
}

/** Renders whole rows of the picture itself. */
function pictureRows(
  heap: KernelHeap,
  engine: Engine,
  print: PreparedPrint,
  options: ExportOptions,
  transfer: Transfer,
): (y: number, rows: number) => Band["codes"] {
  const { channels, bits, scale } = formatOf(print, options);
  const { width, height } = scaledSize(print.frame, scale);
  const { finish } = print.recipe;
  const preparer = new Preparer();
  const tablesOf = (atEdge: boolean) =>
    preparer.encodeTables(finish, transfer, options.encoding, atEdge).slice(0, channels);
  const tables = tablesOf(false);
  const edge = finish.wear.edges > 0 ? tablesOf(true) : null;
  const plain = () => preparer.plainEncodeTables(finish, transfer, options.encoding).slice(0, channels);
  const blockWidth = Math.max(64, Math.floor(BLOCK_EDGE * scale));
  return (y, rows) => {
    const codes = bits === 8 ? new Uint8Array(width * rows * channels) : new Uint16Array(width * rows * channels);
    for (let x = 0; x < width; x += blockWidth) {
      const view = { x, y, width: Math.min(blockWidth, width - x), height: rows, scale, level: 0 };
      if (codes instanceof Uint8Array) {
        // The screen's own encoder, dither and all, so that the file is the picture that was shown.
        const rgba = engine.renderCoded(print, view, transfer, options.encoding);
        copyBlock8(rgba, codes, view, width, channels);
        continue;
      }
      const reflectance = engine.renderReflectance(print, view);
      encodeBlock16(heap, reflectance, tables, codes, view, width);
      const share = engine.renderToneShare(print, view);
      if (share) toneBlock16(heap, reflectance, plain(), codes, view, width, share);
      if (edge) wearBlock16(heap, reflectance, edge, codes, view, { width, height });
    }
    return codes;
  };
}

/** Strengthens or weakens the tone from place to place, as the kernel `scaleTone8` does for the screen. */
function toneBlock16(
  heap: KernelHeap,
  reflectance: Float32Array,
  tables: Float32Array[],
  codes: Uint16Array,
  view: View,
  width: number,
  share: Float32Array,
): void {
  const channels = tables.length;
  const plain = new Uint16Array(view.width * view.height * channels);
  encodeBlock16(heap, reflectance, tables, plain, { ...view, x: 0 }, view.width);
  share.forEach((more, i) => {
    const factor = Math.min(2, Math.max(0, 1 + more));
    const to = (Math.floor(i / view.width) * width + view.x + (i % view.width)) * channels;
    for (let c = 0; c < channels; c++) {
      const base = plain[i * channels + c];
      codes[to + c] = Math.min(65535, Math.max(0, Math.round(base + factor * (codes[to + c] - base))));
    }
  });
}

/** Mixes in how the edges of an old print look. */
function wearBlock16(
  heap: KernelHeap,
  reflectance: Float32Array,
  tables: Float32Array[],
  codes: Uint16Array,
  view: View,
  { width, height }: Size,
): void {
  const channels = tables.length;
  const edge = new Uint16Array(view.width * view.height * channels);
  encodeBlock16(heap, reflectance, tables, edge, { ...view, x: 0 }, view.width);
  for (let row = 0; row < view.height; row++) {
    const v = (2 * (view.y + row + 0.5)) / height - 1;
    for (let column = 0; column < view.width; column++) {
      const share = wornShare((2 * (view.x + column + 0.5)) / width - 1, v);
      if (share === 0) continue;
      const to = (row * width + view.x + column) * channels;
      const from = (row * view.width + column) * channels;
      for (let c = 0; c < channels; c++)
        codes[to + c] = Math.round(codes[to + c] * (1 - share) + edge[from + c] * share);
    }
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
