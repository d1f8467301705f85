import { Type, type Static } from "@sinclair/typebox";
import type { KernelHeap } from "../kernels/heap.ts";
import type { Affine } from "../maths/affine.ts";
import { rangeOf } from "../schema/defaults.ts";
import { fraction, group, number, stableId } from "../schema/fields.ts";
import { halvingsOfFade, PLACE_RANGE, withinPlaces, type Box, type MaskGrid, type ShapeKind } from "./shape.ts";

const place = () => Type.Number({ minimum: PLACE_RANGE.lowest, maximum: PLACE_RANGE.highest });

export const strokeSchema = group(
  {
    id: stableId("Stays with the stroke."),
    radius: number(0.001, 1, 0.06, "long edges", "Radius to where the stroke ends."),
    softness: fraction(1, "Share of the radius over which it fades out."),
    flow: number(0.005, 1, 0.05, "fraction", "Share of the move that one stroke lays down."),
    erase: Type.Boolean({ default: false, description: "Takes away instead of laying down." }),
    points: Type.Array(Type.Tuple([place(), place(), Type.Number({ minimum: 0, maximum: 1 })]), {
      minItems: 1,
      maxItems: 2000,
      description: "x, y in long edges from the negative's top left; pen pressure 0–1.",
    }),
  },
  "One brush stroke.",
);
export type Stroke = Static<typeof strokeSchema>;

export const brushSchema = group(
  {
    kind: Type.Literal("brush"),
    strokes: Type.Array(strokeSchema, {
      maxItems: 500,
      noun: "strokes in one brush",
      default: [],
      description: "In order, first to last.",
    }),
  },
  "Brush strokes that build up.",
);
export type BrushShape = Static<typeof brushSchema>;

const RADIUS = rangeOf(strokeSchema, "radius");
const FRESH_STROKE = { radius: 0.06, softness: 1, flow: 0.5, erase: false };

export const brush: ShapeKind<BrushShape> = {
  kind: "brush",
  schema: brushSchema,
  fresh: (x, y) => ({ kind: "brush", strokes: [{ ...FRESH_STROKE, id: "s1", points: [[x, y, 1]] }] }),
  /** Each stroke is built up on those before. */
  draw(heap, { strokes }, grid, mask) {
    heap.floats(mask, grid.width * grid.height).fill(0);
    for (const stroke of strokes) addStroke(heap, stroke, grid, mask);
  },
  steps: ({ strokes }) => strokes,
  stepBounds: (stroke) => boundsOf([stroke as Stroke]),
  stepsDifferIn: (one, other) => strokesDifferIn(one as Stroke, other as Stroke),
  drawLast: (heap, { strokes }, grid, mask) => addStroke(heap, strokes.at(-1)!, grid, mask),
  fade: ({ strokes }) => Math.min(...strokes.map(({ radius, softness }) => radius * softness)),
  bounds: ({ strokes }) => boundsOf(strokes),
  carry: (shape, carry) => ({
    ...shape,
    strokes: shape.strokes.map((stroke) => {
      const [x, y] = middleOf([stroke]);
      const [mx, my] = carry(x, y);
      const [ex, ey] = carry(x + stroke.radius, y);
      return {
        ...stroke,
        radius: Math.min(RADIUS.maximum, Math.max(RADIUS.minimum, Math.hypot(ex - mx, ey - my))),
        points: stroke.points.map(([px, py, pressure]): [number, number, number] => {
          const [nx, ny] = carry(px, py);
          return [withinPlaces(nx), withinPlaces(ny), pressure];
        }),
      };
    }),
  }),
  words: ({ strokes }) => `brush, ${strokes.length} stroke${strokes.length === 1 ? "" : "s"}`,
  isDrawn: ({ strokes }) => strokes.length > 0,
};

/** One stroke that goes on where the other ended is the same up to there. */
function strokesDifferIn(one: Stroke, other: Stroke): Box {
  const isAlike =
    one.radius === other.radius &&
    one.softness === other.softness &&
    one.flow === other.flow &&
    one.erase === other.erase &&
    isEven(one) &&
    isEven(other) &&
    one.points[0][2] === other.points[0][2];
  if (!isAlike) return boundsOf([one, other]);
  const end = Math.min(one.points.length, other.points.length);
  let same = 0;
  while (same < end && one.points[same].every((v, c) => v === other.points[same][c])) same++;
  // The piece that leads up to the first point that differs does, too.
  const from = Math.max(0, same - 1);
  const rest = [one, other].map((stroke) => ({ ...stroke, points: stroke.points.slice(from) }));
  return boundsOf(rest.filter(({ points }) => points.length > 0));
}

/** Whether the pen was pressed alike all along. */
const isEven = ({ points }: Stroke) => points.every(([, , pressure]) => pressure === points[0][2]);

function boundsOf(strokes: readonly Stroke[]): Box {
  const box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };
  for (const { points, radius } of strokes)
    for (const [x, y] of points) {
      box.left = Math.min(box.left, x - radius);
      box.right = Math.max(box.right, x + radius);
      box.top = Math.min(box.top, y - radius);
      box.bottom = Math.max(box.bottom, y + radius);
    }
  return box;
}

/** The mean of all places that strokes pass. */
export function middleOf(strokes: readonly Stroke[]): [number, number] {
  const points = strokes.flatMap((stroke) => stroke.points);
  const mean = (c: 0 | 1) => points.reduce((sum, point) => sum + point[c], 0) / Math.max(1, points.length);
  return [mean(0), mean(1)];
}

/** Parts of a pixel in which places of a stroke are counted. */
const PARTS = 4096;

/**
 * Builds one stroke up on a mask; only the box that it covers is touched. A soft stroke is drawn on a coarser grid than the
 * mask's, as far as its own fade allows.
 */
