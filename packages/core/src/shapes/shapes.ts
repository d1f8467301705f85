import { Type } from "@sinclair/typebox";
import type { KernelHeap } from "../kernels/heap.ts";
import { brush } from "./brush.ts";
import { ellipse } from "./ellipse.ts";
import { joinedKind, type JoinedShape } from "./joined.ts";
import { outline } from "./outline.ts";
import { ramp } from "./ramp.ts";
import { region, type RegionShape } from "./region.ts";
import type { Box, Carry, MaskGrid, MatteOf, ShapeKind } from "./shape.ts";
import { whole } from "./whole.ts";

/** Every kind of shape. A new one is a file and a line here. */
const KINDS = [ellipse, brush, ramp, outline, whole, region] as const;

type Kind = (typeof KINDS)[number];
/** One shape by itself. */
export type SingleShape = Kind extends infer K ? (K extends ShapeKind<infer S> ? S : never) : never;
/** A shape on the flat picture: where something acts, and how much. */
export type MaskShape = SingleShape | JoinedShape<SingleShape>;

const singles = Type.Unsafe<SingleShape>(Type.Union(KINDS.map(({ schema }) => schema)));
const joined = joinedKind<SingleShape>({
  union: singles,
  of: (shape) => kindOf(shape),
  fresh: (x, y) => ellipse.fresh(x, y),
});
const ALL = [...KINDS, joined] as unknown as readonly ShapeKind<never>[];
export const shapeUnion = Type.Unsafe<MaskShape>(Type.Union(ALL.map(({ schema }) => schema)));
export type ShapeName = MaskShape["kind"];
export const SHAPE_NAMES = ALL.map(({ kind }) => kind) as ShapeName[];

const byName = new Map<string, ShapeKind<never>>(ALL.map((kind) => [kind.kind, kind]));

/** What there is to know of a shape's kind. */
export function kindOf<S extends MaskShape>(shape: S): ShapeKind<S> {
  return byName.get(shape.kind) as unknown as ShapeKind<S>;
}

/** A shape of a kind, of usual size, about a place. */
export function newShape(name: ShapeName, x: number, y: number): MaskShape {
  return byName.get(name)!.fresh(x, y);
}

/** Draws a shape's mask (0–1) into `out`, width·height f32. */
export function drawMask(heap: KernelHeap, shape: MaskShape, grid: MaskGrid, out: number, matte?: MatteOf): void {
  kindOf(shape).draw(heap, shape, grid, out, matte);
}

/** The single shapes of a shape. */
export function singlesOf(shape: MaskShape): readonly SingleShape[] {
  return shape.kind === "joined" ? shape.parts.map((part) => part.shape) : [shape];
}

/** The regions of a shape, whose edges follow the picture's colours. */
export function regionsOf(shape: MaskShape): readonly RegionShape[] {
  return singlesOf(shape).filter((one): one is RegionShape => one.kind === "region");
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
