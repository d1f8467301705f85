import exifr from "exifr";
import type { CaptureInfo } from "@yelm/core";

/** What a file says of how and by whom it was taken, as text from outside: cut to a length that can be shown. */
type Described = Pick<
  CaptureInfo,
  "make" | "model" | "lens" | "iso" | "shutterSeconds" | "fNumber" | "focalLengthMm" | "takenAt"
> &
  Authored;
/** Who made a picture and what it shows, as its file says. */
export type Authored = Pick<CaptureInfo, "artist" | "copyright" | "caption">;

const LONGEST = 2000;
const READ = {
  tiff: true,
  exif: true,
  iptc: true,
  xmp: false,
  gps: false,
  interop: false,
  ifd1: false,
  mergeOutput: true,
};

/** Reads what it can; a file without any gives empty answers. */
export async function readExif(file: string | Uint8Array): Promise<Described> {
  const found = ((await exifr.parse(file, READ).catch(() => undefined)) ?? {}) as Record<string, unknown>;
  const text = (...names: string[]) => names.map((name) => textOf(found[name])).find((value) => value.length > 0) ?? "";
  const number = (name: string) => {
    const value = found[name];
    return typeof value === "number" && Number.isFinite(value) ? value : null;
  };
  const taken = found.DateTimeOriginal;
  const authored = {
    artist: text("Artist", "Byline"),
    copyright: text("Copyright", "CopyrightNotice"),
    caption: text("ImageDescription", "Caption"),
  };
  return {
    make: text("Make"),
    model: text("Model"),
    lens: text("LensModel"),
    iso: number("ISO"),
    shutterSeconds: number("ExposureTime"),
    fNumber: number("FNumber"),
    focalLengthMm: number("FocalLength"),
    takenAt: taken instanceof Date && !isNaN(taken.getTime()) ? taken.toISOString().slice(0, 19) : null,
    ...Object.fromEntries(Object.entries(authored).filter(([, value]) => value)),
  };
}

function textOf(value: unknown): string {
  if (Array.isArray(value)) return value.map(textOf).filter(Boolean).join(", ").slice(0, LONGEST);
  // Control characters are no text.
  return typeof value === "string"
    ? value
        .replace(/\p{Cc}+/gu, " ")
        .trim()
        .slice(0, LONGEST)
    : "";
}
