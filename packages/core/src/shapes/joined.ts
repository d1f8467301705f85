import { Type, type TSchema } from "@sinclair/typebox";
import type { KernelHeap } from "../kernels/heap.ts";
import { choice, group, stableId } from "../schema/fields.ts";
import type { Box, ShapeKind } from "./shape.ts";

/** How a shape is laid onto those before it. */
export const JOINS = ["join", "subtract", "intersect"] as const;
export type Join = (typeof JOINS)[number];

/** One shape of several. */
export interface JoinedPart<S> {
  readonly id: string;
  readonly how: Join;
  readonly invert: boolean;
  readonly shape: S;
}

/** Several shapes that act as one. */
export interface JoinedShape<S> {
  readonly kind: "joined";
  readonly parts: readonly JoinedPart<S>[];
}

/** Most shapes that act as one. */
export const MOST_JOINED = 12;

/** What has to be known of the kinds that are joined. */
interface Kinds<S> {
  readonly union: TSchema;
  of(this: void, shape: S): ShapeKind<S>;
  fresh(this: void, x: number, y: number): S;
}

const EVERYWHERE: Box = { left: -Infinity, top: -Infinity, right: Infinity, bottom: Infinity };
const NOWHERE: Box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };

/**
 * Shapes laid onto each other in order: joined a + b − a·b, subtracted a·(1 − b), intersected a·b, so that soft edges stay soft
 * and what a shape and its inverse leave of another one adds up to it.
 */
export function joinedKind<S>({ union, of, fresh }: Kinds<S>): ShapeKind<JoinedShape<S>> {
  const schema = group(
    {
      kind: Type.Literal("joined"),
      parts: Type.Array(
        group(
          {
            id: stableId("Stays with the shape."),
            how: choice(JOINS, "join", "How it is laid onto those before; the first is always joined."),
            invert: Type.Boolean({ default: false, description: "What lies outside it counts." }),
            shape: union,
          },
          "One shape of several.",
        ),
        { maxItems: MOST_JOINED, noun: "shapes in one", default: [], description: "In order, first to last." },
      ),
    },
    "Several shapes that act as one.",
  );
  return {
    kind: "joined",
    schema,
    fresh: (x, y) => ({ kind: "joined", parts: [{ id: "p1", how: "join", invert: false, shape: fresh(x, y) }] }),
    draw(heap, { parts }, grid, out, matte) {
      const n = grid.width * grid.height;
      heap.floats(out, n).fill(0);
      const mark = heap.mark();
      const own = heap.allocate(4 * n);
      parts.forEach(({ how, invert, shape }, i) => {
        of(shape).draw(heap, shape, grid, own, matte);
        lay(heap, out, own, n, i === 0 ? "join" : how, invert);
      });
      heap.release(mark);
    },
    bounds: ({ parts }) =>
      parts.reduce<Box>((box, { how, invert, shape }, i) => {
        const own = invert ? EVERYWHERE : of(shape).bounds(shape);
        if (i === 0 || how === "join") return around(box, own);
        return how === "subtract" ? box : within(box, own);
      }, NOWHERE),
    // Where two fades meet, their product is at most twice as steep.
    fade: ({ parts }) => Math.min(...parts.map(({ shape }) => of(shape).fade(shape))) * (parts.length > 1 ? 0.5 : 1),
    carry: (joined, carry) => ({
      ...joined,
      parts: joined.parts.map((part) => ({ ...part, shape: of(part.shape).carry(part.shape, carry) })),
    }),
    words: ({ parts }) =>
      parts
        .map(({ how, invert, shape }, i) => {
          const words = `${invert ? "outside " : ""}${of(shape).words(shape)}`;
          return i === 0 ? words : `${WORDS[how]} ${words}`;
        })
        .join(" "),
    isDrawn: ({ parts }) => parts.some(({ shape }) => of(shape).isDrawn(shape)),
  };
}

const WORDS: Readonly<Record<Join, string>> = { join: "with", subtract: "without", intersect: "within" };

function lay(heap: KernelHeap, out: number, own: number, n: number, how: Join, invert: boolean): void {
  const sum = heap.floats(out, n);
  const mask = heap.floats(own, n);
  for (let i = 0; i < n; i++) {
    const a = sum[i];
    const b = invert ? 1 - mask[i] : mask[i];
    sum[i] = how === "join" ? a + b * (1 - a) : how === "subtract" ? a * (1 - b) : a * b;
  }
}

function around(a: Box, b: Box): Box {
  return {
    left: Math.min(a.left, b.left),
    top: Math.min(a.top, b.top),
    right: Math.max(a.right, b.right),
    bottom: Math.max(a.bottom, b.bottom),
  };
}

function within(a: Box, b: Box): Box {
  const box = {
    left: Math.max(a.left, b.left),
    top: Math.max(a.top, b.top),
    right: Math.min(a.right, b.right),
    bottom: Math.min(a.bottom, b.bottom),
  };
  return box.right < box.left || box.bottom < box.top ? NOWHERE : box;
}
