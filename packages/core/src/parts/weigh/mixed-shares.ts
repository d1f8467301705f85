import type { Vector3 } from "../../colour/matrix.ts";
import { luminanceOf } from "../../colour/rgb-space.ts";
import { familyPlace, familyToPlace, placeDistance, placeToWorking } from "./family.ts";
import type { Weigh } from "./schema.ts";

const { max, min } = Math;

/** What nearness alone counts, against the mixture that a colour is when it is one exactly. */
export const NEARNESS_COUNTS = 0.1;
/** How far a colour may lie from a mixture, at most and as a share of how far its two families are apart. */
const OFF = { most: 0.03, share: 0.15 } as const;
/** Share of the way between two families, from either, that is still that family's own, at a softness of ½. */
const OWN_SHARE = 0.04;
/** Least value of a channel of a colour at luminance 1. */
const LEAST = 1e-4;
/** Places are told apart to so many steps of one. */
const STEPS = 1e7;
/** Mixtures hang on hue and saturation alone; they are looked at in this light, OKLab L. */
const LIGHTNESS = 0.7;

/** Two families, and the way between them. */
export interface Pair {
  readonly j: number;
  readonly k: number;
  /** Linear colours at luminance 1: the first's, and the way to the second's. */
  readonly from: Vector3;
  readonly way: Vector3;
  readonly squared: number;
  /** How little a colour may lie off the way: the inverse of its squared distance. */
  readonly off: number;
}

/** Every two families, and how much of the way between them is still either's own. */
export function pairsOf({ families, softness }: Pick<Weigh, "families" | "softness">): { pairs: Pair[]; own: number } {
  const places = families.map(familyToPlace);
  const middles = places.map((place) => unit(placeToWorking(place)));
  const pairs = middles.flatMap((from, j) =>
    middles.slice(j + 1).map((to, i): Pair => {
      const k = j + 1 + i;
      const way: Vector3 = [to[0] - from[0], to[1] - from[1], to[2] - from[2]];
      const off = min(OFF.most, OFF.share * placeDistance(places[j], places[k]));
      return { j, k, from, way, squared: way[0] ** 2 + way[1] ** 2 + way[2] ** 2, off: off ** -2 };
    }),
  );
  return { pairs, own: OWN_SHARE * (2 * (1 - softness)) ** 2 };
}

/** The colour of a place, whatever its light, by which mixtures are told. */
export const mixtureColour = (a: number, b: number): Vector3 => unit(placeToWorking([a, b, LIGHTNESS]));

/**
 * Shares of colours in which the lights of two families mix (soft edges, defocus, petals that light shines through): a colour on
 * the straight line between two families' middles, in linear light, belongs to each by the luminance it holds of it. Then what
 * is done to the families gives the mixture what it gives its parts, α·A·2^a + (1 − α)·B·2^b, whatever its shade.
 * @returns changes shares by nearness (they sum to 1, one a family) in place; where a colour is no mixture they stay.
 */
export function mixedSharesOf({ families, softness }: Pick<Weigh, "families" | "softness">) {
  const { pairs, own } = pairsOf({ families, softness });
  const reaches = families.map(({ reach }) => reach);
  const near = new Float64Array(families.length);
  // What of a place does not hang on its lightness is kept for the next one, which mostly differs in that alone.
  const known = { a: NaN, b: NaN, firsts: new Float64Array(pairs.length), fits: new Float64Array(pairs.length) };
  const lookAt = (a: number, b: number) => {
    const colour = mixtureColour(a, b);
    pairs.forEach(({ j, k, from, way, squared, off }, n) => {
      const along = way[0] * (colour[0] - from[0]) + way[1] * (colour[1] - from[1]) + way[2] * (colour[2] - from[2]);
      const t = squared === 0 ? 0 : min(1, max(0, along / squared));
      const [mixedA, mixedB] = familyPlace([from[0] + t * way[0], from[1] + t * way[1], from[2] + t * way[2]]);
      const miss = off * ((mixedA - a) ** 2 + (mixedB - b) ** 2);
      const first = min(1, max(0, (1 - t - own) / (1 - 2 * own))) * reaches[j];
      const second = min(1, max(0, (t - own) / (1 - 2 * own))) * reaches[k];
      known.firsts[n] = first / (first + second);
      known.fits[n] = squared === 0 ? 0 : 1 / (1 + miss * miss);
    });
    known.a = a;
    known.b = b;
  };
  return (place: Vector3, shares: Float64Array): void => {
    const a = Math.round(place[0] * STEPS) / STEPS;
    const b = Math.round(place[1] * STEPS) / STEPS;
    if (a !== known.a || b !== known.b) lookAt(a, b);
    let sum = NEARNESS_COUNTS;
    for (let k = 0; k < near.length; k++) {
      near[k] = shares[k];
      shares[k] *= NEARNESS_COUNTS;
    }
    for (let n = 0; n < pairs.length; n++) {
      const { j, k } = pairs[n];
      const both = near[j] + near[k];
      const squared = both * both;
      // A mixture of two counts the less, the more of a colour belongs to others.
      const weight = squared * squared * squared * known.fits[n];
      const first = weight * known.firsts[n];
      sum += weight;
      shares[j] += first;
      shares[k] += weight - first;
    }
    for (let k = 0; k < near.length; k++) shares[k] /= sum;
  };
}

/** A colour at luminance 1. */
function unit([r, g, b]: Vector3): Vector3 {
  const light: Vector3 = [max(LEAST, r), max(LEAST, g), max(LEAST, b)];
  const luminance = luminanceOf(light);
  return [light[0] / luminance, light[1] / luminance, light[2] / luminance];
}
