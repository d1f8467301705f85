import { Type, type Static } from "@sinclair/typebox";
import { applyAffine, invertAffine } from "../maths/affine.ts";
import { rangeOf } from "../schema/defaults.ts";
import { group, number } from "../schema/fields.ts";
import { PLACE_RANGE, withinPlaces, type ShapeKind } from "./shape.ts";

const { lowest, highest } = PLACE_RANGE;
const place = Type.Number({ minimum: lowest, maximum: highest });

/** Most corners of an outline; a freehand one is thinned to fewer. */
export const MOST_CORNERS = 240;

export const outlineSchema = group(
  {
    kind: Type.Literal("outline"),
    points: Type.Array(Type.Tuple([place, place]), {
      minItems: 0,
      maxItems: MOST_CORNERS,
      default: [],
      description: "Corners in order, long edges from the negative's left and top; the last is joined to the first.",
    }),
    spread: number(0.002, 0.5, 0.03, "long edges", "Over which it fades out, half of it inside."),
  },
  "An outline, drawn freehand or corner by corner.",
);
export type OutlineShape = Static<typeof outlineSchema>;

const SPREAD = rangeOf(outlineSchema, "spread");

export const outline: ShapeKind<OutlineShape> = {
  kind: "outline",
  schema: outlineSchema,
  fresh: (x, y) => ({
    kind: "outline",
    points: [
      [x - 0.1, y - 0.08],
      [x + 0.1, y - 0.08],
      [x + 0.1, y + 0.08],
      [x - 0.1, y + 0.08],
    ].map(([px, py]) => [withinPlaces(px), withinPlaces(py)]),
    spread: 0.03,
  }),
  /**
   * Signed distance to the nearest side, inside by the even-odd rule, through a smooth step.
   */
  draw(heap, { points, spread }, { width, height, toFlat }, out) {
    const mask = heap.floats(out, width * height);
    mask.fill(0);
    if (points.length < 3) return;
    const fromFlat = invertAffine(toFlat);
    const corners = points.map(([x, y]) => applyAffine(fromFlat, x, y));
    const scale = Math.sqrt(Math.abs(fromFlat.ax * fromFlat.by - fromFlat.bx * fromFlat.ay));
    const half = (spread * scale) / 2;
    const xs = corners.map(([x]) => x);
    const ys = corners.map(([, y]) => y);
    const top = Math.max(0, Math.ceil(Math.min(...ys) - half));
    const bottom = Math.min(height - 1, Math.floor(Math.max(...ys) + half));
    const left = Math.max(0, Math.ceil(Math.min(...xs) - half));
    const right = Math.min(width - 1, Math.floor(Math.max(...xs) + half));
    const squares = new Float64Array(width);
    for (let y = top; y <= bottom; y++) {
      squares.fill(half * half);
      const crossings: number[] = [];
      for (let i = 0; i < corners.length; i++) {
        const [ax, ay] = corners[i];
        const [bx, by] = corners[(i + 1) % corners.length];
        if (ay > y !== by > y) crossings.push(ax + ((y - ay) / (by - ay)) * (bx - ax));
        if (Math.min(ay, by) - half > y || Math.max(ay, by) + half < y) continue;
        nearer(squares, y, [ax, ay], [bx, by], half, left, right);
      }
      crossings.sort((p, q) => p - q);
      let next = 0;
      let inside = false;
      for (let x = left; x <= right; x++) {
        while (next < crossings.length && crossings[next] < x) {
          inside = !inside;
          next++;
        }
        // As far from a side as it fades: nothing to the bit outside.
        if (!inside && squares[x] >= half * half) continue;
        const t = 0.5 + ((inside ? 1 : -1) * Math.sqrt(squares[x])) / half / 2;
        mask[y * width + x] = t * t * (3 - 2 * t);
      }
    }
  },
  bounds({ points, spread }) {
    const room = spread / 2;
    const xs = points.map(([x]) => x);
    const ys = points.map(([, y]) => y);
    if (points.length < 3) return { left: Infinity, right: -Infinity, top: Infinity, bottom: -Infinity };
    return {
      left: Math.min(...xs) - room,
      right: Math.max(...xs) + room,
      top: Math.min(...ys) - room,
      bottom: Math.max(...ys) + room,
    };
  },
  fade: ({ spread }) => spread,
  carry(shape, carry) {
    const points = shape.points.map(([x, y]) => carry(x, y));
    const grown = shape.points.length < 3 ? 1 : sizeOf(points) / Math.max(1e-9, sizeOf(shape.points));
    return {
      ...shape,
      points: points.map(([x, y]) => [withinPlaces(x), withinPlaces(y)]),
      spread: Math.min(SPREAD.maximum, Math.max(SPREAD.minimum, shape.spread * grown)),
    };
  },
  words: () => "outline",
  isDrawn: ({ points }) => points.length >= 3,
};

/** Mean distance of places from their middle. */
function sizeOf(points: readonly (readonly [number, number])[]): number {
  const mean = (axis: 0 | 1) => points.reduce((sum, point) => sum + point[axis], 0) / points.length;
  const [cx, cy] = [mean(0), mean(1)];
  return points.reduce((sum, [x, y]) => sum + Math.hypot(x - cx, y - cy), 0) / points.length;
}

/** Lowers the squared distances of a row to those from a side, where that is nearer. */
function nearer(
  squares: Float64Array,
  y: number,
  [ax, ay]: readonly [number, number],
  [bx, by]: readonly [number, number],
  reach: number,
  left: number,
  right: number,
): void {
  const [dx, dy] = [bx - ax, by - ay];
  const length = dx * dx + dy * dy;
  const first = Math.max(left, Math.ceil(Math.min(ax, bx) - reach));
  const last = Math.min(right, Math.floor(Math.max(ax, bx) + reach));
  for (let x = first; x <= last; x++) {
    const t = length > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length)) : 0;
    const square = (x - ax - t * dx) ** 2 + (y - ay - t * dy) ** 2;
    if (square < squares[x]) squares[x] = square;
  }
}

/**
 * A freehand line with as few corners as keep it within `tolerance` of where it was drawn (Ramer 1972, Douglas and Peucker 1973).
 */
export function thinned(points: readonly (readonly [number, number])[], tolerance: number): [number, number][] {
  if (points.length < 3) return points.map(([x, y]) => [x, y]);
  const [ax, ay] = points[0];
  const [bx, by] = points[points.length - 1];
  const length = Math.hypot(bx - ax, by - ay);
  let [far, at] = [0, 0];
  for (let i = 1; i + 1 < points.length; i++) {
    const [x, y] = points[i];
    const away =
      length > 1e-9 ? Math.abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) / length : Math.hypot(x - ax, y - ay);
    if (away > far) [far, at] = [away, i];
  }
  if (far <= tolerance) return [[ax, ay], [bx, by]]; // prettier-ignore
  return [...thinned(points.slice(0, at + 1), tolerance).slice(0, -1), ...thinned(points.slice(at), tolerance)];
}
