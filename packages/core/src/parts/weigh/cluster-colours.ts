import type { Vector3 } from "../../colour/matrix.ts";
import type { Rect } from "../../maths/rect.ts";
import { smoothstep } from "../../maths/smoothstep.ts";
import type { ColourCells } from "./colour-cells.ts";
import { placeDistance, placeToWorking, squaredDistance } from "./family.ts";

/** Chance is dropped as long as so many clusters are left. */
const FEWEST_KEPT = 3;
/** More are found only when each is a colour of its own. */
const USUAL_FAMILIES = 6;
const MOST_FOUND = 9;
/** Clusters begun with, before near ones are joined. */
const SEEDS = 40;
const ROUNDS = 10;
/** A seed's distance from those before counts times its size to the power of this. */
const SEED_COUNTS = 0.3;
/** Two clusters lose the power of their common size by this, times their distance, when they are joined. */
const SIZE_COUNTS = 0.16;
/** A loss that is borne when there are no more families than usual, and when there are more. */
const BORNE = { usual: 0.04, many: 0.06 } as const;
/** How much less is lost when one cluster lies wholly in the other and has its hue, as light and shade of a thing do. */
const INTERLEAVED = 0.7;
/** Share of that which is left of two that only lie beside each other; all of it from so many neighbours of the other for each pixel of the smaller, as grass in grass. */
const BESIDE = 0.6;
const WOVEN = { begins: 0.06, wholly: 0.14 } as const;
const LIKE_HUE = Math.cos((20 * Math.PI) / 180);
/**
 * What a passage between two things is like: the largest share of the picture, neighbours of others for each of its pixels, the share
 * of them that each of the two has at least, and how far its light may lie from a mixture of theirs.
 */
const BLEND = { share: 0.08, thin: 0.25, touching: 0.25, miss: 0.2 } as const;
/** Clusters smaller than this, so counted, are chance. */
const SMALLEST = 0.006;
/** How much a picture's width or height of distance counts. */
const POSITION_COUNTS = 0.035;

/** Colours taken together: where they lie among families and in the picture, and how much they count. */
export interface Cluster {
  readonly place: Vector3;
  readonly x: number;
  readonly y: number;
  readonly weight: number;
}

/**
 * Clusters of a picture's colours: weighted k-means by colour, lightness and a little by position, from many seeds far apart, then those
 * joined that lose least by it (after Ward 1963; small ones count more, and what lies interleaved in the picture is sooner one thing).
 * @param colours - whose cells `clusterOf` are.
 * @param part - of the picture, pixels.
 * @param points - its colours as they are seen there.
 * @param pointOf - the point of each cell; -1 for cells that have no say.
 * @returns as many as are there, at most nine.
 */
export function clusterColours(
  colours: ColourCells,
  part: Rect,
  points: readonly Cluster[],
  pointOf: readonly number[],
): Cluster[] {
  if (points.length === 0) return [];
  let clusters = spreadSeeds(points);
  for (let round = 0; round < ROUNDS; round++) clusters = regroup(points, clusters);
  const kept = clusters.filter(({ weight }) => weight >= SMALLEST);
  // What is chance must not take the place of what is there.
  if (kept.length >= FEWEST_KEPT) clusters = regroup(points, kept);
  const nearest = points.map((point) => nearestOf(point, clusters));
  const clusterOf = Int16Array.from(pointOf, (point) => (point < 0 ? -1 : nearest[point]));
  const meeting = countMeeting(colours, part, clusterOf, clusters.length);
  clusters = joinNear(clusters, meeting);
  clusters = dropBlends(clusters, meeting);
  // Once more about the final middles, so that each stands in the middle of what it will claim.
  return regroup(points, clusters);
}

/** How clusters lie in the picture, pixels; changed with the clusters that are joined. */
interface Meeting {
  readonly areas: number[];
  /** Neighbouring pixels of each pair of clusters. */
  touching: Float64Array[];
}

function countMeeting({ owners, width }: ColourCells, part: Rect, clusterOf: Int16Array, count: number): Meeting {
  const areas = new Array<number>(count).fill(0);
  const touching = Array.from({ length: count }, () => new Float64Array(count));
  const meet = (p: number, q: number) => {
    touching[p][q]++;
    touching[q][p]++;
  };
  const right = part.x + part.width - 1;
  const bottom = part.y + part.height - 1;
  for (let y = part.y; y <= bottom; y++) {
    let own = clusterOf[owners[y * width + part.x]];
    for (let x = part.x, i = y * width + x; x <= right; x++, i++) {
      const beside = x < right ? clusterOf[owners[i + 1]] : own;
      if (own >= 0) {
        areas[own]++;
        if (beside !== own && beside >= 0) meet(own, beside);
        const below = y < bottom ? clusterOf[owners[i + width]] : own;
        if (below !== own && below >= 0) meet(own, below);
      }
      own = beside;
    }
  }
  return { areas, touching };
}

function squared(p: Cluster, q: Cluster): number {
  const x = POSITION_COUNTS * (p.x - q.x);
  const y = POSITION_COUNTS * (p.y - q.y);
  return squaredDistance(p.place, q.place) + x * x + y * y;
}

