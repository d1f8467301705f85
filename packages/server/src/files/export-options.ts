import { Type, type Static } from "@sinclair/typebox";

/** How a print is written to a file. */
export const exportOptionsSchema = Type.Object(
  {
    format: Type.Unsafe<"tiff" | "png" | "jpeg">({ type: "string", enum: ["tiff", "png", "jpeg"], default: "tiff" }),
    longEdge: Type.Union([Type.Integer({ minimum: 16, maximum: 30000 }), Type.Null()], { default: null }),
    encoding: Type.Unsafe<"srgb" | "gamma22" | "lightness">({
      type: "string",
      enum: ["srgb", "gamma22", "lightness"],
      default: "srgb",
    }),
    jpegQuality: Type.Integer({ minimum: 40, maximum: 100, default: 92 }),
    namePattern: Type.String({ minLength: 1, maxLength: 120, default: "{negative}-{print}" }),
    metadata: Type.Boolean({ default: true }),
  },
  { additionalProperties: false },
);
export type ExportOptions = Static<typeof exportOptionsSchema>;

export const DEFAULT_EXPORT: ExportOptions = {
  format: "tiff",
  longEdge: null,
  encoding: "srgb",
  jpegQuality: 92,
  namePattern: "{negative}-{print}",
  metadata: true,
};

const EXTENSIONS = { tiff: "tif", png: "png", jpeg: "jpg" } as const;

/** Words that a name pattern may hold in braces. */
export const NAME_WORDS = ["negative", "print", "roll", "date", "long-edge"] as const;

/** Fills a file-name pattern; whatever could lead out of a folder or upset a file system becomes a dash. */
export function fileNameFor(
  { namePattern, format }: ExportOptions,
  words: Readonly<Record<(typeof NAME_WORDS)[number], string>>,
): string {
  const filled = namePattern.replace(/\{([a-z-]+)\}/g, (whole, word: string) => (word in words ? words[word as "print"] : whole));
  const safe = filled
    .normalize("NFC")
    .replace(/[\p{Cc}\\/:*?"<>|{}]+/gu, "-")
    .replace(/\s+/g, "-")
    .replace(/-+/g, "-")
    .replace(/^[.\-]+|[.\-]+$/g, "")
    .slice(0, 120);
  return `${safe || "print"}.${EXTENSIONS[format]}`;
}
