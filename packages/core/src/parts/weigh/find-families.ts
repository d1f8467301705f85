import type { Vector3 } from "../../colour/matrix.ts";
import type { Family } from "./schema.ts";
import { colourShare, familyPlace, placeDistance, placeToFamily, placeToWorking } from "./family.ts";
import { levelGain } from "../../maths/level-gain.ts";
import { smoothstep } from "../../maths/smoothstep.ts";
import { smooth3 } from "../../maths/smooth3.ts";
import { nameColours } from "./family-names.ts";

/** Pixels of many alike colours, taken together. */
export interface ColourCell {
  /** Mean linear working colour as shot. */
  readonly working: Vector3;
  /** Where it lies among families, as {@link familyPlace} gives it with the floor added. */
  readonly place: Vector3;
  /** Share of the picture, 0–1. */
  readonly share: number;
  /** The same without pixels at the edges of things, where colours mix. */
  readonly pureShare: number;
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

/**
 * The light that nearly all of a picture lies below is brought to this of white while its colours are told apart, so that families do not
 * hang on how it was exposed.
 */
const LEVEL = 0.3;
const LEVELLED = 0.9;

/** A picture's colours, taken together. */
export interface ColourCells {
  readonly cells: readonly ColourCell[];
  /** What brings the picture's light to a level of its own. */
  readonly gain: number;
  /** The cell of each pixel. */
  readonly owners: Uint16Array;
  readonly width: number;
}

/** Change of a/L and b/L from pixel to pixel at which a pixel's colour counts half: there colours mix. */
const EDGE = 0.02;

/** How far each pixel shows one colour and no mixture, 0–1. */
function purity(places: Float32Array, width: number): Float32Array {
  const pixels = places.length / 2;
  const height = pixels / width;
  return Float32Array.from({ length: pixels }, (_, i) => {
    const x = i % width;
    const y = (i - x) / width;
    const left = i - (x > 0 ? 1 : 0);
    const right = i + (x < width - 1 ? 1 : 0);
    const above = i - (y > 0 ? width : 0);
    const below = i + (y < height - 1 ? width : 0);
    let squared = 0;
    for (let c = 0; c < 2; c++)
      squared +=
        (places[2 * right + c] - places[2 * left + c]) ** 2 + (places[2 * below + c] - places[2 * above + c]) ** 2;
    return 1 / (1 + squared / (2 * EDGE) ** 2);
  });
}

/**
 * Counts a picture's colours into cells.
 * @param floor - light added to each channel before its colour is judged, so that what is nearly black has none.
 */
export function colourCells({ planes, width, height }: ColourPicture, floor = FLOOR): ColourCells {
  // Over a few pixels: noise and texture are no colours of their own.
  const [red, green, blue] = planes.map((plane) => smooth3(plane, width, height));
  const gain = levelGain(green, LEVELLED, LEVEL);
  const placeOf = (r: number, g: number, b: number) =>
    familyPlace([Math.max(0, r) + floor, Math.max(0, g) + floor, Math.max(0, b) + floor]);
  const indices = new Map<number, number>();
  const sums: Float64Array[] = [];
  const places = new Float32Array(2 * red.length);
  const owners = Uint16Array.from(red, (_, i) => {
    const [a, b, l] = placeOf(gain * red[i], gain * green[i], gain * blue[i]);
    places[2 * i] = a;
    places[2 * i + 1] = b;
    const key =
      (Math.round(a / CELL.colour) + 128) * 65536 +
      (Math.round(b / CELL.colour) + 128) * 256 +
      Math.min(255, Math.round(l / CELL.lightness));
    let index = indices.get(key);
    if (index === undefined) {
      indices.set(key, (index = sums.length));
      sums.push(new Float64Array(7));
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
  purity(places, width).forEach((pure, i) => (sums[owners[i]][6] += pure));
  const cells = sums.map(([r, g, b, x, y, n, pure]) => ({
    working: [r / n, g / n, b / n] as const,
    place: placeOf(r / n, g / n, b / n),
    share: n / red.length,
    pureShare: pure / red.length,
    x: x / n,
    y: y / n,
  }));
  return { cells, gain, owners, width };
}

const FEWEST_FAMILIES = 3;
/** More are found only when each is a colour of its own. */
const USUAL_FAMILIES = 6;
const MOST_FOUND = 9;
/** Clusters begun with, before near ones are joined. */
const SEEDS = 40;
const ROUNDS = 10;
/** Two clusters lose the power of their common size by this, times their distance, when they are joined. */
const SIZE_COUNTS = 0.12;
/** A loss that is borne while there are few families, when there are as many as usual, and when there are more. */
const BORNE = { few: 0.008, usual: 0.035, many: 0.055 } as const;
/** How much less is lost when one cluster lies wholly in the other and has its hue, as light and shade of a thing do. */
const INTERLEAVED = 0.7;
/** Neighbours of the other for each pixel of the smaller: from where two clusters are woven into each other, as grass in grass. */
const WOVEN = { begins: 0.06, wholly: 0.14 } as const;
const LIKE_HUE = Math.cos((20 * Math.PI) / 180);
/** A pure colour counts more than its area: twice at this saturation, five times at twice of it. */
const STRIKING = 0.13;
/**
 * What a passage between two things is like: the largest share of the picture, neighbours of others for each of its pixels, the share
 * of them that each of the two has at least, and how far its light may lie from a mixture of theirs.
 */
const BLEND = { share: 0.08, thin: 0.25, touching: 0.25, miss: 0.2 } as const;
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
 * position, from many seeds far apart, then those joined that lose least by it (after Ward 1963; small ones count more, and
 * what lies interleaved in the picture is sooner one thing). Pixels where colours mix have no say. Deterministic. Neutrals
 * are left out.
 * @returns 3 to 9 families, seldom more than 6, largest first; fewer only when the picture has hardly any colour.
 */
export function findFamilies(colours: ColourCells): Family[] {
  const points: Cluster[] = [];
  /** The point of each cell; -1 for cells that are neutral or next to nothing. */
  const { gain } = colours;
  const pointOf = colours.cells.map(({ working, x, y, pureShare }) => {
    const place = familyPlace(working.map((v) => Math.max(0, gain * v) + FLOOR) as unknown as Vector3);
    const striking = 1 + (Math.hypot(place[0], place[1]) / STRIKING) ** 2;
    const weight = pureShare * colourShare(place) * striking;
    return weight > 2e-5 ? points.push({ place, x, y, weight }) - 1 : -1;
  });
  if (points.length === 0) return [];
  let clusters = spreadSeeds(points);
  for (let round = 0; round < ROUNDS; round++) clusters = regroup(points, clusters);
  const kept = clusters.filter(({ weight }) => weight >= SMALLEST);
  // What is chance must not take the place of what is there.
  if (kept.length >= FEWEST_FAMILIES) clusters = regroup(points, kept);
  const nearest = points.map((point) => nearestOf(point, clusters));
  const meeting = countMeeting(colours, pointOf.map((point) => (point < 0 ? -1 : nearest[point])), clusters.length); // prettier-ignore
  clusters = joinNear(clusters, meeting);
  clusters = dropBlends(clusters, meeting);
  // Once more about the final middles, so that each stands in the middle of what it will claim.
  clusters = regroup(points, clusters).sort((p, q) => q.weight - p.weight);
  // As shot again.
  const places = clusters.map(({ place: [a, b, l] }): Vector3 => [a, b, l / Math.cbrt(gain)]);
  const names = nameColours(places);
  return places.map((place, i) => newFamily(`f${i + 1}`, names[i], place));
}

/** How clusters lie in the picture, pixels; changed with the clusters that are joined. */
interface Meeting {
  readonly areas: number[];
  /** Neighbouring pixels of each pair of clusters. */
  touching: Float64Array[];
}

function countMeeting({ owners, width }: ColourCells, clusterOf: readonly number[], count: number): Meeting {
  const areas = new Array<number>(count).fill(0);
  const touching = Array.from({ length: count }, () => new Float64Array(count));
  const meet = (p: number, q: number) => {
    if (p < 0 || q < 0 || p === q) return;
    touching[p][q]++;
    touching[q][p]++;
  };
  owners.forEach((cell, i) => {
    const own = clusterOf[cell];
    if (own >= 0) areas[own]++;
    if ((i + 1) % width !== 0) meet(own, clusterOf[owners[i + 1]]);
    if (i + width < owners.length) meet(own, clusterOf[owners[i + width]]);
  });
  return { areas, touching };
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

function nearestOf(point: Cluster, clusters: readonly Cluster[]): number {
  let best = 0;
  for (let c = 1; c < clusters.length; c++)
    if (distance(point, clusters[c]) < distance(point, clusters[best])) best = c;
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

/** Joins the pair that loses least, as long as there are too many or the loss is borne. */
function joinNear(from: readonly Cluster[], meeting: Meeting): Cluster[] {
  const clusters = [...from];
  while (clusters.length > 1) {
    const { length } = clusters;
    const usual = length <= FEWEST_FAMILIES ? BORNE.few : length <= USUAL_FAMILIES ? BORNE.usual : BORNE.many;
    const edges = meeting.touching.map((row) => row.reduce((sum, count) => sum + count, 0));
    let pair: readonly [number, number] = [0, 1];
    let least = Infinity;
    for (let i = 0; i < length; i++)
      for (let j = i + 1; j < length; j++) {
        const [p, q] = [clusters[i], clusters[j]];
        const mass = (p.weight * q.weight) / (p.weight + q.weight);
        let loss = mass ** SIZE_COUNTS * placeDistance(p.place, q.place);
        let borne: number = usual;
        if (likeHue(p.place, q.place)) {
          const touching = meeting.touching[i][j];
          loss *= 1 - (INTERLEAVED * touching) / Math.max(1, Math.min(edges[i], edges[j]));
          const density = touching / Math.max(1, Math.min(meeting.areas[i], meeting.areas[j]));
          borne = Math.max(borne, smoothstep(density, WOVEN.begins, WOVEN.wholly) * BORNE.usual);
        }
        if (loss / borne < least) {
          least = loss / borne;
          pair = [i, j];
        }
      }
    if (length <= MOST_FOUND && least >= 1) break;
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
