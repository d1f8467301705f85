import { type Weigh, familySchema } from "./schema.ts";
import { rangeOf } from "../../schema/defaults.ts";
import type { FamilyProbe } from "./family-probe.ts";
import { leastChange, type LinearBound } from "../../maths/least-change.ts";
import type { Boundary } from "./picture-colours.ts";
import { findNeighbours, GREY_APART, PARTED, type Neighbours } from "./separation.ts";
import { missingOf, tasteOf, tonesOf, type ToneBound } from "./taste.ts";

/** What a solution is asked for. */
export type Goal =
  /** Two groups at least so far apart in L*. */
  | { readonly kind: "part"; readonly first: number; readonly second: number; readonly apart?: number }
  /** Every merged pair of neighbours. */
  | { readonly kind: "part all"; readonly apart?: number }
  /** A family on a zone. */
  | { readonly kind: "zone"; readonly family: number; readonly zone: number };

export interface SolveOptions {
  /** Most noise that any family may cost, stops of ISO; what it costs already is always allowed. */
  readonly mostNoiseStops?: number;
}

/** What kept a solution from its goal. */
export type StoppedBy =
  | { readonly kind: "pinned" }
  | { readonly kind: "range"; readonly family: number }
  /** It would have to move farther than parting may move a family on its own. */
  | { readonly kind: "bound"; readonly family: number }
  | { readonly kind: "noise"; readonly family: number };

/** The smallest change that was found. */
interface Settled {
  readonly weigh: Weigh;
  readonly changes: readonly { readonly family: number; readonly from: number; readonly to: number }[];
  readonly reached: boolean;
  /** What stopped it, when it is not reached. */
  readonly stoppedBy: StoppedBy | null;
}

export interface Solution extends Settled {
  /** Neighbours that were apart and have become one grey by it, by their indices. */
  readonly closer: readonly (readonly [number, number])[];
  /** Pairs that stay one grey because parting them too would go beyond the bounds, worst first. */
  readonly left: readonly (readonly [number, number])[];
}

const { minimum: LOWEST, maximum: HIGHEST } = rangeOf(familySchema, "stops");
const ROUNDS = 10;
const REPAIRS = 3;
const PROBE_STEP = 0.04;
/** A goal counts as reached within this, L*. */
const CLOSE = 0.4;
/** Moving a family that was not asked about counts as so much farther. */
const BYSTANDER = 2.5;
/** Stops are settled in hundredths. */
const SETTLED = 100;
/** Moves smaller than this are left out when the goal is reached without, stops. */
const TRIFLE = 0.12;
/**
 * Farthest that parting leaves a family from 0, stops, unless it stood farther out already: beyond it skies turn to bare paper
 * and pictures fall apart. A zone that is asked for by name may take the whole range.
 */
export const FARTHEST_PARTED = 1.5;
/** Noise that a solution may cost, stops of ISO. */
export const MOST_NOISE_STOPS = 1;
/** Farthest that one round goes, so that the straight lines stay near the truth. */
const LONGEST_STEP = 0.8;

/** A bound on tones that is asked for, or is only to be kept. */
interface Wanted extends ToneBound {
  readonly goal: boolean;
  /** Never given up for a goal. */
  readonly firm?: true;
}

/**
 * The smallest change of the families' stops (least squares) that reaches a goal, within their range, with pinned families
 * untouched and noise within a bound. Greys bend, so it goes in rounds of straight lines. Neighbours that would become one
 * grey by it are kept apart, on whichever side they come to lie, as long as the goal is reached all the same.
 */
