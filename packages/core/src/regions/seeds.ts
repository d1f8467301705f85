import type { Size } from "../maths/rect.ts";
import type { RegionSeed } from "../shapes/region.ts";
import { cutRegion, floodedRegion, INSIDE, OUTSIDE, UNKNOWN } from "./find-region.ts";
import { areaOf, farFrom, neighbours, patchesOf, reached } from "./patch-graph.ts";
import { difference, type Superpixels } from "./superpixels.ts";

type Point = readonly [number, number];

/** By how many patches the border of a correction may still move, and what it costs a pixel to leave it. */
const LEEWAY = 1;
const CORRECTED = 2;
/** A correction adds no more than the region has, and takes no more than this share of it. */
const MOST_ADDED = 1;
const MOST_TAKEN = 0.7;
/**
 * What it costs a pixel to leave the side that the flood gave it: a short scribble, or one over one colour, says what is meant, a click
 * less. A long one over many colours says how large their thing is: near it colours decide. Measured on 31 things of known outline in five scenes and
 * nine photographs.
 */
const FLOODED = { scribble: 3, click: 1.5, near: 0.4 } as const;
/** Scribbles as long as these shares of the picture's long edge are short and long. */
const SHORT = 0.12;
const LONG = 0.25;
/** Steps of colour along a scribble that goes over one colour, and over many. */
const EVEN = 0.035;
const ROUGH = 0.045;
/** What is this many lengths of a scribble away from it is near it, and far; what is nearer than UNSURE may be of the thing. */
const NEAR = 0.4;
const FAR = 1;
const UNSURE = 0.6;
/** Share of the picture that is not near a scribble and by which the outside can be known. */
const LEAST_BEYOND = 0.1;
/** Scribbles outside pen a thing in when they leave no more than this share of the picture to it. */
const PENNED_SHARE = 0.6;
/** What differs from everything outside by more than this belongs to the thing that is penned in. */
const UNLIKE = 0.12;

/** The cells that a line passes; places in long edges. */
function cellsAlong({ width, height }: Size, points: readonly Point[]): number[] {
  const edge = Math.max(width, height);
  const found: number[] = [];
  const visit = (x: number, y: number) => {
    const [i, j] = [Math.floor(x * edge), Math.floor(y * edge)];
    if (i >= 0 && j >= 0 && i < width && j < height) found.push(j * width + i);
  };
  points.forEach(([x, y], at) => {
    const [px, py] = points[Math.max(0, at - 1)];
    const steps = Math.max(1, Math.ceil(2 * edge * Math.hypot(x - px, y - py)));
    for (let s = 0; s <= steps; s++) visit(px + ((x - px) * s) / steps, py + ((y - py) * s) / steps);
  });
  return found;
}

/** The patches that a line passes; places in long edges. */
export function patchesAlong(patches: Superpixels, points: readonly Point[]): number[] {
  return [...new Set(cellsAlong(patches, points).map((i) => patches.labels[i]))];
}

/** What each cell is said to be by the scribbles that pass it; later ones win. */
export function knownCells(size: Size, seeds: readonly RegionSeed[]): Uint8Array {
  const known = new Uint8Array(size.width * size.height);
  for (const { inside, points } of seeds)
    for (const i of cellsAlong(size, points)) known[i] = inside ? INSIDE : OUTSIDE;
  return known;
}

/**
 * The region that scribbles ask for: those inside are in it, those outside are not, and later ones win over earlier ones. One
 * scribble of a single point is a click.
 * @param isSeen - whether a patch lies in the print's frame.
 * @returns 1 for each patch inside; null when no scribble inside lies in the picture.
 */
export function regionOfSeeds(
  patches: Superpixels,
  seeds: readonly RegionSeed[],
  isSeen: (patch: number) => boolean = everywhere,
): Uint8Array | null {
  const known = knownBy(patches, seeds);
  const within = patchesOf(known, INSIDE);
  if (within.length === 0) return null;
  const pen = penOf(patches, known, isSeen);
  // What only looks alike, and lies apart, was not meant.
  const whole = (cut: Uint8Array) => reached(neighbours(patches), within, (i) => cut[i] === 1);
  if (pen) {
    const held = known.map((value, i) => (pen[i] === 1 ? value : OUTSIDE));
    const near = farFrom(patches, within, () => true);
    const far = farFrom(patches, patchesOf(known, OUTSIDE), () => true);
    const beyond = patchesOf(held, OUTSIDE);
    const isUnlike = (i: number) => beyond.every((j) => difference(patches, i, j) > UNLIKE);
    const guess = held.map((value, i) => (value !== OUTSIDE && (near[i] < far[i] || isUnlike(i)) ? 1 : 0));
    return whole(cutRegion(patches, held, guess));
  }
  const flooded = floodedRegion(patches, within, (i) => known[i] === OUTSIDE);
  if (seeds.every(({ points }) => points.length === 1)) return whole(cutRegion(patches, known, flooded, FLOODED.click));
  const { leaving, unsure } = aboutScribbles(patches, seeds, within);
  return whole(cutRegion(patches, known, flooded, leaving, unsure));
}

