import { Type, type Static } from "@sinclair/typebox";
import { fraction, group, number } from "../schema/fields.ts";
import { defaultOf, rangeOf } from "../schema/defaults.ts";
import { PLACE_RANGE, withinPlaces, type ShapeKind } from "./shape.ts";

const { lowest, highest } = PLACE_RANGE;

export const ellipseSchema = group(
  {
    kind: Type.Literal("ellipse"),
    x: number(lowest, highest, 0.5, "long edges", "Centre from the negative's left."),
    y: number(lowest, highest, 0.35, "long edges", "Centre from the negative's top."),
    radiusX: number(0.002, 3, 0.2, "long edges", "Half axis before turning."),
    radiusY: number(0.002, 3, 0.15, "long edges", "Half axis before turning."),
    angleDegrees: number(-360, 360, 0, "degrees", "Turned clockwise."),
    softness: fraction(0.9, "Share of the half axes over which it fades out."),
  },
  "An ellipse of light.",
);
export type EllipseShape = Static<typeof ellipseSchema>;

const RADIUS = rangeOf(ellipseSchema, "radiusX");

/** Where the ends of the half axes lie: of the first, then of the second. */
export function ellipseAxes({ x, y, radiusX, radiusY, angleDegrees }: EllipseShape): [number, number][] {
  const angle = (angleDegrees * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return [
    [x + radiusX * cos, y + radiusX * sin],
    [x - radiusY * sin, y + radiusY * cos],
  ];
}

export const ellipse: ShapeKind<EllipseShape> = {
  kind: "ellipse",
  schema: ellipseSchema,
  fresh: (x, y) => ({ ...(defaultOf(ellipseSchema) as EllipseShape), x, y }),
  draw(heap, shape, { width, height, toFlat: m }, out) {
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
  },
  bounds(shape) {
    const [[ax, ay], [bx, by]] = ellipseAxes(shape);
    const halfWidth = Math.hypot(ax - shape.x, bx - shape.x);
    const halfHeight = Math.hypot(ay - shape.y, by - shape.y);
    return {
      left: shape.x - halfWidth,
      right: shape.x + halfWidth,
      top: shape.y - halfHeight,
      bottom: shape.y + halfHeight,
    };
  },
  fade: ({ radiusX, radiusY, softness }) => softness * Math.min(radiusX, radiusY),
  /** Centre and half axes go along; what the correction bends about them is left. */
  carry(shape, carry) {
    const [x, y] = carry(shape.x, shape.y);
    const [[ax, ay], [bx, by]] = ellipseAxes(shape).map(([px, py]) => carry(px, py));
    const radius = (dx: number, dy: number) => Math.min(RADIUS.maximum, Math.max(RADIUS.minimum, Math.hypot(dx, dy)));
    return {
      ...shape,
      x: withinPlaces(x),
      y: withinPlaces(y),
      radiusX: radius(ax - x, ay - y),
      radiusY: radius(bx - x, by - y),
      angleDegrees: (Math.atan2(ay - y, ax - x) * 180) / Math.PI,
    };
  },
  words: () => "ellipse",
  isDrawn: () => true,
};
