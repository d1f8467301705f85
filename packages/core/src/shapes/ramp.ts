import { Type, type Static } from "@sinclair/typebox";
import { defaultOf, rangeOf } from "../schema/defaults.ts";
import { choice, group, number } from "../schema/fields.ts";
import { PLACE_RANGE, withinPlaces, type ShapeKind } from "./shape.ts";

const { lowest, highest } = PLACE_RANGE;

export const RAMP_SIDES = ["one", "two"] as const;

export const rampSchema = group(
  {
    kind: Type.Literal("ramp"),
    x: number(lowest, highest, 0.5, "long edges", "A place on its line, from the negative's left."),
    y: number(lowest, highest, 0.3, "long edges", "A place on its line, from the negative's top."),
    angleDegrees: number(-360, 360, 0, "degrees", "Where it fades to: 0 to the right, turned clockwise."),
    reach: number(0.005, 3, 0.3, "long edges", "From the line, where it is full, to where it has faded out."),
    sides: choice(RAMP_SIDES, "one", "Full all the way behind its line, or fading to both sides of it."),
  },
  "A ramp of light from a line.",
);
export type RampShape = Static<typeof rampSchema>;

const REACH = rangeOf(rampSchema, "reach");

/** The unit vector along which a ramp fades. */
export function rampDirection({ angleDegrees }: RampShape): [number, number] {
  const angle = (angleDegrees * Math.PI) / 180;
  return [Math.cos(angle), Math.sin(angle)];
}

export const ramp: ShapeKind<RampShape> = {
  kind: "ramp",
  schema: rampSchema,
  fresh: (x, y) => ({ ...(defaultOf(rampSchema) as RampShape), x, y }),
  draw(heap, shape, { width, height, toFlat: m }, out) {
    const [ux, uy] = rampDirection(shape);
    const along = (x: number, y: number) => (ux * x + uy * y) / shape.reach;
    heap.kernels.drawRamp(
      out, width, height,
      along(m.ax, m.ay), along(m.bx, m.by), along(m.cx - shape.x, m.cy - shape.y),
      shape.sides === "two" ? 1 : 0,
    ); // prettier-ignore
  },
  /** It goes on for ever, but for what lies beyond its reach: cut where that is along an axis. */
  bounds(shape) {
    const [ux, uy] = rampDirection(shape);
    const both = shape.sides === "two";
    const cut = (u: number, at: number): [number, number] => {
      if (Math.abs(u) < 1 - 1e-12) return [-Infinity, Infinity];
      const [far, back] = [at + u * shape.reach, both ? at - u * shape.reach : -u * Infinity];
      return [Math.min(far, back), Math.max(far, back)];
    };
    const [left, right] = cut(ux, shape.x);
    const [top, bottom] = cut(uy, shape.y);
    return { left, right, top, bottom };
  },
  fade: ({ reach }) => reach,
  carry(shape, carry) {
    const [ux, uy] = rampDirection(shape);
    const [x, y] = carry(shape.x, shape.y);
    const [ex, ey] = carry(shape.x + ux * shape.reach, shape.y + uy * shape.reach);
    return {
      ...shape,
      x: withinPlaces(x),
      y: withinPlaces(y),
      reach: Math.min(REACH.maximum, Math.max(REACH.minimum, Math.hypot(ex - x, ey - y))),
      angleDegrees: (Math.atan2(ey - y, ex - x) * 180) / Math.PI,
    };
  },
  words: ({ sides }) => (sides === "two" ? "ramp to both sides" : "ramp"),
  isDrawn: () => true,
};