/** What it costs a pixel of each patch to leave the side of the flood, and, of a long scribble over many colours, what may be of its thing. */
function aboutScribbles(
  patches: Superpixels,
  seeds: readonly RegionSeed[],
  within: readonly number[],
): { readonly leaving: Float64Array; readonly unsure?: Uint8Array } {
  const length = lengthOf(patches, seeds);
  const away = awayFrom(patches, within).map((cells) => cells / length);
  const short = 1 - within01((length / Math.max(patches.width, patches.height) - SHORT) / (LONG - SHORT));
  const even = 1 - within01((roughnessOf(patches, within) - EVEN) / (ROUGH - EVEN));
  const near = FLOODED.near + Math.max(short, even) * (FLOODED.scribble - FLOODED.near);
  const leaving = away.map((far) => near + within01((far - NEAR) / (FAR - NEAR)) * (FLOODED.scribble - near));
  const isKnown = areaOf(patches, (i) => away[i] >= UNSURE) > LEAST_BEYOND * areaOf(patches, everywhere);
  if (!isKnown || short + even > 0) return { leaving };
  return { leaving, unsure: Uint8Array.from(away, (far) => (far < UNSURE ? 1 : 0)) };
}

const within01 = (value: number) => Math.min(1, Math.max(0, value));

/** How far the scribbles inside reach, cells: the diagonal of the box about them. */
function lengthOf({ width, height }: Size, seeds: readonly RegionSeed[]): number {
  const points = seeds.filter(({ inside }) => inside).flatMap((seed) => seed.points);
  const [across, down] = [0, 1].map((c) => {
    const places = points.map((point) => point[c]);
    return places.reduce((p, q) => Math.max(p, q)) - places.reduce((p, q) => Math.min(p, q));
  });
  return Math.max(1, Math.max(width, height) * Math.hypot(across, down));
}

/** The mean step of colour between patches of some that lie side by side. */
function roughnessOf(patches: Superpixels, some: readonly number[]): number {
  const { from, to } = patches;
  const isSome = new Set(some);
  let [sum, n] = [0, 0];
  from.forEach((p, e) => {
    if (!isSome.has(p) || !isSome.has(to[e])) return;
    sum += difference(patches, p, to[e]);
    n++;
  });
  return n > 0 ? sum / n : 0;
}

/** How far the middle of each patch is from the nearest of some, cells. */
function awayFrom({ count, xs, ys }: Superpixels, from: readonly number[]): Float64Array {
  const squared = (i: number) => from.reduce((least, j) => Math.min(least, (xs[i] - xs[j]) ** 2 + (ys[i] - ys[j]) ** 2), Infinity); // prettier-ignore
  return Float64Array.from({ length: count }, (_, i) => Math.sqrt(squared(i)));
}

/** Whether scribbles outside stand around those inside, so that a thing lies between them and is to be told anew. */
export function isPennedIn(
  patches: Superpixels,
  seeds: readonly RegionSeed[],
  isSeen: (patch: number) => boolean = everywhere,
): boolean {
  return penOf(patches, knownBy(patches, seeds), isSeen) !== null;
}

const everywhere = () => true;

/**
 * The patches that the scribbles outside leave to those inside, 1; null unless they stand around them. Who draws around a thing that the
 * frame cuts off ends at the frame.
 */
function penOf(patches: Superpixels, known: Uint8Array, isSeen: (patch: number) => boolean): Uint8Array | null {
  if (!known.includes(OUTSIDE)) return null;
  const pen = reached(neighbours(patches), patchesOf(known, INSIDE), (i) => known[i] !== OUTSIDE && isSeen(i));
  return areaOf(patches, (i) => pen[i] === 1) < PENNED_SHARE * areaOf(patches, isSeen) ? pen : null;
}

/** What each patch is said to be by the scribbles that pass it; later ones win. */
function knownBy(patches: Superpixels, seeds: readonly RegionSeed[]): Uint8Array {
  const known = new Uint8Array(patches.count);
  for (const { inside, points } of seeds)
    for (const patch of patchesAlong(patches, points)) known[patch] = inside ? INSIDE : OUTSIDE;
  return known;
}

/**
 * A region as its newest scribble corrects it: of what was on the wrong side that goes over which the new scribble would find by itself
 * and is nearer to than any of the other side, along the smallest steps of colour; the rest stays as it was.
 * @param inside - the region before, 1 for each patch in it.
 * @returns the region after, and the patches whose cells may change; null when the scribble lies beyond the picture.
 */
