import { luminanceToLightness, stopsToLight, STRAIGHT_CURVE, toneCurve, type Recipe } from "@yelm/core";

type Shape = Recipe["shape"];
type Curve = Shape["curve"];

/** Points nearer than this along x are one. */
const NEAR = 0.035;
const MOST_POINTS = 16;
/** The shape whose free curve puts scene light `stops` on a print zone; neighbours keep the curve rising. */
export function placeRung(shape: Shape, stops: number, zone: number): Shape {
  const before = toneCurve({ ...shape, curve: STRAIGHT_CURVE });
  const x = luminanceToLightness(before(stopsToLight(stops))) / 100;
  return { ...shape, curve: setPoint(shape.curve, x, zone / 10) };
}

/** Moves the point at `x`, or adds one; y stays between the neighbours'. */
export function setPoint(curve: Curve, x: number, y: number): Curve {
  const near = curve.findIndex((point) => Math.abs(point[0] - x) < NEAR);
  const others = curve.filter((_, i) => i !== near);
  if (near < 0 && curve.length >= MOST_POINTS) return curve;
  const at = near >= 0 ? curve[near][0] : x;
  const below = others.filter((point) => point[0] < at);
  const above = others.filter((point) => point[0] > at);
  const lowest = below.length > 0 ? below[below.length - 1][1] : 0;
  const highest = above.length > 0 ? above[0][1] : 1;
  return [...below, [round(at), round(Math.min(highest, Math.max(lowest, y)))], ...above];
}

/** Moves point `index` anywhere between its neighbours; the ends keep their x. */
export function movePoint(curve: Curve, index: number, x: number, y: number): Curve {
  const end = index === 0 || index === curve.length - 1;
  const left = index > 0 ? curve[index - 1] : null;
  const right = index < curve.length - 1 ? curve[index + 1] : null;
  const at = end ? curve[index][0] : Math.min(right![0] - 0.01, Math.max(left![0] + 0.01, x));
  const height = Math.min(right?.[1] ?? 1, Math.max(left?.[1] ?? 0, y));
  return curve.map((point, i) => (i === index ? [round(at), round(height)] : point));
}

/** Takes a point away; the two ends stay. */
export function removePoint(curve: Curve, index: number): Curve {
  return index === 0 || index === curve.length - 1 ? curve : curve.filter((_, i) => i !== index);
}

function round(v: number): number {
  return Math.round(v * 1e4) / 1e4;
}