export function solve(
  probe: FamilyProbe,
  boundaries: readonly Boundary[],
  goal: Goal,
  { mostNoiseStops = MOST_NOISE_STOPS }: SolveOptions = {},
): Solution {
  const farthest = goal.kind === "zone" ? HIGHEST : FARTHEST_PARTED;
  const bounds =
    goal.kind === "zone" ? [] : tasteOf(probe).map((bound): Wanted => ({ ...bound, goal: false, firm: true }));
  const before = findNeighbours(probe, boundaries);
  const attempt = (wanted: readonly Wanted[]): Solution => {
    let best = settle(probe, [...wanted, ...bounds], mostNoiseStops, farthest);
    const kept: Wanted[] = [];
    for (let repair = 0; repair < REPAIRS && best.reached; repair++) {
      const lost = newlyMerged(probe, boundaries, before, best, wanted);
      if (lost.length === 0) break;
      kept.push(...lost);
      const next = settle(probe, [...wanted, ...bounds, ...kept], mostNoiseStops, farthest);
      if (!next.reached) break;
      best = next;
    }
    const closer = newlyMerged(probe, boundaries, before, best, wanted).map(pairOf);
    return { ...best, closer, left: [] };
  };
  const goals = goalsOf(probe, boundaries, goal);
  const whole = smallest(goals.map(attempt));
  if (goal.kind !== "part all" || whole.reached) return whole;
  return partWhatMatters(goals[0], attempt) ?? whole;
}

/** When not all pairs can be parted within bounds: the worst of them first, each as long as those before it stay parted. */
function partWhatMatters(pairs: readonly Wanted[], attempt: (wanted: readonly Wanted[]) => Solution): Solution | null {
  const parted: Wanted[] = [];
  const left: (readonly [number, number])[] = [];
  let best: Solution | null = null;
  let stoppedBy: StoppedBy | null = null;
  for (const pair of pairs) {
    const next = attempt([...parted, pair]);
    if (next.reached) {
      best = next;
      parted.push(pair);
    } else {
      left.push(pairOf(pair));
      stoppedBy ??= next.stoppedBy;
    }
  }
  return best && { ...best, reached: false, stoppedBy, left };
}

/** What is told of a solution that goes only a part of its way, because the inside of one family would become too rough by all of it. */
export function shortened(
  probe: FamilyProbe,
  boundaries: readonly Boundary[],
  goal: Goal,
  weigh: Weigh,
  rough: number,
): Solution {
  const changes = probe.weigh.families.flatMap(({ stops: from }, family) => {
    const to = weigh.families[family].stops;
    return to === from ? [] : [{ family, from, to }];
  });
  const settled: Settled = { weigh, changes, reached: false, stoppedBy: { kind: "noise", family: rough } };
  const before = findNeighbours(probe, boundaries);
  const closer = newlyMerged(probe, boundaries, before, settled, []).map(pairOf);
  const still = findNeighbours(probe, boundaries, probe.greys(weigh)).filter(
    ({ first, second, merged }) => merged && !closer.some(([p, q]) => p === first && q === second),
  );
  return { ...settled, closer, left: goal.kind === "part all" ? still.map(pairOf) : [] };
}

function pairOf({ first, second }: { readonly first: number; readonly second: number | null }): [number, number] {
  return [first, second!];
}

function smallest(solutions: readonly Solution[]): Solution {
  const length = ({ changes }: Settled) => Math.hypot(...changes.map(({ from, to }) => to - from));
  return solutions.reduce((best, one) => {
    if (one.reached !== best.reached) return one.reached ? one : best;
    return length(one) < length(best) === one.reached ? one : best;
  });
}

/** What must hold for a goal; a pair may be parted either way. */
function goalsOf(probe: FamilyProbe, boundaries: readonly Boundary[], goal: Goal): Wanted[][] {
  if (goal.kind === "zone") {
    const base = { first: goal.family, second: null, goal: true };
    return [
      [
        { ...base, sign: 1, atLeast: 10 * goal.zone },
        { ...base, sign: -1, atLeast: -10 * goal.zone },
      ],
    ];
  }
  const atLeast = goal.apart ?? PARTED;
  if (goal.kind === "part") {
    const { first, second } = goal;
    return ([1, -1] as const).map((sign) => [{ first, second, sign, atLeast, goal: true }]);
  }
  const greys = probe.greys();
  const plain = probe.plainGreys();
  const pairs = findNeighbours(probe, boundaries, greys).filter(({ merged }) => merged);
  // Each pair in the order in which it stands, or by its luminance when it is one and the same.
  const towards = ({ first, second }: Boundary): 1 | -1 => {
    const now = greys[first].lightness - greys[second].lightness;
    const before = plain[first].lightness - plain[second].lightness;
    return (Math.abs(now) > 0.5 ? now : before) >= 0 ? 1 : -1;
  };
  return [pairs.map((pair) => ({ first: pair.first, second: pair.second, sign: towards(pair), atLeast, goal: true }))];
}

