import { NEUTRAL_LABEL, type FamilyMap } from "./picture-colours.ts";

/** A place, 0–1 of the frame, on the edge between two groups. */
export interface EdgePlace {
  readonly x: number;
  readonly y: number;
  readonly first: number;
  readonly second: number;
}

/** Pixels to either side between which an edge lies. */
const REACH = 3;
/** Primes, so that the walk meets every pixel, and another one first for each pair. */
const STRIDE = 7919;
const OFFSET = 104729;

/** One place on the edge of each of the pairs that touch most, spread over the picture. */
export function edgePlaces({ labels, width, height, boundaries, facts }: FamilyMap, most: number): EdgePlace[] {
  const asLabel = (group: number) => (group === facts.length - 1 ? NEUTRAL_LABEL : group);
  const pixels = width * height;
  return boundaries.slice(0, most).flatMap(({ first, second }, n) => {
    for (let k = 0; k < pixels; k++) {
      const i = (k * STRIDE + n * OFFSET) % pixels;
      const x = i % width;
      const y = (i - x) / width;
      if (x < REACH || y < REACH || x >= width - REACH || y >= height - REACH) continue;
      const around = [labels[i - REACH], labels[i + REACH], labels[i - REACH * width], labels[i + REACH * width]];
      if (around.includes(asLabel(first)) && around.includes(asLabel(second)))
        return [{ x: (x + 0.5) / width, y: (y + 0.5) / height, first, second }];
    }
    return [];
  });
}
