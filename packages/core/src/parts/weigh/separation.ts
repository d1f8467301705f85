import { labDifference } from "../../colour/lab.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import { familyPlace, placeDistance, placeToFamily } from "./family.ts";
import type { FamilyProbe } from "./family-probe.ts";
import type { Boundary } from "./picture-colours.ts";

/** Neighbours differ in colour from this on, ΔE*ab. */
export const COLOUR_APART = 15;
/** They have become one grey below this, ΔL*. */
export const GREY_APART = 5;
/** What parting two families gives them, ΔL*: a zone. */
export const PARTED = 10;

/** A common edge shorter than this is not missed, widths of the picture. */
const SHORTEST_MISSED = 0.04;
/** Prints darker than this are near black: what merges there is not missed, L*. */
const NEAR_BLACK = 12;
/** Colours of one hue that differ by less than this in saturation and lightness are light and shade of one thing. */
const ONE_THING = { place: 0.09, hueDegrees: 14 } as const;
/** A group of which no more is pure, and which touches a second group along no less of its border, is the passage between the two. */
const PASSAGE = { pure: 0.4, second: 0.1 } as const;

/** Two groups that touch in the picture. */
export interface Neighbours extends Boundary {
  /** ΔE*ab of their mean colours. */
  readonly colourDifference: number;
  /** L* of the first less that of the second in the print. */
  readonly greyDifference: number;
  /** Apart in colour, one in grey. */
  readonly merged: boolean;
}

/**
 * All groups that touch, merged ones first, of these first what a viewer misses most: long boundaries of large, different
 * colours in one grey. Light and shade of one thing do not count as merged, nor what is near black, nor what is only the mixture
 * of two things at their edges.
 */
export function findNeighbours(
  probe: FamilyProbe,
  boundaries: readonly Boundary[],
  greys = probe.greys(),
): Neighbours[] {
  const colours = probe.colours();
  const { facts } = probe;
  const badness = ({ first, second, colourDifference, greyDifference, length }: Neighbours) =>
    Math.sqrt(length) *
    Math.min(facts[first].share, facts[second].share) ** 0.25 *
    colourDifference *
    (1 - Math.abs(greyDifference) / GREY_APART);
  const passages = facts.map(({ pure }, group) => pure < PASSAGE.pure && liesBetween(boundaries, group));
  return boundaries
    .map((boundary) => {
      const { first, second } = boundary;
      const colourDifference = labDifference(colours[first], colours[second]);
      const greyDifference = greys[first].lightness - greys[second].lightness;
      const merged =
        colourDifference > COLOUR_APART &&
        boundary.length >= SHORTEST_MISSED &&
        Math.abs(greyDifference) < GREY_APART &&
        Math.max(greys[first].lightness, greys[second].lightness) > NEAR_BLACK &&
        !passages[first] &&
        !passages[second] &&
        !isOneThing(facts[first].working, facts[second].working);
      return { ...boundary, colourDifference, greyDifference, merged };
    })
    .sort((p, q) => Number(q.merged) - Number(p.merged) || (p.merged ? badness(q) - badness(p) : q.length - p.length));
}

/** Whether a group has two others beside it. */
function liesBetween(boundaries: readonly Boundary[], group: number): boolean {
  const lengths = boundaries.flatMap(({ first, second, length }) =>
    first === group || second === group ? [length] : [],
  );
  const [, next = 0] = lengths.sort((p, q) => q - p);
  return next > PASSAGE.second * lengths.reduce((sum, length) => sum + length, 0);
}

function isOneThing(p: Vector3, q: Vector3): boolean {
  const [one, other] = [p, q].map(familyPlace);
  const turn = Math.abs(placeToFamily(one).hueDegrees - placeToFamily(other).hueDegrees);
  const apart = Math.min(turn, 360 - turn);
  return apart < ONE_THING.hueDegrees && placeDistance(one, other) < ONE_THING.place;
}
