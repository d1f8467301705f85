import { MOST_JOINED, type Join, type MaskShape, type SingleShape } from "@yelm/core";
import { newId } from "./stack-edits.ts";

type Joined = Extract<MaskShape, { kind: "joined" }>;

/** Several shapes as one; one by itself becomes the first of them. */
function asJoined(shape: MaskShape): Joined {
  if (shape.kind === "joined") return shape;
  return { kind: "joined", parts: [{ id: newId(), how: "join", invert: false, shape }] };
}

/** A shape with one more laid onto it; null when there is no room. */
export function withPart(
  shape: MaskShape,
  how: Join,
  part: SingleShape,
): { readonly shape: MaskShape; readonly partId: string } | null {
  const joined = asJoined(shape);
  if (joined.parts.length >= MOST_JOINED) return null;
  const partId = newId();
  return { shape: { ...joined, parts: [...joined.parts, { id: partId, how, invert: false, shape: part }] }, partId };
}

/** The single shape in hand of a shape: the part chosen, else the last; a single one itself. */
export function partInHand(
  shape: MaskShape,
  partId: string | null,
): { readonly id: string | null; readonly shape: SingleShape } | null {
  if (shape.kind !== "joined") return { id: null, shape };
  return shape.parts.find(({ id }) => id === partId) ?? shape.parts.at(-1) ?? null;
}

/** Changes the single shape in hand. */
export function changePart(
  shape: MaskShape,
  partId: string | null,
  change: (part: SingleShape) => MaskShape,
): MaskShape {
  const inHand = partInHand(shape, partId);
  if (!inHand) return shape;
  const next = change(inHand.shape);
  if (shape.kind !== "joined") return next;
  if (next.kind === "joined") return shape;
  return { ...shape, parts: shape.parts.map((part) => (part.id === inHand.id ? { ...part, shape: next } : part)) };
}

/** Without one of its parts; what is left of two is a single shape again, unless it is turned inside out. */
export function withoutPart(shape: MaskShape, partId: string): MaskShape {
  if (shape.kind !== "joined") return shape;
  const parts = shape.parts.filter(({ id }) => id !== partId);
  if (parts.length === 1 && !parts[0].invert) return parts[0].shape;
  return parts.length === 0 ? shape : { ...shape, parts };
}
