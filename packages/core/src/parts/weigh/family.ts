import type { Family } from "./schema.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import { oklabToWorking, workingToOklab } from "../../colour/oklab.ts";
import { smoothstep } from "../../maths/smoothstep.ts";

const { max, sqrt } = Math;

/** Below the first saturation (OKLab chroma over lightness) a colour is neutral, above the second it belongs to a family. */
export const NEUTRAL = { all: 0.012, none: 0.048 } as const;
/** How much a difference of OKLab lightness counts against one of saturation. */
export const LIGHTNESS_COUNTS = 0.16;

/** The linear working colour at a place; the inverse of {@link familyPlace}. */
export const placeToWorking = ([a, b, lightness]: Vector3): Vector3 =>
  oklabToWorking([lightness, lightness * a, lightness * b]);

/**
 * Where a colour lies among families: OKLab a/L and b/L, which light and shade do not change, and L.
 * @param working - linear working colour as shot; negative values count as 0, black is neutral.
 */
export function familyPlace([red, green, blue]: Vector3): Vector3 {
  const [l, a, b] = workingToOklab([max(0, red), max(0, green), max(0, blue)]);
  return l > 1e-6 ? [a / l, b / l, l] : [0, 0, 0];
}

/** A place as hue in degrees, saturation and lightness; the terms in which recipes state families. */
export function placeToFamily([a, b, lightness]: Vector3): Pick<Family, "hueDegrees" | "saturation" | "lightness"> {
  const hue = (Math.atan2(b, a) * 180) / Math.PI;
  return { hueDegrees: hue < 0 ? hue + 360 : hue, saturation: Math.hypot(a, b), lightness };
}

/** Inverse of {@link placeToFamily}. */
export function familyToPlace(family: Pick<Family, "hueDegrees" | "saturation" | "lightness">): Vector3 {
  const hue = (family.hueDegrees * Math.PI) / 180;
  return [family.saturation * Math.cos(hue), family.saturation * Math.sin(hue), family.lightness];
}

/** Distance of two places as families see it. */
export function placeDistance(p: Vector3, q: Vector3): number {
  return sqrt(squaredDistance(p, q));
}

/** Its square. */
export function squaredDistance(p: Vector3, q: Vector3): number {
  const a = p[0] - q[0];
  const b = p[1] - q[1];
  const l = LIGHTNESS_COUNTS * (p[2] - q[2]);
  return a * a + b * b + l * l;
}

/** How far from neutral a place is: 0 neutral, 1 coloured, smooth between. */
export function colourShare([a, b]: Vector3): number {
  return smoothstep(sqrt(a * a + b * b), NEUTRAL.all, NEUTRAL.none);
}