function addStroke(heap: KernelHeap, stroke: Stroke, grid: MaskGrid, mask: number): void {
  const { points, radius, softness, erase } = stroke;
  const { ax, bx, cx, ay, by, cy } = grid.toFlat;
  const pixelsPerEdge = 1 / Math.hypot(ax, ay);
  // The map is a turn and a scale, so its inverse follows from the transpose.
  const s = pixelsPerEdge * pixelsPerEdge;
  const places = points.map(([px, py]): [number, number] => [
    s * (ax * (px - cx) + ay * (py - cy)),
    s * (bx * (px - cx) + by * (py - cy)),
  ]);
  const halvings = halvingsOfFade(radius * softness * pixelsPerEdge);
  const step = 2 ** halvings;
  const box = boxAbout(places, radius * pixelsPerEdge + 1, grid, Math.max(4, step));
  if (!box) return;
  const mark = heap.mark();
  // One coarse pixel more on every side, so that it can be stretched.
  const apron = halvings === 0 ? 0 : 1;
  const width = ((box.x1 - box.x0) / step + 2 * apron + 3) & ~3;
  const height = Math.ceil((box.y1 - box.y0) / step) + 2 * apron;
  const plane = heap.allocate(4 * width * height);
  // Where the first pixel of the plane lies, in pixels of the mask.
  const left = box.x0 - apron * step + (step - 1) / 2;
  const top = box.y0 - apron * step + (step - 1) / 2;
  // In fractions that stay exact wherever the plane begins, so that what was drawn stays to the bit when the stroke goes on.
  const exact = (v: number) => Math.round(PARTS * v) / PARTS;
  const own = places.map(([x, y]): [number, number] => [exact((x - left) / step), exact((y - top) / step)]);
  const drawn: StrokePlane = { plane, width, height, radius: (radius * pixelsPerEdge) / step };
  if (isEven(stroke)) drawEven(heap, stroke, own, drawn);
  else {
    const toFlat = {
      ax: ax * step,
      bx: bx * step,
      cx: ax * left + bx * top + cx,
      ay: ay * step,
      by: by * step,
      cy: ay * left + by * top + cy,
    };
    drawByPressure(heap, stroke, own, drawn, toFlat);
  }
  const corner = mask + 4 * (box.y0 * grid.width + box.x0);
  const [across, down] = [box.x1 - box.x0, box.y1 - box.y0];
  const taking = erase ? 1 : 0;
  if (halvings === 0) heap.kernels.buildUp(corner, grid.width, plane, width, across, down, taking);
  else {
    const rows = heap.allocate(8 * across);
    heap.kernels.buildUpStretched(corner, grid.width, across, down, plane, width, width, rows, 1 / step, taking);
  }
  heap.release(mark);
}

interface StrokePlane {
  readonly plane: number;
  readonly width: number;
  readonly height: number;
  /** Pixels of the plane. */
  readonly radius: number;
}

/** Of one pressure throughout: by the distance to the nearest piece. */
function drawEven(
  heap: KernelHeap,
  { points, softness, flow }: Stroke,
  places: readonly Place[],
  to: StrokePlane,
): void {
  const { plane, width, height, radius } = to;
  heap.floats(plane, width * height).fill(4 * radius * radius);
  eachPiece(places, to, (i, next, { x0, y0, x1, y1 }) =>
    heap.kernels.pieceDistances(plane, width, x0, y0, x1, y1, ...places[i], ...places[next]),
  );
  heap.kernels.fadeDistances(plane, width * height, radius, 1 - softness, flow * points[0][2]);
}

/** Of a pressure that changes along the way: the strongest piece counts. */
function drawByPressure(
  heap: KernelHeap,
  { points, radius, softness, flow }: Stroke,
  places: readonly Place[],
  to: StrokePlane,
  { ax, bx, cx, ay, by, cy }: Affine,
): void {
  const { plane, width, height } = to;
  heap.floats(plane, width * height).fill(0);
  eachPiece(places, to, (i, next, { x0, y0, x1, y1 }) => {
    const [px, py, pressureP] = points[i];
    const [qx, qy, pressureQ] = points[next];
    heap.kernels.strokePiece(
      plane, width, x0, y0, x1, y1, ax, bx, cx, ay, by, cy,
      px, py, qx, qy, radius, 1 - softness, flow * pressureP, flow * pressureQ,
    ); // prettier-ignore
  });
}

type Place = readonly [number, number];

function eachPiece(
  places: readonly Place[],
  { width, height, radius }: StrokePlane,
  draw: (i: number, next: number, box: NonNullable<ReturnType<typeof boxAbout>>) => void,
): void {
  for (let i = 0; i < Math.max(1, places.length - 1); i++) {
    const next = Math.min(i + 1, places.length - 1);
    const box = boxAbout([places[i], places[next]], radius + 1, { width, height }, 4);
    if (box) draw(i, next, box);
  }
}

/** The pixels of a grid within reach of places, its corner on whole steps, its columns whole vectors. Null when there are none. */
function boxAbout(
  places: readonly Place[],
  reach: number,
  { width, height }: Pick<MaskGrid, "width" | "height">,
  step: number,
) {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const [x, y] of places) {
    left = Math.min(left, x);
    right = Math.max(right, x);
    top = Math.min(top, y);
    bottom = Math.max(bottom, y);
  }
  const x0 = Math.max(0, Math.floor((left - reach) / step) * step);
  const x1 = Math.min(width, (Math.floor((right + reach) / step) + 1) * step);
  const y0 = Math.max(0, Math.floor((top - reach) / step) * step);
  const y1 = Math.min(height, Math.ceil(bottom + reach) + 1);
  return x0 < x1 && y0 < y1 ? { x0, x1, y0, y1 } : null;
}
