import type { TSchema } from "@sinclair/typebox";
import type { KernelHeap } from "../kernels/heap.ts";
import type { Affine } from "../maths/affine.ts";

/** A grid of pixels and where their centres lie on the flat picture, in long edges from its top left. */
export interface MaskGrid {
  /** Multiple of 4. */
  readonly width: number;
  readonly height: number;
  readonly toFlat: Affine;
}

/** A box on the flat picture, in long edges; sides may be infinite. */
export interface Box {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

/** Where a place of the flat picture goes when the lens is corrected otherwise, in long edges. */
export type Carry = (x: number, y: number) => [number, number];

/**
 * A plane over the very grid that a shape is drawn on (0–1, stride as stated), made of the picture's colours for a region; null
 * where there is no picture to ask.
 */
export type MatteOf = (region: object) => { readonly pointer: number; readonly stride: number } | null;

/** Lowest and highest coordinate of a shape's places; what is carried stays within. */
export const PLACE_RANGE = { lowest: -1, highest: 2 } as const;

/** A kind of shape: everything the rest of Yelm needs to know of it. One file each, one line in `shapes.ts`. */
export interface ShapeKind<S> {
  readonly kind: string;
  readonly schema: TSchema;
  /** One of usual size about a place. */
  fresh(x: number, y: number): S;
  /** Draws the mask, 0–1, into `out`: width·height f32. Outside its bounds it is 0 to the bit. */
  draw(heap: KernelHeap, shape: S, grid: MaskGrid, out: number, matte?: MatteOf): void;
  /** A box outside which the mask is 0. */
  bounds(shape: S): Box;
  /** The shortest way on which the mask goes from full to nothing, long edges; 0 where it breaks off at once. */
  fade(shape: S): number;
  /** For shapes that are built up: their steps, each laid onto those before; all that the mask depends on. */
  steps?(shape: S): readonly object[];
  /** A box outside which a step lays nothing. */
  stepBounds?(step: object): Box;
  /** A box outside which a step lays what another one lays, to the bit; of two that have little in common, all of both. */
  stepsDifferIn?(one: object, other: object): Box;
  /** Lays the last step onto the mask of those before. */
  drawLast?(heap: KernelHeap, shape: S, grid: MaskGrid, mask: number): void;
  /** The shape on what it was drawn on, after the lens was corrected otherwise. */
  carry(shape: S, carry: Carry): S;
  /** What it is called in a line of the ticket. */
  words(shape: S): string;
  /** False while there is nothing of it to be seen, such as a brush without a stroke. */
  isDrawn(shape: S): boolean;
}

/**
 * Pixels of the coarsest grid that a fade has to cover. Stretched in straight lines between them, a mask is then nowhere
 * farther off than 5.8 / 20² / 8 = 0.002 of its height.
 */
const STEPS_A_FADE = 20;
const MOST_HALVINGS = 5;

/** How many halvings coarser a mask may be drawn whose shortest fade is so many pixels long. */
export function halvingsOfFade(pixels: number): number {
  return Math.min(MOST_HALVINGS, Math.max(0, Math.floor(Math.log2(pixels / STEPS_A_FADE))));
}

export function withinPlaces(v: number): number {
  return Math.min(PLACE_RANGE.highest, Math.max(PLACE_RANGE.lowest, v));
}
