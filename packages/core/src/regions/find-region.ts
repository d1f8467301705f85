import { leastCut } from "./least-cut.ts";
import { difference, FEATURES, type Superpixels } from "./superpixels.ts";

/** What is known of each patch beforehand. */
export const UNKNOWN = 0;
export const INSIDE = 1;
export const OUTSIDE = 2;

/** Colours by which each side is known, and rounds in which they are learned. */
const COLOURS = 5;
const ROUNDS = 4;
/** A colour is known no better than this. */
const KNOWN = 0.035 ** 2;
/** What one pixel side of a border costs between patches that look the same. */
const BORDER = 14;
/** A pixel never speaks for a side by more than this. */
const MOST_CERTAIN = 12;
/** What it costs a pixel to leave the side of the first guess: colours alone would wander off to whatever looks alike. */
const GUESSED = 0.8;

/** Steps of colour less than this are none. */
const LEAST_STEP = 0.02;
/** A region is seldom nearly everything, and one patch is none: shares of the picture. */
const MOST_SHARE = 0.85;
const LEAST_SHARE = 0.004;

/**
 * The patches of a region: colour models of inside and outside learned by turns with the least cut between patches
 * (GrabCut: Rother, Kolmogorov, Blake 2004; on superpixels).
 * @param known - what is known of each patch, and stays.
 * @param guess - the first inside, 1; of each patch.
 * @param guessed - what it costs a pixel to leave the side of the first guess, the same for all patches or of each.
 * @param unsure - patches, 1, that are not yet taken for the outside when its colours are learned first.
 */
export function cutRegion(
  patches: Superpixels,
  known: Uint8Array,
  guess: Uint8Array,
  guessed: number | Float64Array = GUESSED,
  unsure?: Uint8Array,
): Uint8Array {
  const leaving = typeof guessed === "number" ? new Float64Array(patches.count).fill(guessed) : guessed;
  const { count, sizes, from, to, lengths } = patches;
  const parting = new Float64Array(from.length);
  let [sum, n] = [0, 0];
  for (let e = 0; e < from.length; e++) {
    const d = difference(patches, from[e], to[e]) ** 2;
    parting[e] = d;
    sum += d * lengths[e];
    n += lengths[e];
  }
  const usual = Math.max(1e-8, sum / n);
  for (let e = 0; e < from.length; e++) parting[e] = BORDER * lengths[e] * Math.exp(-parting[e] / (2 * usual));
  let inside: Uint8Array = guess.map((value, i) => (known[i] === UNKNOWN ? value : known[i] === INSIDE ? 1 : 0));
  for (let round = 0; round < ROUNDS; round++) {
    const isLeftOut = (i: number) => round === 0 && inside[i] === 0 && unsure?.[i] === 1;
    const models = [1, 0].map((side) => learn(patches, (i) => inside[i] === side && !isLeftOut(i)));
    if (models.some((model) => model === null)) break;
    const [near, far] = models.map((model) =>
      Float64Array.from({ length: count }, (_, i) => unlikely(model!, patches, i)),
    );
    const cost = (own: Float64Array, other: Float64Array, i: number, forbidden: number, first: number) =>
      known[i] === forbidden
        ? 1e9
        : known[i] !== UNKNOWN
          ? 0
          : sizes[i] * (Math.min(MOST_CERTAIN, Math.max(0, own[i] - other[i])) + (guess[i] === first ? 0 : leaving[i]));
    const next = leastCut({
      count,
      toNear: Float64Array.from({ length: count }, (_, i) => cost(near, far, i, OUTSIDE, 1)),
      toFar: Float64Array.from({ length: count }, (_, i) => cost(far, near, i, INSIDE, 0)),
      from,
      to,
      parting,
    });
    const same = next.every((value, i) => value === inside[i]);
    inside = next;
    if (same) break;
  }
  return inside;
}

interface Model {
  readonly means: Float64Array;
  readonly spreads: Float64Array;
  readonly shares: Float64Array;
}

