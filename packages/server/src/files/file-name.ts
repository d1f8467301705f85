import type { ExportOptions, NAME_WORDS } from "@yelm/core";

const EXTENSIONS = { tiff: "tif", png: "png", jpeg: "jpg" } as const;

/** Fills a file-name pattern; whatever could lead out of a folder or upset a file system becomes a dash. */
export function fileNameFor(
  { namePattern, format }: ExportOptions,
  words: Readonly<Record<(typeof NAME_WORDS)[number], string>>,
): string {
  const filled = namePattern.replace(/\{([a-z-]+)\}/g, (whole, word: string) =>
    word in words ? words[word as "print"] : whole,
  );
  const safe = filled
    .normalize("NFC")
    .replace(/[\p{Cc}\\/:*?"<>|{}]+/gu, "-")
    .replace(/\s+/g, "-")
    .replace(/-+/g, "-")
    .replace(/^[.-]+|[.-]+$/g, "")
    .slice(0, 120);
  return `${safe || "print"}.${EXTENSIONS[format]}`;
}
