import { Type } from "@sinclair/typebox";
import type { KernelHeap } from "../kernels/heap.ts";
import { brush } from "./brush.ts";
import { ellipse } from "./ellipse.ts";
import { outline } from "./outline.ts";
import { ramp } from "./ramp.ts";
import type { Box, Carry, MaskGrid, ShapeKind } from "./shape.ts";
import { whole } from "./whole.ts";

/** Every kind of shape. A new one is a file and a line here. */
const KINDS = [ellipse, brush, ramp, outline, whole] as const;

type Kind = (typeof KINDS)[number];
/** A shape on the flat picture: where something acts, and how much. */
export type MaskShape = Kind extends infer K ? (K extends ShapeKind<infer S> ? S : never) : never;
export const shapeUnion = Type.Unsafe<MaskShape>(Type.Union(KINDS.map(({ schema }) => schema)));
export type ShapeName = MaskShape["kind"];
export const SHAPE_NAMES = KINDS.map(({ kind }) => kind) as ShapeName[];

const byName = new Map<string, ShapeKind<never>>(KINDS.map((kind) => [kind.kind, kind as unknown as ShapeKind<never>]));

/** What there is to know of a shape's kind. */
export function kindOf<S extends MaskShape>(shape: S): ShapeKind<S> {
  return byName.get(shape.kind) as unknown as ShapeKind<S>;
}

/** A shape of a kind, of usual size, about a place. */
export function newShape(name: ShapeName, x: number, y: number): MaskShape {
  return byName.get(name)!.fresh(x, y);
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
