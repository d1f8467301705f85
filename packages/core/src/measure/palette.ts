import type { Vector3 } from "../colour/matrix.ts";
import { workingToOklab } from "../colour/oklab.ts";

/** One of the colours a picture is made of. */
export interface PaletteColour {
  /** Mean linear working RGB, before the recipe's weights. */
  readonly working: Vector3;
  /** Share of the picture, 0–1. */
  readonly share: number;
}

const ROUNDS = 12;
const CHROMA_EMPHASIS = 2.5;
/** Means nearer than this in the emphasised OKLab distance become one. */
const MERGE_DISTANCE = 0.11;

/**
 * The main colours of a picture: k-means in OKLab with chroma counted more than lightness, started from far apart
 * pixels, then near neighbours merged. Deterministic.
 * @param planes - red, green, blue of equal length, linear working space.
 * @returns at most `count` colours, lightest first.
 */
export function findPalette(planes: readonly [Float32Array, Float32Array, Float32Array], count = 8): PaletteColour[] {
  const [red, green, blue] = planes;
  const places: Vector3[] = [];
  for (let i = 0; i < red.length; i++) {
    const [l, a, b] = workingToOklab([Math.max(0, red[i]), Math.max(0, green[i]), Math.max(0, blue[i])]);
    places.push([l, CHROMA_EMPHASIS * a, CHROMA_EMPHASIS * b]);
  }
  if (places.length === 0) return [];
  let centres = spreadStarts(places, count);
  for (let round = 0; round < ROUNDS; round++)
    centres = means(places, assign(places, centres), centres.length).filter((c) => c !== null);
  centres = mergeNear(centres);
  const owner = assign(places, centres);
  const sums = centres.map(() => [0, 0, 0, 0]);
  owner.forEach((c, i) => {
    sums[c][0] += red[i];
    sums[c][1] += green[i];
    sums[c][2] += blue[i];
    sums[c][3]++;
  });
  return sums
    .map((s, c) => ({ working: [s[0] / s[3], s[1] / s[3], s[2] / s[3]] as Vector3, share: s[3] / places.length, c }))
    .filter(({ share }) => share > 0.004)
    .sort((p, q) => centres[q.c][0] - centres[p.c][0])
    .map(({ working, share }) => ({ working, share }));
}

function spreadStarts(places: Vector3[], count: number): Vector3[] {
  const starts = [places[places.length >> 1]];
  const nearest = new Float64Array(places.length).fill(Infinity);
  while (starts.length < count) {
    let far = 0;
    places.forEach((p, i) => {
      nearest[i] = Math.min(nearest[i], distance2(p, starts[starts.length - 1]));
      if (nearest[i] > nearest[far]) far = i;
    });
    if (nearest[far] === 0) break;
    starts.push(places[far]);
  }
  return starts;
}

function assign(places: Vector3[], centres: Vector3[]): Int32Array {
  return Int32Array.from(places, (p) => {
    let best = 0;
    for (let c = 1; c < centres.length; c++) if (distance2(p, centres[c]) < distance2(p, centres[best])) best = c;
    return best;
  });
}

function means(places: Vector3[], owner: Int32Array, count: number): (Vector3 | null)[] {
  const sums = Array.from({ length: count }, () => [0, 0, 0, 0]);
  places.forEach((p, i) => {
    const sum = sums[owner[i]];
    for (let k = 0; k < 3; k++) sum[k] += p[k];
    sum[3]++;
  });
  return sums.map((s) => (s[3] > 0 ? [s[0] / s[3], s[1] / s[3], s[2] / s[3]] : null));
}

function mergeNear(centres: Vector3[]): Vector3[] {
  const kept: Vector3[] = [];
  for (const c of centres) if (kept.every((k) => distance2(k, c) > MERGE_DISTANCE ** 2)) kept.push(c);
  return kept;
}

function distance2(p: Vector3, q: Vector3): number {
  return (p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2 + (p[2] - q[2]) ** 2;
}
