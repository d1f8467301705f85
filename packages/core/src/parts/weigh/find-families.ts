import type { Vector3 } from "../../colour/matrix.ts";
import type { Family } from "./schema.ts";
import { colourShare, familyPlace, placeDistance, placeToFamily } from "./family.ts";
import { nameColours } from "./family-names.ts";

/** Pixels of many alike colours, taken together. */
export interface ColourCell {
  /** Mean linear working colour as shot. */
  readonly working: Vector3;
  /** Where it lies among families, as {@link familyPlace} gives it with the floor added. */
  readonly place: Vector3;
  /** Share of the picture, 0–1. */
  readonly share: number;
  /** Mean place in the picture, 0–1 from the left and from the top. */
  readonly x: number;
  readonly y: number;
}

/** A picture of linear working colour as shot. */
export interface ColourPicture {
  readonly planes: readonly [Float32Array, Float32Array, Float32Array];
  readonly width: number;
  readonly height: number;
}

/** What is darker than this share of sensor white hardly has a colour. */
const FLOOR = 2 ** -9;
/** Edge of a cell along a/L, b/L and L. */
const CELL = { colour: 0.025, lightness: 0.07 } as const;

/** A picture's colours, taken together. */
export interface ColourCells {
  readonly cells: readonly ColourCell[];
  /** The cell of each pixel. */
  readonly owners: Uint16Array;
}

/**
 * Counts a picture's colours into cells.
 * @param floor - light added to each channel before its colour is judged, so that what is nearly black has none.
 */
export function colourCells({ planes: [red, green, blue], width, height }: ColourPicture, floor = FLOOR): ColourCells {
  const placeOf = (r: number, g: number, b: number) =>
    familyPlace([Math.max(0, r) + floor, Math.max(0, g) + floor, Math.max(0, b) + floor]);
  const indices = new Map<number, number>();
  const sums: Float64Array[] = [];
  const owners = Uint16Array.from(red, (_, i) => {
    const [a, b, l] = placeOf(red[i], green[i], blue[i]);
    const key =
      (Math.round(a / CELL.colour) + 128) * 65536 +
      (Math.round(b / CELL.colour) + 128) * 256 +
      Math.min(255, Math.round(l / CELL.lightness));
    let index = indices.get(key);
    if (index === undefined) {
      indices.set(key, (index = sums.length));
      sums.push(new Float64Array(6));
    }
    const sum = sums[index];
    sum[0] += red[i];
    sum[1] += green[i];
    sum[2] += blue[i];
    sum[3] += (i % width) / width;
    sum[4] += Math.floor(i / width) / height;
    sum[5]++;
    return index;
  });
  const cells = sums.map(([r, g, b, x, y, n]) => ({
    working: [r / n, g / n, b / n] as const,
    place: placeOf(r / n, g / n, b / n),
    share: n / red.length,
    x: x / n,
    y: y / n,
  }));
  return { cells, owners };
}

const FEWEST_FAMILIES = 3;
const MOST_FOUND = 9;
/** Clusters begun with, before near ones are joined. */
const SEEDS = 40;
const ROUNDS = 10;
/** Two clusters lose the power of their common size by this, times their distance, when they are joined. */
const SIZE_COUNTS = 0.12;
/** A loss that is borne even when there are few enough. */
const SMALL_LOSS = 0.02;
/** A pure colour counts more than its area: twice at this saturation, five times at twice of it. */
const STRIKING = 0.13;
/** Clusters smaller than this, so counted, are chance. */
const SMALLEST = 0.006;
/** How much a picture's width or height of distance counts. */
const POSITION_COUNTS = 0.035;

interface Cluster {
  readonly place: Vector3;
  readonly x: number;
  readonly y: number;
  readonly weight: number;
}

/**
 * Finds the families of a picture's colours: weighted k-means over its cells by colour, lightness and a little by
 * position, from many seeds far apart, then those joined that lose least by it (after Ward 1963; small ones count more). Deterministic. Neutrals
 * are left out.
 * @returns 3 to 9 families, largest first; fewer only when the picture has hardly any colour.
 */
