import { Type, type Static } from "@sinclair/typebox";
import type { KernelHeap } from "../kernels/heap.ts";
import { rangeOf } from "../schema/defaults.ts";
import { fraction, group, number, stableId } from "../schema/fields.ts";
import { PLACE_RANGE, withinPlaces, type MaskGrid, type ShapeKind } from "./shape.ts";

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
    const n = grid.width * grid.height;
    const mark = heap.mark();
    const stroke = heap.allocate(4 * n);
    heap.floats(mask, n).fill(0);
    for (const one of strokes) {
      heap.floats(stroke, n).fill(0);
      if (drawStroke(heap, one, grid, stroke)) heap.kernels.buildUp(mask, stroke, n, one.erase ? 1 : 0);
    }
    heap.release(mark);
  },
  bounds({ strokes }) {
    const box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };
    for (const { points, radius } of strokes)
      for (const [x, y] of points) {
        box.left = Math.min(box.left, x - radius);
        box.right = Math.max(box.right, x + radius);
        box.top = Math.min(box.top, y - radius);
        box.bottom = Math.max(box.bottom, y + radius);
      }
    return box;
  },
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

/** The mean of all places that strokes pass. */
export function middleOf(strokes: readonly Stroke[]): [number, number] {
  const points = strokes.flatMap((stroke) => stroke.points);
  const mean = (c: 0 | 1) => points.reduce((sum, point) => sum + point[c], 0) / Math.max(1, points.length);
  return [mean(0), mean(1)];
}

/** Draws one stroke; false when none of it falls on the grid. */
function drawStroke(
  heap: KernelHeap,
  { points, radius, softness, flow }: Stroke,
  grid: MaskGrid,
  out: number,
): boolean {
  const m = grid.toFlat;
  const pixelsPerEdge = 1 / Math.hypot(m.ax, m.ay);
  const reach = radius * pixelsPerEdge + 1;
  // The map is a turn and a scale, so its inverse follows from the transpose.
  const s = pixelsPerEdge * pixelsPerEdge;
  const toGrid = (x: number, y: number): [number, number] => [
    s * (m.ax * (x - m.cx) + m.ay * (y - m.cy)),
    s * (m.bx * (x - m.cx) + m.by * (y - m.cy)),
  ];
  let drawn = false;
  for (let i = 0; i < Math.max(1, points.length - 1); i++) {
    const [px, py, pressureP] = points[i];
    const [qx, qy, pressureQ] = points[Math.min(i + 1, points.length - 1)];
    const [ax, ay] = toGrid(px, py);
    const [bx, by] = toGrid(qx, qy);
    const x0 = Math.max(0, Math.floor(Math.min(ax, bx) - reach) & ~3);
    const x1 = Math.min(grid.width, (Math.ceil(Math.max(ax, bx) + reach) + 4) & ~3);
    const y0 = Math.max(0, Math.floor(Math.min(ay, by) - reach));
    const y1 = Math.min(grid.height, Math.ceil(Math.max(ay, by) + reach) + 1);
    if (x0 >= x1 || y0 >= y1) continue;
    drawn = true;
    heap.kernels.strokePiece(
      out, grid.width, x0, y0, x1, y1,
      m.ax, m.bx, m.cx, m.ay, m.by, m.cy,
      px, py, qx, qy, radius, 1 - softness, flow * pressureP, flow * pressureQ,
    ); // prettier-ignore
  }
  return drawn;
}
