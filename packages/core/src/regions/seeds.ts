import type { RegionSeed } from "../shapes/region.ts";
import { cutRegion, floodedRegion, INSIDE, OUTSIDE, UNKNOWN } from "./find-region.ts";
import { neighbours, reached } from "./patch-graph.ts";
import type { Superpixels } from "./superpixels.ts";

type Point = readonly [number, number];

/** The patches that a line passes; places in long edges. */
export function patchesAlong({ width, height, labels }: Superpixels, points: readonly Point[]): number[] {
  const edge = Math.max(width, height);
  const found = new Set<number>();
  const visit = (x: number, y: number) => {
    const [i, j] = [Math.floor(x * edge), Math.floor(y * edge)];
    if (i >= 0 && j >= 0 && i < width && j < height) found.add(labels[j * width + i]);
  };
  points.forEach(([x, y], at) => {
    const [px, py] = points[Math.max(0, at - 1)];
    const steps = Math.max(1, Math.ceil(2 * edge * Math.hypot(x - px, y - py)));
    for (let s = 0; s <= steps; s++) visit(px + ((x - px) * s) / steps, py + ((y - py) * s) / steps);
  });
  return [...found];
}

/**
 * The region that scribbles ask for: those inside are in it, those outside are not, and later ones win over earlier ones. One
 * scribble of a single point is a click.
 * @returns 1 for each patch inside; null when no scribble inside lies in the picture.
 */
export function regionOfSeeds(patches: Superpixels, seeds: readonly RegionSeed[]): Uint8Array | null {
  const known = new Uint8Array(patches.count);
  for (const { inside, points } of seeds)
    for (const patch of patchesAlong(patches, points)) known[patch] = inside ? INSIDE : OUTSIDE;
  const within = [...known.keys()].filter((i) => known[i] === INSIDE);
  if (within.length === 0) return null;
  const flooded = floodedRegion(patches, within, (i) => known[i] === OUTSIDE);
  const cut = cutRegion(patches, known, flooded);
  // What only looks alike, and lies apart, was not meant.
  return reached(neighbours(patches), within, (i) => cut[i] === 1);
}

/** The region that a rough outline is drawn around: nothing beyond it is inside. */
export function regionOfOutline(patches: Superpixels, outline: readonly Point[]): Uint8Array | null {
  const { width, height, count, xs, ys } = patches;
  const edge = Math.max(width, height);
  const known = new Uint8Array(count);
  const guess = new Uint8Array(count);
  for (let i = 0; i < count; i++) {
    const within = isWithin(outline, (xs[i] + 0.5) / edge, (ys[i] + 0.5) / edge);
    known[i] = within ? UNKNOWN : OUTSIDE;
    guess[i] = within ? 1 : 0;
  }
  // What the line itself passes is more likely beyond what was meant.
  for (const patch of patchesAlong(patches, [...outline, ...outline.slice(0, 1)])) [known[patch], guess[patch]] = [OUTSIDE, 0]; // prettier-ignore
  if (!guess.some((value) => value === 1)) return null;
  const found = cutRegion(patches, known, guess);
  return found.some((value) => value === 1) ? found : guess;
}

/** By the even-odd rule. */
function isWithin(outline: readonly Point[], x: number, y: number): boolean {
  let within = false;
  outline.forEach(([ax, ay], i) => {
    const [bx, by] = outline[(i + 1) % outline.length];
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) within = !within;
  });
  return within;
}

/** The pixels of patches that are inside. */
export function cellsOfPatches({ labels }: Superpixels, inside: Uint8Array): Uint8Array {
  const cells = new Uint8Array(labels.length);
  for (let i = 0; i < labels.length; i++) cells[i] = inside[labels[i]];
  return cells;
}