export function findFamilies(cells: readonly ColourCell[]): Family[] {
  const points = cells
    .map(({ place, x, y, share }): Cluster => {
      const striking = 1 + (Math.hypot(place[0], place[1]) / STRIKING) ** 2;
      return { place, x, y, weight: share * colourShare(place) * striking };
    })
    .filter(({ weight }) => weight > 2e-5);
  if (points.length === 0) return [];
  let clusters = spreadSeeds(points);
  for (let round = 0; round < ROUNDS; round++) clusters = regroup(points, clusters);
  const kept = clusters.filter(({ weight }) => weight >= SMALLEST);
  // What is chance must not take the place of what is there.
  if (kept.length >= FEWEST_FAMILIES) clusters = regroup(points, kept);
  clusters = joinNear(clusters);
  // Once more about the final middles, so that each stands in the middle of what it will claim.
  clusters = regroup(points, clusters).sort((p, q) => q.weight - p.weight);
  const names = nameColours(clusters.map(({ place }) => place));
  return clusters.map(({ place }, i) => newFamily(`f${i + 1}`, names[i], place));
}

/** A fresh family about a place. */
export function newFamily(id: string, name: string, place: Vector3): Family {
  const { hueDegrees, saturation, lightness } = placeToFamily(place);
  const round = (value: number, digits: number) => Number(value.toFixed(digits));
  return {
    id,
    name,
    hueDegrees: round(hueDegrees, 1) % 360,
    saturation: Math.min(1, round(saturation, 4)),
    lightness: Math.min(2, round(lightness, 3)),
    reach: 1,
    stops: 0,
    pinned: false,
  };
}

function distance(p: Cluster, q: Cluster): number {
  const x = POSITION_COUNTS * (p.x - q.x);
  const y = POSITION_COUNTS * (p.y - q.y);
  return Math.sqrt(placeDistance(p.place, q.place) ** 2 + x * x + y * y);
}

/** Seeds far from each other; what covers more of the picture counts as farther. */
function spreadSeeds(points: readonly Cluster[]): Cluster[] {
  const seeds = [points.reduce((best, point) => (point.weight > best.weight ? point : best))];
  const nearest = new Float64Array(points.length).fill(Infinity);
  while (seeds.length < Math.min(SEEDS, points.length)) {
    let best = -1;
    let far = 0;
    points.forEach((point, i) => {
      nearest[i] = Math.min(nearest[i], distance(point, seeds[seeds.length - 1]));
      const worth = nearest[i] * point.weight ** 0.3;
      if (worth > far) {
        far = worth;
        best = i;
      }
    });
    if (best === -1) break;
    seeds.push(points[best]);
  }
  return seeds;
}

/** Each point to its nearest cluster, then the clusters' new middles; empty ones go. */
function regroup(points: readonly Cluster[], clusters: readonly Cluster[]): Cluster[] {
  const sums = clusters.map(() => new Float64Array(6));
  for (const point of points) {
    let best = 0;
    for (let c = 1; c < clusters.length; c++)
      if (distance(point, clusters[c]) < distance(point, clusters[best])) best = c;
    add(sums[best], point);
  }
  return sums.filter((sum) => sum[5] > 0).map(middle);
}

function add(sum: Float64Array, { place, x, y, weight }: Cluster): void {
  for (let c = 0; c < 3; c++) sum[c] += weight * place[c];
  sum[3] += weight * x;
  sum[4] += weight * y;
  sum[5] += weight;
}

function middle([a, b, l, x, y, w]: Float64Array): Cluster {
  return { place: [a / w, b / w, l / w], x: x / w, y: y / w, weight: w };
}

/** Joins the pair that loses least, as long as there are too many or the loss is small. */
function joinNear(from: readonly Cluster[]): Cluster[] {
  const clusters = [...from];
  while (clusters.length > 1) {
    let pair: readonly [number, number] = [0, 1];
    let least = Infinity;
    for (let i = 0; i < clusters.length; i++)
      for (let j = i + 1; j < clusters.length; j++) {
        const [p, q] = [clusters[i], clusters[j]];
        const mass = (p.weight * q.weight) / (p.weight + q.weight);
        const loss = mass ** SIZE_COUNTS * placeDistance(p.place, q.place);
        if (loss < least) {
          least = loss;
          pair = [i, j];
        }
      }
    const bearable = clusters.length <= FEWEST_FAMILIES ? SMALL_LOSS / 3 : SMALL_LOSS;
    if (clusters.length <= MOST_FOUND && least >= bearable) break;
    const sum = new Float64Array(6);
    for (const index of pair) add(sum, clusters[index]);
    clusters.splice(pair[1], 1);
    clusters[pair[0]] = middle(sum);
  }
  return clusters;
}
