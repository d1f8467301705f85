import type { Vector3 } from "../../colour/matrix.ts";
import { luminanceOf } from "../../colour/rgb-space.ts";
import { familyPlace, familyToPlace, placeDistance, placeToWorking } from "./family.ts";
import type { Weigh } from "./schema.ts";

const { max, min } = Math;

/** What nearness alone counts, against the mixture that a colour is when it is one exactly. */
const NEARNESS_COUNTS = 0.1;
/** How far a colour may lie from a mixture, at most and as a share of how far its two families are apart. */
const OFF = { most: 0.03, share: 0.15 } as const;
/** A mixture of two counts the less, the more of a colour belongs to others. */
const OTHERS = 6;
const LEAST_PRIOR = 1e-4;
/** Share of the way between two families, from either, that is still that family's own, at a softness of ½. */
const OWN_SHARE = 0.04;
/** Least value of a channel of a family's middle. */
const LEAST = 1e-4;

/** Two families, and the way between them. */
interface Pair {
  readonly j: number;
  readonly k: number;
  readonly from: Vector3;
  readonly way: Vector3;
  readonly squared: number;
  readonly off: number;
}

/**
 * Shares of colours in which the lights of two families mix (soft edges, defocus, petals that light shines through): a colour on
 * the straight line between two families' middles, in linear light, belongs to each by the luminance it holds of it. Then what
 * is done to the families gives the mixture what it gives its parts, α·A·2^a + (1 − α)·B·2^b, whatever its shade.
 * @returns changes shares by nearness (they sum to 1, one a family) in place; where a colour is no mixture they stay.
 */
export function mixedSharesOf({ families, softness }: Pick<Weigh, "families" | "softness">) {
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
  const reaches = families.map(({ reach }) => reach);
  const own = OWN_SHARE * (2 * (1 - softness)) ** 2;
  const near = new Float64Array(families.length);
  return (place: Vector3, shares: Float64Array): void => {
    near.set(shares.subarray(0, near.length));
    const colour = unit(placeToWorking(place));
    let sum = NEARNESS_COUNTS;
    for (let k = 0; k < near.length; k++) shares[k] = NEARNESS_COUNTS * near[k];
    for (const { j, k, from, way, squared, off } of pairs) {
      const prior = (near[j] + near[k]) ** OTHERS;
      if (prior < LEAST_PRIOR || squared === 0) continue;
      const along = way[0] * (colour[0] - from[0]) + way[1] * (colour[1] - from[1]) + way[2] * (colour[2] - from[2]);
      const t = min(1, max(0, along / squared));
      const [a, b] = familyPlace([from[0] + t * way[0], from[1] + t * way[1], from[2] + t * way[2]]);
      const miss = off * ((a - place[0]) ** 2 + (b - place[1]) ** 2);
      const weight = prior / (1 + miss * miss);
      const second = min(1, max(0, (t - own) / (1 - 2 * own))) * reaches[k];
      const first = min(1, max(0, (1 - t - own) / (1 - 2 * own))) * reaches[j];
      sum += weight;
      shares[j] += (weight * first) / (first + second);
      shares[k] += (weight * second) / (first + second);
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
