import type { Affine } from "../ground/geometry.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import type { EllipseShape, LightMove, Stroke } from "../recipe/schema.ts";

/** A grid of pixels and where their centres lie on the flat picture, in long edges from its top left. */
export interface MaskGrid {
  /** Multiple of 4. */
  readonly width: number;
  readonly height: number;
  readonly toFlat: Affine;
}

/** The strength with which a move counts: stops × amount, 0 when it is off. */
export function moveGain(move: LightMove): number {
  return move.on ? (move.stops * move.amountPercent) / 100 : 0;
}

/** Draws a shape's mask (0–1) into `out`, width·height f32. */
export function drawMask(heap: KernelHeap, shape: LightMove["shape"], grid: MaskGrid, out: number): void {
  if (shape.kind === "brush") drawStrokes(heap, shape.strokes, grid, out);
  else drawEllipse(heap, shape, grid, out);
}

function drawEllipse(heap: KernelHeap, shape: EllipseShape, { width, height, toFlat: m }: MaskGrid, out: number) {
  const angle = (shape.angleDegrees * Math.PI) / 180;
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  const across = (x: number, y: number) => (cos * x + sin * y) / shape.radiusX;
  const down = (x: number, y: number) => (cos * y - sin * x) / shape.radiusY;
  const cx = m.cx - shape.x;
  const cy = m.cy - shape.y;
  heap.kernels.drawEllipse(
    out, width, height,
    across(m.ax, m.ay), across(m.bx, m.by), across(cx, cy),
    down(m.ax, m.ay), down(m.bx, m.by), down(cx, cy),
    1 - shape.softness,
  ); // prettier-ignore
}

/** Rasterises strokes into `mask` (width·height f32, 0–1): each built up on those before. */
function drawStrokes(heap: KernelHeap, strokes: readonly Stroke[], grid: MaskGrid, mask: number): void {
  const n = grid.width * grid.height;
  const mark = heap.mark();
  const stroke = heap.allocate(4 * n);
  heap.floats(mask, n).fill(0);
  for (const one of strokes) {
    heap.floats(stroke, n).fill(0);
    if (drawStroke(heap, one, grid, stroke)) heap.kernels.buildUp(mask, stroke, n, one.erase ? 1 : 0);
  }
  heap.release(mark);
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
  const place = (x: number, y: number): [number, number] => [
    s * (m.ax * (x - m.cx) + m.ay * (y - m.cy)),
    s * (m.bx * (x - m.cx) + m.by * (y - m.cy)),
  ];
  let drawn = false;
  for (let i = 0; i < Math.max(1, points.length - 1); i++) {
    const [px, py, pressureP] = points[i];
    const [qx, qy, pressureQ] = points[Math.min(i + 1, points.length - 1)];
    const [ax, ay] = place(px, py);
    const [bx, by] = place(qx, qy);
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
