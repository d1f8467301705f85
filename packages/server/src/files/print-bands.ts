import {
  isGrey,
  isMounted,
  mountColour,
  mountLayout,
  scaledSize,
  type Engine,
  type ExportOptions,
  type MountLayout,
  type PreparedPrint,
  type Rect,
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

/**
 * Renders a print from top to bottom, with what lies around it. Bands take turns in two pieces of memory: one may still be written while
 * the next is rendered, no longer.
 */
export function* printBands(
  engine: Engine,
  print: PreparedPrint,
  options: ExportOptions,
  transfer: Transfer,
  letters: Letters | null,
): Generator<Band> {
  const format = formatOf(print, options);
  const { width, height, channels, mount } = format;
  const rows = pictureRows(engine, print, options, transfer, format);
  const most = Math.min(height, BAND_ROWS) * channels;
  const memory = [codesFor(format, width * most), codesFor(format, width * most)];
  const inside = mount && codesFor(format, mount.picture.width * most);
  for (let y = 0; y < height; y += BAND_ROWS) {
    const band = { x: 0, y, width, height: Math.min(BAND_ROWS, height - y) };
    memory.reverse();
    const codes = memory[0].subarray(0, width * band.height * channels);
    if (!mount) rows(y, band.height, codes);
    else {
      const { picture, layers } = mount;
      const codesOf = (part: Parameters<typeof mountColour>[1]) =>
        mountColour(print.recipe.finish, part).map((light) => Math.round(topOf(format) * transfer.encode(light)));
      for (const layer of layers) fill(codes, band, channels, layer, codesOf(layer.part));
      const first = Math.max(y, picture.y);
      const end = Math.min(y + band.height, picture.y + picture.height);
      if (first < end) rows(first - picture.y, end - first, inside!);
      const row = picture.width * channels;
      for (let at = first; at < end; at++)
        codes.set(
          inside!.subarray((at - first) * row, (at - first + 1) * row),
          ((at - y) * width + picture.x) * channels,
        );
      if (letters) letter(codes, band, channels, letters, codesOf("caption"));
    }
    yield { rows: band.height, codes };
  }
}

const topOf = ({ bits }: PrintFormat) => (bits === 8 ? 255 : 65535);

const codesFor = ({ bits }: PrintFormat, length: number): Band["codes"] =>
  bits === 8 ? new Uint8Array(length) : new Uint16Array(length);

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
  engine: Engine,
  print: PreparedPrint,
  options: ExportOptions,
  transfer: Transfer,
  { channels, scale }: SheetFormat,
): (y: number, rows: number, into: Band["codes"]) => void {
  const { width } = scaledSize(print.frame, scale);
  const blockWidth = Math.max(64, Math.floor(BLOCK_EDGE * scale));
  return (y, rows, into) => {
    for (let x = 0; x < width; x += blockWidth) {
      const view = { x, y, width: Math.min(blockWidth, width - x), height: rows, scale, level: 0 };
      if (into instanceof Uint8Array) {
        // The screen's own encoder, dither and all, so that the file is the picture that was shown.
        const rgba = engine.renderCoded(print, view, transfer, options.encoding);
        copyBlock8(rgba, into, view, width, channels);
      } else engine.renderCoded16(print, view, transfer, options.encoding, into);
    }
  };
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
