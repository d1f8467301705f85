import type { Affine } from "../ground/geometry.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import type { BrushShape, EllipseShape, LightMove, Stroke } from "../recipe/schema.ts";

/** A grid of pixels and where their centres lie on the negative, in long edges from its top left. */
export interface MaskGrid {
  /** Multiple of 4. */
  readonly width: number;
  readonly height: number;
  readonly toNegative: Affine;
}

/** Keeps rasterised brush masks, so that changing a move's stops does not draw its strokes again. */
export interface MaskCache {
  get(key: string): Float32Array | undefined;
  set(key: string, mask: Float32Array): void;
}

/** The strength with which a move counts: stops × amount, 0 when it is off. */
export function moveGain(move: LightMove): number {
  return move.on ? (move.stops * move.amountPercent) / 100 : 0;
}

/**
 * Adds every move's stops, in order, to `out` (width·height f32).
 * @param gridKey - names the grid for the cache; grids that differ must have keys that differ.
 */
export function addMoves(
  heap: KernelHeap,
  moves: readonly LightMove[],
  grid: MaskGrid,
  out: number,
  cache: MaskCache,
  gridKey: string,
): void {
  for (const move of moves) {
    const gain = moveGain(move);
    if (gain === 0) continue;
    if (move.shape.kind === "ellipse") addEllipse(heap, move.shape, grid, out, gain, move.invert);
    else addBrush(heap, move.shape, grid, out, gain, move.invert, cache, gridKey);
  }
}

function addEllipse(
  heap: KernelHeap,
  shape: EllipseShape,
  { width, height, toNegative: m }: MaskGrid,
  out: number,
  gain: number,
  invert: boolean,
): void {
  const angle = (shape.angleDegrees * Math.PI) / 180;
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  const across = (x: number, y: number) => (cos * x + sin * y) / shape.radiusX;
  const down = (x: number, y: number) => (cos * y - sin * x) / shape.radiusY;
  const cx = m.cx - shape.x;
  const cy = m.cy - shape.y;
  heap.kernels.addEllipse(
    out,
    width,
    height,
    across(m.ax, m.ay),
    across(m.bx, m.by),
    across(cx, cy),
    down(m.ax, m.ay),
    down(m.bx, m.by),
    down(cx, cy),
    1 - shape.softness,
    gain,
    invert ? 1 : 0,
  );
}

function addBrush(
  heap: KernelHeap,
  shape: BrushShape,
  grid: MaskGrid,
  out: number,
  gain: number,
  invert: boolean,
  cache: MaskCache,
  gridKey: string,
): void {
  const n = grid.width * grid.height;
  const mark = heap.mark();
  const mask = heap.allocate(4 * n);
  const key = `${gridKey}|${JSON.stringify(shape.strokes)}`;
  const known = cache.get(key);
  if (known) heap.floats(mask, n).set(known);
  else {
    drawStrokes(heap, shape.strokes, grid, mask);
    cache.set(key, heap.floats(mask, n).slice());
  }
  heap.kernels.addScaled(out, mask, n, gain, invert ? 1 : 0);
  heap.release(mark);
}

/** Rasterises strokes into `mask` (width·height f32, 0–1): each built up on those before. */
export function drawStrokes(heap: KernelHeap, strokes: readonly Stroke[], grid: MaskGrid, mask: number): void {
  const n = grid.width * grid.height;
  const stroke = heap.allocate(4 * n);
  heap.floats(mask, n).fill(0);
  for (const one of strokes) {
    heap.floats(stroke, n).fill(0);
    if (drawStroke(heap, one, grid, stroke)) heap.kernels.buildUp(mask, stroke, n, one.erase ? 1 : 0);
  }
}

/** Draws one stroke; false when none of it falls on the grid. */
function drawStroke(
  heap: KernelHeap,
  { points, radius, softness, flow }: Stroke,
  grid: MaskGrid,
  out: number,
): boolean {
  const m = grid.toNegative;
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
