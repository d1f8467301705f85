import type { Weigh, Family } from "./schema.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import { oklabToWorking, workingToOklab } from "../../colour/oklab.ts";
import { smoothstep } from "../../maths/smoothstep.ts";

const { max, sqrt } = Math;

/** Below the first saturation (OKLab chroma over lightness) a colour is neutral, above the second it belongs to a family. */
export const NEUTRAL = { all: 0.012, none: 0.048 } as const;
/** How much a difference of OKLab lightness counts against one of saturation. */
const LIGHTNESS_COUNTS = 0.16;
/** Power by which a family's pull falls off with distance: softest and crispest. */
const FALL = { soft: 2.5, crisp: 10 } as const;
/** A family's middle is this wide, so that nothing is divided by 0. */
const MIDDLE_SQUARED = 0.012 ** 2;

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

function squaredDistance(p: Vector3, q: Vector3): number {
  const a = p[0] - q[0];
  const b = p[1] - q[1];
  const l = LIGHTNESS_COUNTS * (p[2] - q[2]);
  return a * a + b * b + l * l;
}

/** How far from neutral a place is: 0 neutral, 1 coloured, smooth between. */
export function colourShare([a, b]: Vector3): number {
  return smoothstep(sqrt(a * a + b * b), NEUTRAL.all, NEUTRAL.none);
}

/** Memberships of any colour in the families of a recipe. */
export interface Membership {
  /** Number of families; neutrals are one more. */
  readonly count: number;
  /**
   * Writes the memberships of a place into `out`, length count + 1: the last is that of the neutrals. Each is 0–1, they sum
   * to 1 and change smoothly with the place.
   */
  at(place: Vector3, out: Float64Array): void;
}

/**
 * Partition of unity by normalised inverse distances (Shepard 1968), neutrals set apart. The passage between two families is
 * as wide as they are far apart, and the middle of each is its own.
 */
export function membershipOf({ families, softness }: Pick<Weigh, "families" | "softness">): Membership {
  const places = families.map(familyToPlace);
  const power = (FALL.crisp * (FALL.soft / FALL.crisp) ** softness) / 2;
  const scales = families.map(({ reach }) => reach ** -2);
  const count = families.length;
  return {
    count,
    at(place, out) {
      const coloured = count > 0 ? colourShare(place) : 0;
      out[count] = 1 - coloured;
      if (coloured === 0) {
        out.fill(0, 0, count);
        return;
      }
      let sum = 0;
      for (let k = 0; k < count; k++) {
        const squared = (squaredDistance(place, places[k]) + MIDDLE_SQUARED) * scales[k];
        sum += out[k] = squared ** -power;
      }
      for (let k = 0; k < count; k++) out[k] *= coloured / sum;
    },
  };
}
