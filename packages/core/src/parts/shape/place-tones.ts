import { luminanceToLightness } from "../../colour/lab.ts";
import { stopsToLight } from "../../colour/stops.ts";
import { monotoneCubic } from "../../maths/monotone-cubic.ts";
import { leastChange, type LinearBound } from "../../maths/least-change.ts";
import { shapeSchema, type Shape } from "./schema.ts";
import { STRAIGHT_CURVE } from "../../maths/curve-points.ts";
import { toneCurve } from "./tone-curve.ts";

/** A light that is to print on a zone. */
export interface PlacedTone {
  /** Scene stops about Zone V, before the tone curve. */
  readonly stops: number;
  /** 0–10. */
  readonly zone: number;
}

export interface Placing {
  readonly curve: Shape["curve"];
  /** The zones on which the tones come to lie, in the order asked for. */
  readonly zones: readonly number[];
  /** Two that contradict each other most, by their indices; null when all could be had. */
  readonly conflict: readonly [number, number] | null;
  /** Tones that points and grade put beyond black or white already, where no curve parts them from it. */
  readonly beyond: readonly number[];
}

const MOST_POINTS = shapeSchema.properties.curve.maxItems ?? 16;
/** The curve rises at least so much, so that tones stay apart. */
const LEAST_RISE = 0.03;
/** Tones nearer than this before the curve are one, L* / 100. */
const ONE_TONE = 0.012;
/** Points of the curve keep this far from placed tones. */
const ANCHOR_APART = 0.05;
/** How much less it costs to leave the curve as it is than to bend it. */
const STAY = 2e-3;
/** Tones before the curve that lie this near black or white are beyond it. */
const BEYOND = 0.002;

/**
 * The free curve that puts tones on zones: a monotone cubic through all of them whose departure from the curve as it is bends
 * least (constrained least squares on its points, as for smoothing splines; Wahba 1990). Tones that contradict each
 * other come to lie on the nearest zones that rise with them (isotonic regression, pool adjacent violators; Barlow 1972).
 * @param shape - with the curve that is to be changed.
 */
export function placeTones(shape: Shape, tones: readonly PlacedTone[]): Placing {
  const before = toneCurve({ ...shape, curve: STRAIGHT_CURVE });
  const places = tones.map(({ stops }) => luminanceToLightness(before(stopsToLight(stops))) / 100);
  const [blackest, whitest] = [0, 1e6].map((light) => luminanceToLightness(before(light)) / 100);
  const beyond = places.flatMap((x, i) => (x < blackest + BEYOND || x > whitest - BEYOND ? [i] : []));
  const order = tones
    .map((_, i) => i)
    .filter((i) => !beyond.includes(i))
    .sort((p, q) => places[p] - places[q]);
  const groups = joined(order, places, tones);
  const wanted = rising(groups);
  const now = monotoneCubic(shape.curve);
  const curve =
    groups.length === 0
      ? shape.curve
      : bentLeast(
          now,
          groups.map(({ x }) => x),
          wanted,
        );
  const made = monotoneCubic(curve);
  return {
    curve,
    zones: places.map((x) => 10 * made(x)),
    conflict: worstConflict(order, places, tones),
    beyond,
  };
}

interface Group {
  readonly x: number;
  readonly zone: number;
  readonly weight: number;
}

/** Tones that are one light before the curve, as one. */
function joined(order: readonly number[], places: readonly number[], tones: readonly PlacedTone[]): Group[] {
  const groups: Group[] = [];
  for (const i of order) {
    const last = groups.at(-1);
    const one = { x: places[i], zone: tones[i].zone / 10, weight: 1 };
    if (!last || one.x - last.x > ONE_TONE) groups.push(one);
    else {
      const weight = last.weight + 1;
      groups[groups.length - 1] = { x: last.x, zone: (last.zone * last.weight + one.zone) / weight, weight };
    }
  }
  return groups;
}

/** The nearest heights that rise at least as they must, from 0 to 1. */
function rising(groups: readonly Group[]): number[] {
  // What must rise is taken off, so that what is left must not fall.
  const pools: { sum: number; weight: number; count: number }[] = [];
  for (const { x, zone, weight } of groups) {
    pools.push({ sum: (zone - LEAST_RISE * x) * weight, weight, count: 1 });
    while (pools.length > 1) {
      const [p, q] = pools.slice(-2);
      if (p.sum / p.weight <= q.sum / q.weight) break;
      pools.splice(-2, 2, { sum: p.sum + q.sum, weight: p.weight + q.weight, count: p.count + q.count });
    }
  }
  const levels = pools.flatMap(({ sum, weight, count }) => new Array<number>(count).fill(sum / weight));
  return groups.map(({ x }, i) => Math.min(1 - LEAST_RISE * (1 - x), Math.max(0, levels[i]) + LEAST_RISE * x));
}

