import { Type, type Static } from "@sinclair/typebox";
import { group } from "../schema/fields.ts";
import type { ShapeKind } from "./shape.ts";

export const wholeSchema = group({ kind: Type.Literal("whole") }, "The whole picture.");
export type WholeShape = Static<typeof wholeSchema>;

/** A picture so large that every mask may be drawn as coarse as any. */
const ENDLESS = 1e6;

export const whole: ShapeKind<WholeShape> = {
  kind: "whole",
  schema: wholeSchema,
  fresh: () => ({ kind: "whole" }),
  draw: (heap, _shape, { width, height }, out) => void heap.floats(out, width * height).fill(1),
  bounds: () => ({ left: -Infinity, right: Infinity, top: -Infinity, bottom: Infinity }),
  fade: () => ENDLESS,
  carry: (shape) => shape,
  words: () => "whole picture",
  isDrawn: () => true,
};
