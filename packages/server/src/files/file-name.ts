import type { ExportOptions, NAME_WORDS } from "@yelm/core";

const EXTENSIONS = { tiff: "tif", png: "png", jpeg: "jpg" } as const;
/** File systems take 255 bytes; this leaves room for a number, an extension, and the name while it is written. */
const LONGEST_NAME_BYTES = 180;
/** Larger captures are not brought in. */
export const MAXIMUM_FILE_BYTES = 512 * 2 ** 20;
/** Larger archives of rolls are not opened. */
export const MAXIMUM_ARCHIVE_BYTES = 64 * 2 ** 30;

/** Fills a file-name pattern; whatever could lead out of a folder or upset a file system becomes a dash. */
export function fileNameFor(
  { namePattern, format }: ExportOptions,
  words: Readonly<Record<(typeof NAME_WORDS)[number], string>>,
): string {
  const filled = namePattern.replace(/\{([a-z-]+)\}/g, (whole, word: string) =>
    Object.hasOwn(words, word) ? words[word as "print"] : whole,
  );
  const safe = filled
    .normalize("NFC")
    .replace(/[\p{Cc}\\/:*?"<>|{}]+/gu, "-")
    .replace(/\s+/g, "-")
    .replace(/-+/g, "-");
  const trimmed = cutToBytes(safe.replace(/^[.-]+/, ""), LONGEST_NAME_BYTES).replace(/[.-]+$/, "");
  return `${trimmed || "print"}.${EXTENSIONS[format]}`;
}

/** The last part of a name from outside, as it is shown; never used as a path. */
export function shortName(name: string): string {
  const last = name.replaceAll("\\", "/").split("/").at(-1)!;
  return cutToBytes(last.replace(/\p{Cc}/gu, " "), LONGEST_NAME_BYTES).trim() || "unnamed";
}

/** The beginning of a text that takes at most so many bytes in UTF-8, no character cut in two. */
export function cutToBytes(text: string, most: number): string {
  let bytes = 0;
  let end = 0;
  for (const character of text) {
    bytes += Buffer.byteLength(character);
    if (bytes > most) break;
    end += character.length;
  }
  return text.slice(0, end);
}
