import { Type, type Static } from "@sinclair/typebox";
import { defaultOf } from "../schema/defaults.ts";

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
    jpegQuality: Type.Integer({ minimum: 40, maximum: 100, default: 97 }),
    namePattern: Type.String({ minLength: 1, maxLength: 120, default: "{negative}-{print}" }),
    metadata: Type.Boolean({ default: true }),
    /** Whether border, mat and caption go into the file, where the print has any. */
    mount: Type.Boolean({ default: true }),
  },
  { additionalProperties: false },
);
export type ExportOptions = Static<typeof exportOptionsSchema>;

/** Full size, 16-bit TIFF, sRGB, metadata kept. */
export const DEFAULT_EXPORT = defaultOf(exportOptionsSchema) as ExportOptions;

/** Words that a name pattern may hold in braces. */
export const NAME_WORDS = ["negative", "print", "roll", "date", "long-edge"] as const;
