import { type Shape, DEEPEST_BLACK_STOPS } from "./schema.ts";
import { lightnessToLuminance, luminanceToLightness } from "../../colour/lab.ts";
import { MIDDLE_GREY, stopsToLight } from "../../colour/stops.ts";
import { filmDensity } from "./characteristic.ts";
import { curveThrough } from "../../maths/curve-points.ts";

/** One paper grade multiplies the slope in log light by this factor. */
const SLOPE_PER_GRADE = 1.32;

/**
 * Scene light (1.0 = sensor white) → print reflectance (0–1): black and white point, mid point, grade, characteristic
 * curve, paper, free curve, in this order. A fresh recipe gives reflectance = light, clipped to 0–1. Monotone.
 */
export function toneCurve(shape: Shape): (light: number) => number {
  const black = stopsToLight(shape.blackPoint) - stopsToLight(DEEPEST_BLACK_STOPS);
  const white = stopsToLight(shape.whitePoint);
  const span = Math.max(1e-6, white - black);
  const midExponent = Math.log(MIDDLE_GREY * 2 ** shape.midPoint) / Math.log(MIDDLE_GREY);
  const slope = SLOPE_PER_GRADE ** (shape.grade - 2);
  const paper = paperOf(shape);
  const free = freeCurve(shape.curve);
  return (light) => {
    let r = Math.max(0, (light - black) / span);
    if (midExponent !== 1) r = r ** midExponent;
    if (slope !== 1) r = MIDDLE_GREY * (r / MIDDLE_GREY) ** slope;
    if (shape.characteristic === "film")
      r = 10 ** -filmDensity(-Math.log10(Math.max(r, 1e-9)), shape.toe, shape.shoulder);
    r = paper.black + (paper.white - paper.black) * Math.min(1, r);
    return free ? free(r) : r;
  };
}

/** Density of a black that is none to the eye; the deepest that a paper can be set to. */
const NO_LIGHT = 3.3;

/** Reflectances of the bare paper and of its deepest black; 1 and 0 unless they were changed. */
export function paperOf({ paperWhite, paperBlack }: Shape): { readonly white: number; readonly black: number } {
  const white = 10 ** -paperWhite;
  return { white, black: Math.max(0, Math.min(white, 10 ** -paperBlack - 10 ** -NO_LIGHT)) };
}

/** The free curve in reflectance, or null when it is the identity. */
function freeCurve(points: Shape["curve"]): ((reflectance: number) => number) | null {
  const lightness = curveThrough(points);
  return lightness && ((r) => lightnessToLuminance(100 * lightness(luminanceToLightness(r) / 100)));
}