/** The colours of a side, with their spreads: k-means, begun at what is farthest from those before. */
function learn(patches: Superpixels, isOf: (i: number) => boolean): Model | null {
  const { count, sizes, features } = patches;
  const members = Array.from({ length: count }, (_, i) => i).filter(isOf);
  if (members.length === 0) return null;
  const k = Math.min(COLOURS, members.length);
  const means = new Float64Array(FEATURES * k);
  const distance = (i: number, c: number) => {
    let sum = 0;
    for (let f = 0, at = FEATURES * i, to = FEATURES * c; f < FEATURES; f++, at++, to++) {
      const step = features[at] - means[to];
      sum += step * step;
    }
    return sum;
  };
  const take = (c: number, i: number) => {
    for (let f = 0; f < FEATURES; f++) means[FEATURES * c + f] = features[FEATURES * i + f];
  };
  take(0, members.reduce((most, i) => (sizes[i] > sizes[most] ? i : most), members[0])); // prettier-ignore
  const nearest = new Float64Array(count).fill(Infinity);
  for (let c = 1; c < k; c++) {
    let [far, at] = [-1, members[0]];
    for (const i of members) {
      nearest[i] = Math.min(nearest[i], distance(i, c - 1));
      // Large patches count more, so that no speck becomes a colour of its own.
      const d = nearest[i] * sizes[i];
      if (d > far) [far, at] = [d, i];
    }
    take(c, at);
  }
  const owner = new Int32Array(count);
  const shares = new Float64Array(k);
  const spreads = new Float64Array(FEATURES * k);
  for (let round = 0; round < 8; round++) {
    for (const i of members) {
      let best = 0;
      let least = Infinity;
      for (let c = 0; c < k; c++) {
        const d = distance(i, c);
        if (d < least) {
          best = c;
          least = d;
        }
      }
      owner[i] = best;
    }
    means.fill(0);
    shares.fill(0);
    for (const i of members) {
      shares[owner[i]] += sizes[i];
      for (let f = 0; f < FEATURES; f++) means[FEATURES * owner[i] + f] += sizes[i] * features[FEATURES * i + f];
    }
    for (let c = 0; c < k; c++) for (let f = 0; f < FEATURES; f++) means[FEATURES * c + f] /= Math.max(1e-9, shares[c]);
  }
  spreads.fill(0);
  for (const i of members)
    for (let f = 0; f < FEATURES; f++)
      spreads[FEATURES * owner[i] + f] += sizes[i] * (features[FEATURES * i + f] - means[FEATURES * owner[i] + f]) ** 2;
  for (let c = 0; c < k; c++)
    for (let f = 0; f < FEATURES; f++)
      spreads[FEATURES * c + f] = KNOWN + spreads[FEATURES * c + f] / Math.max(1e-9, shares[c]);
  const total = shares.reduce((sum, share) => sum + share, 0);
  return { means, spreads, shares: shares.map((share) => share / total) };
}

/** Minus the logarithm of how likely a patch's look is on a side. */
function unlikely({ means, spreads, shares }: Model, { features }: Superpixels, i: number): number {
  let likely = 0;
  for (let c = 0; c < shares.length; c++) {
    if (shares[c] <= 0) continue;
    let d = 0;
    let volume = 1;
    for (let f = 0; f < FEATURES; f++) {
      const spread = spreads[FEATURES * c + f];
      const step = features[FEATURES * i + f] - means[FEATURES * c + f];
      d += (step * step) / spread;
      volume *= spread;
    }
    likely += (shares[c] * Math.exp(-d / 2)) / Math.sqrt(volume);
  }
  return -Math.log(likely + 1e-12);
}

/**
 * A first guess from patches that are inside: what is reached over the smallest steps of colour, as far as makes the border
 * clearest: the order in which a flood from the seeds would take the patches (Prim 1957), cut where the mean step over the border is
 * greatest against the largest step that had to be taken inside.
 * @param stop - patches that are never taken.
 * @param most - the largest share of the picture that it may have.
 */
export function floodedRegion(
  patches: Superpixels,
  seeds: readonly number[],
  stop: (i: number) => boolean,
  most = MOST_SHARE,
): Uint8Array {
  const { count, from, to, lengths, sizes } = patches;
  const links: { readonly other: number; readonly step: number; readonly length: number }[][] = Array.from(
    { length: count },
    () => [],
  );
  for (let e = 0; e < from.length; e++) {
    const step = difference(patches, from[e], to[e]);
    links[from[e]].push({ other: to[e], step, length: lengths[e] });
    links[to[e]].push({ other: from[e], step, length: lengths[e] });
  }
  const total = sizes.reduce((sum, size) => sum + size, 0);
  const taken = new Uint8Array(count);
  const cost = new Float64Array(count).fill(Infinity);
  const order: number[] = [];
  let [border, steps, area, largest] = [0, 0, 0, 0];
  let best = { score: -1, count: 0 };
  for (const seed of seeds) cost[seed] = 0;
  for (;;) {
    let next = -1;
    for (let i = 0; i < count; i++) if (!taken[i] && cost[i] < Infinity && (next < 0 || cost[i] < cost[next])) next = i;
    if (next < 0) break;
    taken[next] = 1;
    order.push(next);
    largest = Math.max(largest, cost[next]);
    area += sizes[next];
    for (const { other, step, length } of links[next]) {
      const sign = taken[other] ? -1 : 1;
      border += sign * length;
      steps += sign * length * step;
      if (!taken[other] && !stop(other)) cost[other] = Math.min(cost[other], step);
    }
    if (seeds.some((seed) => !taken[seed])) continue;
    const share = area / total;
    if (border <= 0 || (share > most && best.count > 0)) break;
    const score = (steps / border / (largest + LEAST_STEP)) * Math.min(1, share / LEAST_SHARE) ** 0.5;
    if (score > best.score) best = { score, count: order.length };
  }
  const inside = new Uint8Array(count);
  for (const i of order.slice(0, best.count)) inside[i] = 1;
  return inside;
}
