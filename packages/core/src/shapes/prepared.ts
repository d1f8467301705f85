import { hashOf } from "../maths/hash-of.ts";
import type { GraphPrint } from "../graph/stage.ts";
import { applyAffine, invertAffine, type Affine } from "../maths/affine.ts";
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
  /** What it is built up of, in order; null when it is not. */
  readonly steps: readonly Step[] | null;
  readonly bounds: Box;
  /** As in {@link ShapeKind.fade}. */
  readonly fade: number;
}

/** One step of a shape that is built up. */
interface Step {
  readonly step: object;
  readonly key: string;
  readonly bounds: Box;
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
const knownSteps = new WeakMap<object, Step>();

/** What is known of a shape is kept as long as the shape itself: recipes share what does not change. */
export function prepareShape(shape: MaskShape, invert: boolean): PreparedShape {
  let facts = known.get(shape);
  if (!facts) {
    const kind = kindOf(shape);
    const steps = kind.steps?.(shape).map((step) => prepareStep(step, (one) => kind.stepBounds!(one))) ?? null;
    facts = {
      key: steps ? keyOf(shape, steps) : hashOf(JSON.stringify(shape)),
      keyBefore: steps && steps.length > 1 ? keyOf(shape, steps.slice(0, -1)) : null,
      steps,
      bounds: kind.bounds(shape),
      fade: kind.fade(shape),
    };
    known.set(shape, facts);
  }
  return { shape, invert, ...facts };
}

const keyOf = ({ kind }: MaskShape, steps: readonly Step[]) => hashOf(`${kind} ${steps.map(({ key }) => key).join()}`);

/** A step that stays the same object is hashed once, however many come after it. */
function prepareStep(step: object, boundsOf: (step: object) => Box): Step {
  let made = knownSteps.get(step);
  if (!made) knownSteps.set(step, (made = { step, key: hashOf(JSON.stringify(step)), bounds: boundsOf(step) }));
  return made;
}

/** Names what of a shape may show in a rectangle of the frame's pixels: of one that is built up, the steps that reach it. */
export function keyWithin(print: FramedPrint, { key, steps }: PreparedShape, level: number, rect: Rect): unknown {
  if (!steps) return key;
  const box = flatBox(print, level, rect);
  return [...steps.filter(({ bounds }) => meet(bounds, box)).map((step) => step.key)];
}

/** A box of the flat picture outside which two shapes' masks are the same; null where nothing differs. */
export function differIn(one: PreparedShape, other: PreparedShape): Box | null {
  if (one.key === other.key) return null;
  const kind = kindOf(other.shape);
  if (!one.steps || !other.steps || one.shape.kind !== other.shape.kind) return around([one.bounds, other.bounds]);
  const [was, is] = [one.steps, other.steps];
  let same = 0;
  while (same < Math.min(was.length, is.length) && was[same].key === is[same].key) same++;
  const isOneStep = was.length === is.length && same === is.length - 1;
  if (isOneStep && kind.stepsDifferIn) return kind.stepsDifferIn(was[same].step, is[same].step);
  return around([...was.slice(same), ...is.slice(same)].map(({ bounds }) => bounds));
}

/** The box about some boxes. */
export function around(boxes: readonly Box[]): Box {
  return {
    left: Math.min(...boxes.map(({ left }) => left)),
    top: Math.min(...boxes.map(({ top }) => top)),
    right: Math.max(...boxes.map(({ right }) => right)),
    bottom: Math.max(...boxes.map(({ bottom }) => bottom)),
  };
}

/** The pixels of a level of the frame that a box of the flat picture touches; the box may have no end, or be none. */
export function rectOfBox(print: FramedPrint, level: number, box: Box): Rect {
  const { frame, negative } = print;
  const edge = Math.max(negative.width, negative.height);
  const all = flatBox(print, 0, { x: 0, y: 0, width: frame.width, height: frame.height });
  if (!meet(box, all)) return { x: 0, y: 0, width: 0, height: 0 };
  const [left, right] = [Math.max(box.left, all.left), Math.min(box.right, all.right)];
  const [top, bottom] = [Math.max(box.top, all.top), Math.min(box.bottom, all.bottom)];
  const fromFlat = invertAffine(frame.toFlat);
  const corners = [[left, top], [right, top], [left, bottom], [right, bottom]].map(([x, y]) => applyAffine(fromFlat, x * edge, y * edge)); // prettier-ignore
  const xs = corners.map(([x]) => x / 2 ** level);
  const ys = corners.map(([, y]) => y / 2 ** level);
  const [x, y] = [Math.floor(Math.min(...xs)) - 1, Math.floor(Math.min(...ys)) - 1];
  return { x, y, width: Math.ceil(Math.max(...xs)) + 1 - x, height: Math.ceil(Math.max(...ys)) + 1 - y };
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
  return meet(bounds, flatBox(print, level, rect));
}

/** The box of the flat picture that a rectangle of the frame's pixels covers. */
function flatBox(print: FramedPrint, level: number, rect: Rect): Box {
  const { toFlat } = maskGrid(print, level, rect);
  const [right, bottom] = [rect.width, rect.height];
  // Pixel centres run from 0 to width − 1; one more on each side is room for rounding.
  const corners = [[-1, -1], [right, -1], [-1, bottom], [right, bottom]].map(([x, y]) => applyAffine(toFlat, x, y)); // prettier-ignore
  const xs = corners.map(([x]) => x);
  const ys = corners.map(([, y]) => y);
  return { left: Math.min(...xs), top: Math.min(...ys), right: Math.max(...xs), bottom: Math.max(...ys) };
}

const meet = (one: Box, other: Box) =>
  one.left <= other.right && one.right >= other.left && one.top <= other.bottom && one.bottom >= other.top;
