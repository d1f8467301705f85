import type { Vector3 } from "../../colour/matrix.ts";
import { colourShare, familyToPlace, squaredDistance } from "./family.ts";
import { mixedSharesOf } from "./mixed-shares.ts";
import type { Weigh } from "./schema.ts";

/** Power by which a family's pull falls off with distance: softest and crispest. */
const FALL = { soft: 2.5, crisp: 10 } as const;
/** A family's middle is this wide, so that nothing is divided by 0. */
export const MIDDLE_SQUARED = 0.012 ** 2;

/** What of a recipe says whose a colour is. */
export type FamilyWeigh = Pick<Weigh, "families" | "softness" | "passage">;

/** Half the power by which a family's pull falls off with distance. */
export const fallOf = ({ softness }: Pick<Weigh, "softness">): number =>
  (FALL.crisp * (FALL.soft / FALL.crisp) ** softness) / 2;

/** Memberships of any colour in the families of a recipe. */
export interface Membership {
  /** Number of families; neutrals are one more. */
  readonly count: number;
  /** What they were made of. */
  readonly weigh: FamilyWeigh;
  /**
   * Writes the memberships of a place into `out`, length count + 1: the last is that of the neutrals. Each is 0–1, they sum
   * to 1 and change smoothly with the place.
   */
  at(place: Vector3, out: Float64Array): void;
}

/**
 * Partition of unity by normalised inverse distances (Shepard 1968), neutrals set apart. The passage between two families is
 * as wide as they are far apart, and the middle of each is its own. Where the passage is by mixture, colours in which two
 * families mix belong to each by its light in them.
 */
export function membershipOf(weigh: FamilyWeigh): Membership {
  const { families, passage } = weigh;
  const places = families.map(familyToPlace);
  const power = fallOf(weigh);
  const scales = families.map(({ reach }) => reach ** -2);
  const count = families.length;
  const mix = passage === "mixture" ? mixedSharesOf(weigh) : null;
  return {
    count,
    weigh,
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
      for (let k = 0; k < count; k++) out[k] /= sum;
      mix?.(place, out);
      for (let k = 0; k < count; k++) out[k] *= coloured;
    },
  };
}
