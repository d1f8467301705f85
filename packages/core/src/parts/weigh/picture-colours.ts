import type { Vector3 } from "../../colour/matrix.ts";
import { familyPlace } from "./family.ts";
import { membershipOf, type FamilyWeigh, type Membership } from "./membership.ts";
import { hintOf, type FamilyHint } from "./family-names.ts";
import type { ColourCell, ColourCells, ColourPicture } from "./colour-cells.ts";

/** A colour of a family, as shot, and its weight among the family's colours; the weights sum to 1. */
export interface ColourSample {
  readonly working: Vector3;
  readonly weight: number;
}

/** What a picture shows of one family. */
export interface FamilyFacts {
  /** Share of the picture, 0–1. */
  readonly share: number;
  /** How much of that is no edge in which colours mix, 0–1. */
  readonly pure: number;
  /** Mean linear working colour as shot; black when the family is not in the picture. */
  readonly working: Vector3;
  /** Mean place, 0–1 from the left and from the top. */
  readonly x: number;
  readonly y: number;
  readonly hint: FamilyHint | null;
  readonly samples: readonly ColourSample[];
}

/** Where two families touch. */
export interface Boundary {
  readonly first: number;
  readonly second: number;
  /** Length of their common edge, in widths of the picture. */
  readonly length: number;
}

/** A picture seen through a set of families. */
export interface FamilyMap {
  readonly width: number;
  readonly height: number;
  /** The strongest family of each pixel by its index; NEUTRAL_LABEL for neutrals. */
  readonly labels: Uint8Array;
  /** One for each family, then the neutrals. */
  readonly facts: readonly FamilyFacts[];
  /** Longest first. */
  readonly boundaries: readonly Boundary[];
}

export const NEUTRAL_LABEL = 255;
const MOST_SAMPLES = 36;
/** Pixels on each side of an edge that are passed over: there colours mix. */
const EDGE_PIXELS = 3;
/** How far inside on both sides it is still the same: an edge of two areas, not a speck or a seam. */
const INSIDE = 2;
/** Difference of a/L and b/L across an edge below which it is none: more than from one cell of colours to the next. */
const LEAST_STEP = 0.04;
/** Boundaries shorter than this are chance. */
const SHORTEST_BOUNDARY = 0.01;

/** Measures what a picture shows of families: shares, samples, where they touch. */
export function mapFamilies(
  weigh: FamilyWeigh,
  { width, height }: Pick<ColourPicture, "width" | "height">,
  { cells, owners }: ColourCells,
): FamilyMap {
  const membership = membershipOf(weigh);
  const cellLabels = labelCells(membership, cells);
  const labels = Uint8Array.from(owners, (cell) => cellLabels[cell]);
  return {
    width,
    height,
    labels,
    facts: factsOfFamilies(membership, cells),
    boundaries: findBoundaries({ labels, width, height }, (i) => cells[owners[i]].place, membership.count),
  };
}

/** The family that claims a place most, or NEUTRAL_LABEL. */
export function strongestFamily(shares: Float64Array, count: number): number {
  let best = NEUTRAL_LABEL;
  let most = shares[count];
  for (let k = 0; k < count; k++)
    if (shares[k] > most) {
      most = shares[k];
      best = k;
    }
  return best;
}

function labelCells(membership: Membership, cells: readonly ColourCell[]): Uint8Array {
  const { count } = membership;
  const shares = new Float64Array(count + 1);
  return Uint8Array.from(cells, ({ place }) => {
    membership.at(place, shares);
    return strongestFamily(shares, count);
  });
}

function factsOfFamilies(membership: Membership, cells: readonly ColourCell[]): FamilyFacts[] {
  const { count } = membership;
  const shares = new Float64Array(count + 1);
  const claims: { cell: ColourCell; weight: number }[][] = Array.from({ length: count + 1 }, () => []);
  for (const cell of cells) {
    membership.at(cell.place, shares);
    // By the strongest: a family's grey is that of its own pixels, not of what it faintly reaches.
    const label = strongestFamily(shares, count);
    const owner = label === NEUTRAL_LABEL ? count : label;
    claims[owner].push({ cell, weight: cell.share * shares[owner] });
  }
  return claims.map((own) => {
    const share = own.reduce((sum, { cell }) => sum + cell.share, 0);
    const pure = own.reduce((sum, { cell }) => sum + cell.pureShare, 0) / Math.max(share, Number.MIN_VALUE);
    const largest = own.sort((p, q) => q.weight - p.weight).slice(0, MOST_SAMPLES);
    const sum = largest.reduce((total, { weight }) => total + weight, 0);
    const mean = (value: (cell: ColourCell) => number) =>
      sum > 0 ? largest.reduce((total, { cell, weight }) => total + weight * value(cell), 0) / sum : 0;
    const working: Vector3 = [mean((c) => c.working[0]), mean((c) => c.working[1]), mean((c) => c.working[2])];
    const [x, y] = [mean((c) => c.x), mean((c) => c.y)];
    const samples = largest.map(({ cell, weight }) => ({ working: cell.working, weight: weight / sum }));
    return { share, pure, working, x, y, hint: share > 0 ? hintOf(familyPlace(working), y) : null, samples };
  });
}

/**
 * Where families touch: pixels of one are compared with those a few pixels on, to the right and below, so that the mixed colours
 * between do not count as neighbours of their own. Where a colour goes over into another slowly, as a sky towards its horizon,
 * nothing touches.
 */
function findBoundaries(
  { labels, width, height }: Pick<FamilyMap, "labels" | "width" | "height">,
  placeAt: (pixel: number) => Vector3,
  count: number,
): Boundary[] {
  const sides = count + 1;
  const counts = new Float64Array(sides * sides);
  const index = (label: number) => (label === NEUTRAL_LABEL ? count : label);
  const gap = EDGE_PIXELS + 1;
  const compare = (from: number, step: number) => {
    const [a, b] = [labels[from], labels[from + gap * step]];
    if (a === b || labels[from - INSIDE * step] !== a || labels[from + (gap + INSIDE) * step] !== b) return;
    const [here, beyond] = [placeAt(from), placeAt(from + gap * step)];
    if (Math.hypot(here[0] - beyond[0], here[1] - beyond[1]) < LEAST_STEP) return;
    const [p, q] = [index(a), index(b)].sort((m, n) => m - n);
    counts[p * sides + q]++;
  };
  for (let y = INSIDE; y < height - gap - INSIDE; y++)
    for (let x = INSIDE; x < width - gap - INSIDE; x++) {
      compare(y * width + x, 1);
      compare(y * width + x, width);
    }
  const found: Boundary[] = [];
  for (let first = 0; first < sides; first++)
    for (let second = first + 1; second < sides; second++) {
      // An edge is met at each of the pixels that span the gap, but for those in which colours mix.
      const length = counts[first * sides + second] / gap / width;
      if (length >= SHORTEST_BOUNDARY) found.push({ first, second, length });
    }
  return found.sort((p, q) => q.length - p.length);
}
