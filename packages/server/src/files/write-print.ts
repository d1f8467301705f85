import {
  ascii,
  GAMMA22_TRANSFER,
  iccProfile,
  LIGHTNESS_TRANSFER,
  SRGB_TRANSFER,
  writeTiff,
  type CaptureInfo,
  type Directory,
  type Engine,
  type ExportOptions,
  type Field,
  type PreparedPrint,
  type Transfer,
} from "@yelm/core";
import { letters } from "./caption-outline.ts";
import { writeJpegFile } from "./jpeg-file.ts";
import { writePngFile } from "./png-file.ts";
import { formatOf, printBands, type Band } from "./print-bands.ts";
import { writeTiffFile } from "./tiff-file.ts";
import { writeWhole, type WholeFile } from "./whole-file.ts";

const TRANSFERS: Readonly<Record<ExportOptions["encoding"], Transfer>> = {
  srgb: SRGB_TRANSFER,
  gamma22: GAMMA22_TRANSFER,
  lightness: LIGHTNESS_TRANSFER,
};

/** A file that was written. Milliseconds: computing the picture, and everything else until it was on disk. */
export interface WrittenPrint {
  readonly width: number;
  readonly height: number;
  readonly bytes: number;
  readonly timings: { readonly renderMs: number; readonly encodeMs: number };
}

/**
 * Renders a print at full size (then scaled, when a long edge is asked for) and writes it, whole or not at all. TIFF and
 * PNG stream band by band, so that memory does not grow with the picture.
 * @param onProgress - told the share done; may throw to stop.
 */
export async function writePrint(
  engine: Engine,
  print: PreparedPrint,
  options: ExportOptions,
  info: CaptureInfo | null,
  path: string,
  onProgress: (share: number) => void = () => undefined,
): Promise<WrittenPrint> {
  const started = performance.now();
  const format = formatOf(print, options);
  const transfer = TRANSFERS[options.encoding];
  const icc = iccProfile({
    description: `Yelm ${format.channels === 1 ? "grey" : "sRGB"} ${options.encoding}`,
    transfer,
    model: format.channels === 1 ? "grey" : "rgb",
  });
  const metadata = options.metadata && info ? describeCapture(info) : null;
  const exif = metadata && writeTiff(metadata);
  const clock = { renderMs: 0 };
  const text = await letters(print.recipe.finish.mount.caption, format.mount);
  const bands = timed(printBands(engine, print, options, transfer, text), clock, format.height, onProgress);
  const fill = async (file: WholeFile) => {
    if (options.format === "tiff") await writeTiffFile(file, format, bands, icc, metadata);
    else if (options.format === "png") await writePngFile(file, format, bands, icc, exif);
    else await writeJpegFile(file, format, bands, options.jpegQuality, icc, exif);
  };
  const { bytes } = await writeWhole(path, fill, format.width * format.height * format.channels * (format.bits / 8));
  onProgress(1);
  const { width, height } = format;
  return { width, height, bytes, timings: { ...clock, encodeMs: performance.now() - started - clock.renderMs } };
}

/** Hands bands on, adding up the time they took to compute. */
function* timed(
  bands: Iterator<Band>,
  clock: { renderMs: number },
  height: number,
  onProgress: (share: number) => void,
): Generator<Band> {
  let done = 0;
  for (;;) {
    const started = performance.now();
    const { value, done: ended } = bands.next() as IteratorResult<Band, undefined>;
    clock.renderMs += performance.now() - started;
    if (ended) return;
    done += value.rows;
    onProgress((0.97 * done) / height);
    yield value;
  }
}

/** Names and captions keep their letters: readers take the text fields of EXIF as UTF-8. */
const utf8 = (tag: number, text: string): Field => ({ tag, type: "ascii", values: [...Buffer.from(text), 0] });

function describeCapture(info: CaptureInfo): Directory {
  const main: Field[] = [ascii(305, "Yelm")];
  const exif: Field[] = [{ tag: 36864, type: "undefined", values: [48, 50, 51, 50] }];
  if (info.make) main.push(ascii(271, info.make));
  if (info.model) main.push(ascii(272, info.model));
  if (info.caption) main.push(utf8(270, info.caption));
  if (info.artist) main.push(utf8(315, info.artist));
  if (info.copyright) main.push(utf8(33432, info.copyright));
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
  return { fields: main, children: [{ tag: 34665, directory: { fields: exif } }] };
}