/** Neighbours that were two greys and are one under a solution, as bounds that would keep them apart. */
function newlyMerged(
  probe: FamilyProbe,
  boundaries: readonly Boundary[],
  before: readonly Neighbours[],
  { weigh }: Settled,
  wanted: readonly Wanted[],
): Wanted[] {
  return findNeighbours(probe, boundaries, probe.greys(weigh))
    .filter(({ merged }) => merged)
    .flatMap(({ first, second, greyDifference }) => {
      const was = before.find((pair) => pair.first === first && pair.second === second);
      if (!was || was.merged || wanted.some((bound) => bound.first === first && bound.second === second)) return [];
      const side = Math.abs(greyDifference) > 1 ? greyDifference : was.greyDifference;
      return [{ first, second, sign: side >= 0 ? 1 : -1, atLeast: GREY_APART + 0.5, goal: false } as const];
    });
}

function settle(probe: FamilyProbe, wanted: readonly Wanted[], mostNoiseStops: number, most: number): Settled {
  const { weigh } = probe;
  const start = weigh.families.map(({ stops }) => stops);
  const ends = start.map((value) => ({
    low: Math.max(LOWEST, Math.min(value, -most)),
    high: Math.min(HIGHEST, Math.max(value, most)),
  }));
  const free = weigh.families.flatMap(({ pinned }, i) => (pinned ? [] : [i]));
  if (free.length === 0) return notReached(weigh, { kind: "pinned" });
  const withStops = (stops: readonly number[]) => moveFamilies(weigh, stops);
  const lightness = (stops: readonly number[]) => tonesOf(probe, withStops(stops));
  const asked = new Set(wanted.flatMap(({ first, second, goal }) => (goal ? [first, second] : [])));
  const costs = free.map((k) => (asked.has(k) ? 1 : BYSTANDER));
  let stops = [...start];
  for (let round = 0; round < ROUNDS; round++) {
    const now = lightness(stops);
    const slopes = free.map((k) => {
      const step = stops[k] > HIGHEST - PROBE_STEP ? -PROBE_STEP : PROBE_STEP;
      const moved = lightness(stops.map((value, i) => (i === k ? value + step : value)));
      return moved.map((value, i) => (value - now[i]) / step);
    });
    const slopeOf = (column: number[], { first, second, sign }: Wanted) =>
      sign * (column[first] - (second === null ? 0 : column[second]));
    const bounds: LinearBound[] = wanted.map((bound) => {
      const a = slopes.map((column) => slopeOf(column, bound));
      const gone = free.reduce((sum, k, i) => sum + a[i] * (stops[k] - start[k]), 0);
      return { a: a.map((slope, i) => slope / costs[i]), atLeast: missingOf(now, bound) + gone };
    });
    free.forEach((k, i) => {
      const unit = free.map((_, j) => (i === j ? 1 / costs[i] : 0));
      const { low, high } = ends[k];
      bounds.push({ a: unit, atLeast: low - start[k] }, { a: unit.map((v) => -v), atLeast: start[k] - high });
    });
    const { x } = leastChange(free.length, bounds);
    let farthest = 0;
    const next = [...stops];
    free.forEach((k, i) => {
      const target = Math.min(ends[k].high, Math.max(ends[k].low, start[k] + x[i] / costs[i]));
      next[k] = stops[k] + Math.min(LONGEST_STEP, Math.max(-LONGEST_STEP, target - stops[k]));
      farthest = Math.max(farthest, Math.abs(next[k] - stops[k]));
    });
    stops = next;
    if (farthest < 2e-3) break;
  }
  const noisy = loudestOver(probe, withStops, start, mostNoiseStops);
  const tooLoud = noisy(stops);
  if (tooLoud !== null) stops = asFarAs((values) => noisy(values) === null, start, stops);
  const failing = (values: readonly number[]) => {
    const greys = lightness(values);
    return wanted.filter((bound) => missingOf(greys, bound) > CLOSE);
  };
  const settled = stops.map((value, k) => (Math.abs(value - start[k]) < 0.5 / SETTLED ? start[k] : rounded(value)));
  // What hardly counts is left where it was, so that the change can be told in few words.
  for (const k of free) {
    if (settled[k] === start[k] || Math.abs(settled[k] - start[k]) > TRIFLE) continue;
    const without = settled.map((value, i) => (i === k ? start[k] : value));
    if (failing(without).length <= failing(settled).length) settled[k] = start[k];
  }
  const failed = failing(settled);
  const reached = failed.every((bound) => !bound.goal && !bound.firm);
  const changes = settled.flatMap((to, family) => (to === start[family] ? [] : [{ family, from: start[family], to }]));
  const stoppedBy = reached ? null : reasonOf(tooLoud, settled, ends, free, weigh, wanted);
  return { weigh: withStops(settled), changes, reached, stoppedBy };
}