/** Two tones that lie the other way round than their zones, farthest apart of all. */
function worstConflict(
  order: readonly number[],
  places: readonly number[],
  tones: readonly PlacedTone[],
): readonly [number, number] | null {
  let worst: readonly [number, number] | null = null;
  let most = 0.05;
  order.forEach((p, at) => {
    for (const q of order.slice(at + 1)) {
      const fall = tones[p].zone - tones[q].zone;
      const apart = places[q] - places[p] <= ONE_TONE ? Math.abs(fall) : fall;
      if (apart > most) {
        most = apart;
        worst = [p, q];
      }
    }
  });
  return worst;
}

/** Points of a curve through (x, y) whose departure from `now` bends least. */
function bentLeast(now: (x: number) => number, x: readonly number[], y: readonly number[]): Shape["curve"] {
  const fixed = new Map<number, number>(x.map((at, i) => [at, y[i]]));
  const free = Array.from({ length: MOST_POINTS - 2 }, (_, i) => (i + 1) / (MOST_POINTS - 1)).filter((at) =>
    x.every((other) => Math.abs(other - at) > ANCHOR_APART),
  );
  const anchors = free.slice(0, Math.max(0, MOST_POINTS - 2 - x.length));
  // Ends stay where they are: points and grade are for them.
  for (const end of [0, 1]) if (!fixed.has(end)) fixed.set(end, now(end));
  const knots = [...fixed.keys(), ...anchors].sort((p, q) => p - q);
  const isFree = knots.map((at) => !fixed.has(at));
  const known = knots.map((at) => (fixed.has(at) ? fixed.get(at)! - now(at) : 0));
  const open = knots.flatMap((_, i) => (isFree[i] ? [i] : []));
  const energy = bending(knots);
  const matrix = open.map((r) => open.map((c) => energy[r][c]));
  const lower = cholesky(matrix);
  const right = open.map((r) => -known.reduce((sum, v, c) => sum + energy[r][c] * v, 0));
  const best = solveUpper(lower, solveLower(lower, right));
  const heights = knots.map((at, i) => now(at) + known[i]);
  open.forEach((i, k) => (heights[i] += best[k]));
  // Rising: each step at least so much. In coordinates in which the energy is a length, the least change that keeps it.
  const bounds = knots.slice(1).map((at, i): LinearBound => {
    const a = open.map((k) => (k === i + 1 ? 1 : k === i ? -1 : 0));
    const atLeast = LEAST_RISE * (at - knots[i]) * 0.99 - (heights[i + 1] - heights[i]);
    return { a: solveLower(lower, a), atLeast };
  });
  const correction = solveUpper(lower, leastChange(open.length, bounds).x);
  open.forEach((i, k) => (heights[i] += correction[k]));
  let last = 0;
  return knots.map((at, i): [number, number] => {
    last = Math.min(1, Math.max(last, heights[i]));
    return [round(at), round(last)];
  });
}

/** The quadratic form of a departure's bending and, a little, its size. */
function bending(knots: readonly number[]): number[][] {
  const n = knots.length;
  const form = knots.map((_, r) => knots.map((_, c) => (r === c ? STAY : 0)));
  for (let i = 1; i + 1 < n; i++) {
    const [a, b] = [knots[i] - knots[i - 1], knots[i + 1] - knots[i]];
    const second = [2 / (a * (a + b)), -2 / (a * b), 2 / (b * (a + b))];
    // Second derivatives weigh by the length they stand for; made small, for they are of the order of hundreds.
    const weight = ((a + b) / 2) * 1e-3;
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++) form[i - 1 + r][i - 1 + c] += weight * second[r] * second[c];
  }
  return form;
}

/** Lower triangle L with L·Lᵀ = matrix, which is positive. */
function cholesky(matrix: readonly (readonly number[])[]): number[][] {
  const lower = matrix.map((row) => row.map(() => 0));
  matrix.forEach((row, r) => {
    for (let c = 0; c <= r; c++) {
      let sum = row[c];
      for (let k = 0; k < c; k++) sum -= lower[r][k] * lower[c][k];
      lower[r][c] = r === c ? Math.sqrt(sum) : sum / lower[c][c];
    }
  });
  return lower;
}

function solveLower(lower: readonly (readonly number[])[], right: readonly number[]): number[] {
  const x: number[] = [];
  lower.forEach((row, r) => x.push((right[r] - x.reduce((sum, v, k) => sum + row[k] * v, 0)) / row[r]));
  return x;
}

function solveUpper(lower: readonly (readonly number[])[], right: readonly number[]): number[] {
  const x = new Array<number>(right.length).fill(0);
  for (let r = right.length - 1; r >= 0; r--) {
    let sum = right[r];
    for (let k = r + 1; k < right.length; k++) sum -= lower[k][r] * x[k];
    x[r] = sum / lower[r][r];
  }
  return x;
}

const round = (v: number) => Math.round(v * 1e5) / 1e5;
