import { hashOf } from "../graph/stage-key.ts";
import type { GraphPrint } from "../graph/stage.ts";
import { applyAffine, type Affine } from "../maths/affine.ts";
import type { Rect, Size } from "../maths/rect.ts";
import { SLOT_EDGE } from "../kernels/heap.ts";
import type { Box, MaskGrid } from "./shape.ts";
import { kindOf, type MaskShape } from "./shapes.ts";

/** A shape ready to be drawn: hashed and measured once for a print, however many tiles ask. */
export interface PreparedShape {
  readonly shape: MaskShape;
  readonly invert: boolean;
  /** Names the shape's geometry. */
  readonly key: string;
  /** Names that of the shape before its last step; null when it is not built up. */
  readonly keyBefore: string | null;
  readonly bounds: Box;
  /** As in {@link ShapeKind.fade}. */
  readonly fade: number;
}

/** A print whose frame lies on the flat picture. */
export interface FramedPrint extends GraphPrint {
  readonly negative: Size;
  readonly frame: Size & { readonly toFlat: Affine };
  /** The plane that the stage "matte" makes for this print; see `matte.ts`. */
  readonly matte?: MatteOrder;
}

/** What is to be made of a shape and the picture's colours. */
export interface MatteOrder {
  readonly shape: MaskShape;
  /** Names the shape's geometry. */
  readonly key: string;
  /** A region's own edge, or how like the colours within the shape each place is. */
  readonly of: "edge" | "likeness";
}

const known = new WeakMap<MaskShape, Omit<PreparedShape, "shape" | "invert">>();
const stepKeys = new WeakMap<object, string>();

/** What is known of a shape is kept as long as the shape itself: recipes share what does not change. */
export function prepareShape(shape: MaskShape, invert: boolean): PreparedShape {
  let facts = known.get(shape);
  if (!facts) {
    const kind = kindOf(shape);
    const steps = kind.steps?.(shape).map(stepKey);
    facts = {
      key: steps ? keyOf(shape, steps) : hashOf(JSON.stringify(shape)),
      keyBefore: steps && steps.length > 1 ? keyOf(shape, steps.slice(0, -1)) : null,
      bounds: kind.bounds(shape),
      fade: kind.fade(shape),
    };
    known.set(shape, facts);
  }
  return { shape, invert, ...facts };
}

const keyOf = ({ kind }: MaskShape, steps: readonly string[]) => hashOf(`${kind} ${steps.join()}`);

/** A step that stays the same object is hashed once, however many come after it. */
function stepKey(step: object): string {
  let key = stepKeys.get(step);
  if (!key) stepKeys.set(step, (key = hashOf(JSON.stringify(step))));
  return key;
}

/** The pixels of a rectangle and where they lie on the flat picture, in long edges. */
export function maskGrid({ frame, negative }: FramedPrint, level: number, rect: Rect): MaskGrid {
  const step = 2 ** level;
  const longEdge = Math.max(negative.width, negative.height);
  const m = frame.toFlat;
  const [cx, cy] = applyAffine(m, (rect.x + 0.5) * step, (rect.y + 0.5) * step);
  const s = step / longEdge;
  const toFlat: Affine = {
    ax: m.ax * s,
    bx: m.bx * s,
    cx: cx / longEdge,
    ay: m.ay * s,
    by: m.by * s,
    cy: cy / longEdge,
  };
  return { width: SLOT_EDGE, height: rect.height, toFlat };
}

/** Whether a shape's mask may differ from 0 somewhere in a rectangle of the frame's pixels. */
export function touches(print: FramedPrint, { bounds }: PreparedShape, level: number, rect: Rect): boolean {
  const { toFlat } = maskGrid(print, level, rect);
  const [right, bottom] = [rect.width, rect.height];
  // Pixel centres run from 0 to width − 1; one more on each side is room for rounding.
  const corners = [[-1, -1], [right, -1], [-1, bottom], [right, bottom]].map(([x, y]) => applyAffine(toFlat, x, y)); // prettier-ignore
  const xs = corners.map(([x]) => x);
  const ys = corners.map(([, y]) => y);
  return (
    bounds.left <= Math.max(...xs) &&
    bounds.right >= Math.min(...xs) &&
    bounds.top <= Math.max(...ys) &&
    bounds.bottom >= Math.min(...ys)
  );
}