function rounded(value: number): number {
  return Math.round(value * SETTLED) / SETTLED;
}

function notReached(weigh: Weigh, stoppedBy: StoppedBy): Settled {
  return { weigh, changes: [], reached: false, stoppedBy };
}

function reasonOf(
  tooLoud: number | null,
  stops: readonly number[],
  ends: readonly { readonly low: number; readonly high: number }[],
  free: readonly number[],
  weigh: Weigh,
  wanted: readonly Wanted[],
): StoppedBy {
  if (tooLoud !== null) return { kind: "noise", family: tooLoud };
  const asked = wanted.filter(({ goal }) => goal).flatMap(({ first, second }) => [first, second ?? first]);
  const atEnd = free.find(
    (k) => asked.includes(k) && (stops[k] >= ends[k].high - 0.02 || stops[k] <= ends[k].low + 0.02),
  );
  if (atEnd !== undefined) {
    const whole = stops[atEnd] >= HIGHEST - 0.02 || stops[atEnd] <= LOWEST + 0.02;
    return { kind: whole ? "range" : "bound", family: atEnd };
  }
  if (asked.every((k) => k >= weigh.families.length || weigh.families[k].pinned)) return { kind: "pinned" };
  return { kind: "range", family: asked.find((k) => k < weigh.families.length) ?? 0 };
}

/** The family that is noisier than allowed, worst first; null when none is. */
function loudestOver(
  probe: FamilyProbe,
  withStops: (stops: readonly number[]) => Weigh,
  start: readonly number[],
  most: number,
) {
  const before = probe.noiseStops(withStops(start));
  return (stops: readonly number[]): number | null => {
    let loudest: number | null = null;
    let worst = 0.02;
    probe.noiseStops(withStops(stops)).forEach((value, k) => {
      const over = (value ?? 0) - Math.max(most, before[k] ?? 0);
      if (k < start.length && over > worst) {
        worst = over;
        loudest = k;
      }
    });
    return loudest;
  };
}

/** The farthest point between two that still holds. */
function asFarAs(
  holds: (values: readonly number[]) => boolean,
  from: readonly number[],
  to: readonly number[],
): number[] {
  let low = 0;
  let high = 1;
  const at = (share: number) => from.map((value, i) => value + share * (to[i] - value));
  for (let i = 0; i < 12; i++) {
    const middle = (low + high) / 2;
    if (holds(at(middle))) low = middle;
    else high = middle;
  }
  return at(low);
}

/** The same families on other stops. */
export function moveFamilies(weigh: Weigh, stops: readonly number[]): Weigh {
  return { ...weigh, families: weigh.families.map((family, i) => ({ ...family, stops: stops[i] })) };
}