/** Seeds far from each other; what covers more of the picture counts as farther. */
function spreadSeeds(points: readonly Cluster[]): Cluster[] {
  const seeds = [points.reduce((best, point) => (point.weight > best.weight ? point : best))];
  const nearest = new Float64Array(points.length).fill(Infinity);
  const worths = points.map(({ weight }) => weight ** (2 * SEED_COUNTS));
  while (seeds.length < Math.min(SEEDS, points.length)) {
    let best = -1;
    let far = 0;
    points.forEach((point, i) => {
      nearest[i] = Math.min(nearest[i], squared(point, seeds[seeds.length - 1]));
      const worth = nearest[i] * worths[i];
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

/** The cluster that a colour is nearest to. */
export function nearestOf(point: Cluster, clusters: readonly Cluster[]): number {
  let best = 0;
  let least = Infinity;
  for (let c = 0; c < clusters.length; c++) {
    const apart = squared(point, clusters[c]);
    if (apart < least) {
      least = apart;
      best = c;
    }
  }
  return best;
}

/** Each point to its nearest cluster, then the clusters' new middles; empty ones go. */
function regroup(points: readonly Cluster[], clusters: readonly Cluster[]): Cluster[] {
  const sums = clusters.map(() => new Float64Array(6));
  for (const point of points) add(sums[nearestOf(point, clusters)], point);
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

/** How far the smaller of two clusters lies in the other, 0–1: the share of its border that they have in common, less where they hardly touch. */
function interleaving({ areas, touching }: Meeting, i: number, j: number): number {
  const common = touching[i][j];
  const border = Math.min(...[i, j].map((k) => touching[k].reduce((sum, count) => sum + count, 0)));
  const woven = smoothstep(common / Math.max(1, Math.min(areas[i], areas[j])), WOVEN.begins, WOVEN.wholly);
  return (common / Math.max(1, border)) * (BESIDE + (1 - BESIDE) * woven);
}

/** Joins the pair that loses least, as long as there are too many or the loss is borne. */
function joinNear(from: readonly Cluster[], meeting: Meeting): Cluster[] {
  const clusters = [...from];
  while (clusters.length > 1) {
    const { length } = clusters;
    const borne = length <= USUAL_FAMILIES ? BORNE.usual : BORNE.many;
    let pair: readonly [number, number] = [0, 1];
    let least = Infinity;
    for (let i = 0; i < length; i++)
      for (let j = i + 1; j < length; j++) {
        const [p, q] = [clusters[i], clusters[j]];
        const mass = (p.weight * q.weight) / (p.weight + q.weight);
        let loss = mass ** SIZE_COUNTS * placeDistance(p.place, q.place);
        if (likeHue(p.place, q.place)) loss *= 1 - INTERLEAVED * interleaving(meeting, i, j);
        if (loss < least) {
          least = loss;
          pair = [i, j];
        }
      }
    if (length <= MOST_FOUND && least >= borne) break;
    const sum = new Float64Array(6);
    for (const index of pair) add(sum, clusters[index]);
    const [i, j] = pair;
    clusters.splice(j, 1);
    clusters[i] = middle(sum);
    joinMeeting(meeting, i, j);
  }
  return clusters;
}

/**
 * Drops what is no thing of its own but the passage between two: a thin strip with one of them on either side, whose light is a
 * mixture of theirs, as where something out of focus lies before something else.
 */
function dropBlends(from: readonly Cluster[], meeting: Meeting): Cluster[] {
  const clusters = [...from];
  for (let k = 0; k < clusters.length; k++) {
    const near = sideOfBlend(clusters, meeting, k);
    if (near === null) continue;
    const [first, last] = [Math.min(near, k), Math.max(near, k)];
    joinMeeting(meeting, first, last);
    clusters[first] = { ...clusters[near], weight: clusters[near].weight + clusters[k].weight };
    clusters.splice(last, 1);
    k = -1;
  }
  return clusters;
}

/** Of the two clusters that a cluster is the passage between, the nearer; null when it is none. */
function sideOfBlend(clusters: readonly Cluster[], { areas, touching }: Meeting, k: number): number | null {
  const edges = touching[k].reduce((sum, count) => sum + count, 0);
  const all = areas.reduce((sum, area) => sum + area, 0);
  if (areas[k] > BLEND.share * all || edges < BLEND.thin * areas[k]) return null;
  const sides = [...touching[k]].flatMap((count, i) =>
    i !== k && areas[i] > areas[k] && count > BLEND.touching * edges ? [i] : [],
  );
  const own = placeToWorking(clusters[k].place);
  for (const i of sides)
    for (const j of sides) {
      if (j <= i) continue;
      const [p, q] = [clusters[i].place, clusters[j].place].map(placeToWorking);
      const way = q.map((value, c) => value - p[c]);
      const along =
        dot(
          way,
          own.map((value, c) => value - p[c]),
        ) / dot(way, way);
      const miss = own.map((value, c) => value - p[c] - along * way[c]);
      if (along > 0 && along < 1 && dot(miss, miss) < BLEND.miss ** 2 * dot(own, own)) return along < 0.5 ? i : j;
    }
  return null;
}

function dot(p: readonly number[], q: readonly number[]): number {
  return p.reduce((sum, value, i) => sum + value * q[i], 0);
}

/** Cluster j becomes part of cluster i, j > i. */
function joinMeeting(meeting: Meeting, i: number, j: number): void {
  const { areas, touching } = meeting;
  areas[i] += areas[j];
  areas.splice(j, 1);
  touching[j].forEach((count, k) => {
    if (k === i || k === j) return;
    touching[i][k] += count;
    touching[k][i] += count;
  });
  touching.splice(j, 1);
  meeting.touching = touching.map((row) => row.filter((_, c) => c !== j));
  meeting.touching[i][i] = 0;
}

function likeHue(p: Vector3, q: Vector3): boolean {
  return p[0] * q[0] + p[1] * q[1] > LIKE_HUE * Math.hypot(p[0], p[1]) * Math.hypot(q[0], q[1]);
}
