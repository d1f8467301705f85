import { labDifference } from "../../colour/lab.ts";
import type { FamilyProbe } from "./family-probe.ts";
import type { Boundary } from "./picture-colours.ts";

/** Neighbours differ in colour from this on, ΔE*ab. */
export const COLOUR_APART = 15;
/** They have become one grey below this, ΔL*. */
export const GREY_APART = 5;
/** What parting two families gives them, ΔL*: a zone. */
export const PARTED = 10;

/** Two groups that touch in the picture. */
export interface Neighbours extends Boundary {
  /** ΔE*ab of their mean colours. */
  readonly colourDifference: number;
  /** L* of the first less that of the second in the print. */
  readonly greyDifference: number;
  /** Apart in colour, one in grey. */
  readonly merged: boolean;
}

/** All groups that touch, merged ones first, the worst of them first: long boundaries of different colours in one grey. */
export function findNeighbours(
  probe: FamilyProbe,
  boundaries: readonly Boundary[],
  greys = probe.greys(),
): Neighbours[] {
  const colours = probe.colours();
  const badness = ({ colourDifference, greyDifference, length }: Neighbours) =>
    Math.sqrt(length) * colourDifference * (1 - Math.abs(greyDifference) / GREY_APART);
  return boundaries
    .map((boundary) => {
      const { first, second } = boundary;
      const colourDifference = labDifference(colours[first], colours[second]);
      const greyDifference = greys[first].lightness - greys[second].lightness;
      const merged = colourDifference > COLOUR_APART && Math.abs(greyDifference) < GREY_APART;
      return { ...boundary, colourDifference, greyDifference, merged };
    })
    .sort((p, q) => Number(q.merged) - Number(p.merged) || (p.merged ? badness(q) - badness(p) : q.length - p.length));
}