export function correctedRegion(
  patches: Superpixels,
  inside: Uint8Array,
  seeds: readonly RegionSeed[],
): { readonly inside: Uint8Array; readonly touched: Uint8Array } | null {
  const newest = seeds[seeds.length - 1];
  const side = newest.inside ? 1 : 0;
  const known = knownBy(patches, seeds);
  const own = patchesAlong(patches, newest.points);
  if (own.length === 0) return null;
  const opposite = newest.inside ? OUTSIDE : INSIDE;
  const other = patchesOf(known, opposite);
  const isWrong = (i: number) => inside[i] !== side && known[i] !== opposite;
  const near = farFrom(patches, own, isWrong);
  const far = farFrom(patches, other, () => true);
  const total = areaOf(patches, () => true);
  const most = (newest.inside ? MOST_ADDED : MOST_TAKEN) * areaOf(patches, (i) => inside[i] === 1);
  const found = floodedRegion(patches, own, (i) => !isWrong(i), most / total);
  const guess = inside.slice();
  for (const i of own) guess[i] = side;
  // The nearest first, up to what a correction may be.
  let area = areaOf(patches, (i) => guess[i] !== inside[i]);
  for (const i of [...near.keys()].sort((p, q) => near[p] - near[q])) {
    if (!isWrong(i) || near[i] === Infinity || guess[i] === side) continue;
    if (found[i] === 0 || near[i] >= far[i]) continue;
    area += patches.sizes[i];
    if (area > most) break;
    guess[i] = side;
  }
  // Colours may move the new border by a patch or two, and nothing else.
  const links = neighbours(patches);
  let touched = guess.map((value, i) => (value === inside[i] ? 0 : 1));
  for (let k = 0; k < LEEWAY; k++)
    touched = touched.map((value, i) => (value || links[i].some((j) => touched[j]) ? 1 : 0));
  const fixed = known.map((value, i) =>
    value !== UNKNOWN ? value : touched[i] ? UNKNOWN : guess[i] ? INSIDE : OUTSIDE,
  );
  const cut = cutRegion(patches, fixed, guess, CORRECTED);
  return { inside: cut, touched };
}

/** The region that a rough outline is drawn around: nothing beyond it is inside. */
export function regionOfOutline(patches: Superpixels, outline: readonly Point[]): Uint8Array | null {
  const { width, count, xs, ys } = patches;
  const beyond = cellsBeyond(patches, outline);
  const known = Uint8Array.from({ length: count }, (_, i) => beyond[Math.round(ys[i]) * width + Math.round(xs[i])]);
  // What the line itself passes is more likely beyond what was meant.
  for (const patch of patchesAlong(patches, [...outline, ...outline.slice(0, 1)])) known[patch] = OUTSIDE;
  const guess = known.map((value) => (value === OUTSIDE ? 0 : 1));
  if (!guess.includes(1)) return null;
  const found = cutRegion(patches, known, guess);
  return found.includes(1) ? found : guess;
}

/** OUTSIDE for each cell beyond an outline (by the even-odd rule), UNKNOWN for those within; places in long edges. */
export function cellsBeyond({ width, height }: Size, outline: readonly Point[]): Uint8Array {
  const edge = Math.max(width, height);
  const cells = new Uint8Array(width * height).fill(OUTSIDE);
  for (let row = 0; row < height; row++) {
    const y = (row + 0.5) / edge;
    const crossings = outline.flatMap(([ax, ay], i) => {
      const [bx, by] = outline[(i + 1) % outline.length];
      return ay > y === by > y ? [] : [ax + ((y - ay) / (by - ay)) * (bx - ax)];
    });
    crossings.sort((p, q) => p - q);
    for (let k = 0; k + 1 < crossings.length; k += 2) {
      const [left, right] = [crossings[k], crossings[k + 1]].map((x) => Math.min(width, Math.max(0, Math.ceil(x * edge - 0.5)))); // prettier-ignore
      cells.fill(UNKNOWN, row * width + left, row * width + right);
    }
  }
  return cells;
}

/** The pixels of patches that are inside. */
export function cellsOfPatches({ labels }: Superpixels, inside: Uint8Array): Uint8Array {
  const cells = new Uint8Array(labels.length);
  for (let i = 0; i < labels.length; i++) cells[i] = inside[labels[i]];
  return cells;
}

/** The patches that lie mostly inside. */
export function patchesOfCells({ count, labels, sizes }: Superpixels, cells: Uint8Array): Uint8Array {
  const sums = new Float64Array(count);
  labels.forEach((patch, i) => (sums[patch] += cells[i]));
  return Uint8Array.from(sums, (sum, i) => (2 * sum > sizes[i] ? 1 : 0));
}
