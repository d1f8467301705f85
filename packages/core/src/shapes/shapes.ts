import { Type, type Static } from "@sinclair/typebox";
import type { KernelHeap } from "../kernels/heap.ts";
import { brush, brushSchema } from "./brush.ts";
import { ellipse, ellipseSchema } from "./ellipse.ts";
import type { Box, Carry, MaskGrid, ShapeKind } from "./shape.ts";

/** Every kind of shape, by its name. A new one is a file and two lines here: its schema and its kind. */
export const shapeUnion = Type.Union([ellipseSchema, brushSchema]);
const KINDS = { ellipse, brush } as const;

/** A shape on the flat picture: where something acts, and how much. */
export type MaskShape = Static<typeof shapeUnion>;
export type ShapeName = MaskShape["kind"];
export const SHAPE_NAMES = Object.keys(KINDS) as ShapeName[];

/** What there is to know of a shape's kind. */
export function kindOf<S extends MaskShape>(shape: S): ShapeKind<S> {
  return KINDS[shape.kind] as unknown as ShapeKind<S>;
}

/** A shape of a kind, of usual size, about a place. */
export function newShape(name: ShapeName, x: number, y: number): MaskShape {
  return KINDS[name].fresh(x, y);
}

/** Draws a shape's mask (0–1) into `out`, width·height f32. */
export function drawMask(heap: KernelHeap, shape: MaskShape, grid: MaskGrid, out: number): void {
  kindOf(shape).draw(heap, shape, grid, out);
}

/** A box outside which a shape's mask is 0. */
export function shapeBounds(shape: MaskShape): Box {
  return kindOf(shape).bounds(shape);
}

/** A shape after the lens was corrected otherwise. */
export function carryShape(shape: MaskShape, carry: Carry): MaskShape {
  return kindOf(shape).carry(shape, carry);
}

/** What a shape is called in a line of the ticket. */
export function shapeWords(shape: MaskShape): string {
  return kindOf(shape).words(shape);
}

/** False while there is nothing of a shape to be seen. */
export function isDrawn(shape: MaskShape): boolean {
  return kindOf(shape).isDrawn(shape);
}
