import { NEUTRAL_LABEL, type Boundary, type FamilyMap } from "./picture-colours.ts";

/** A place, 0–1 of the frame, on the edge between two groups. */
export interface EdgePlace {
  readonly x: number;
  readonly y: number;
  readonly first: number;
  readonly second: number;
}

/** Pixels to either side between which an edge lies. */
const REACH = 3;
/** Least distance of two places on the edge of one pair, widths or heights of the picture. */
const SPREAD = 0.08;
/** Primes, so that the walk meets every pixel, and another one first for each pair. */
const STRIDE = 7919;
const OFFSET = 104729;

/** Places looked at on the edge of one pair. */
const A_PAIR = 3;
/** Groups whose greys move together within this have no edge that a conversion could have damaged, L*. */
const MOVED_APART = 1;

/**
 * Places on the edges that a conversion is most likely to have damaged: between groups that it moved apart, the farthest
 * first, several on each, spread over the picture.
 * @param moved - how far the conversion moved each group's grey, L*; neutrals last.
 */
export function edgePlaces(map: FamilyMap, moved: readonly number[], most: number): EdgePlace[] {
  const apart = ({ first, second }: Boundary) => Math.abs(moved[first] - moved[second]);
  const pairs = map.boundaries
    .filter((pair) => apart(pair) >= MOVED_APART)
    .sort((p, q) => apart(q) * q.length ** 0.25 - apart(p) * p.length ** 0.25);
  const found = pairs.map((pair, n) => placesOn(map, pair, n));
  // The first of each pair before the second of any.
  return Array.from({ length: A_PAIR }, (_, k) => found.flatMap((places) => places.slice(k, k + 1)))
    .flat()
    .slice(0, most);
}

function placesOn({ labels, width, height, facts }: FamilyMap, { first, second }: Boundary, n: number): EdgePlace[] {
  const asLabel = (group: number) => (group === facts.length - 1 ? NEUTRAL_LABEL : group);
  const pixels = width * height;
  const places: EdgePlace[] = [];
  for (let k = 0; k < pixels && places.length < A_PAIR; k++) {
    const i = (k * STRIDE + n * OFFSET) % pixels;
    const x = i % width;
    const y = (i - x) / width;
    if (x < REACH || y < REACH || x >= width - REACH || y >= height - REACH) continue;
    const around = [labels[i - REACH], labels[i + REACH], labels[i - REACH * width], labels[i + REACH * width]];
    if (!around.includes(asLabel(first)) || !around.includes(asLabel(second))) continue;
    const place = { x: (x + 0.5) / width, y: (y + 0.5) / height, first, second };
    if (places.every((other) => Math.hypot(other.x - place.x, other.y - place.y) > SPREAD)) places.push(place);
  }
  return places;
}
