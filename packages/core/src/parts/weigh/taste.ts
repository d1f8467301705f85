import type { FamilyProbe } from "./family-probe.ts";
import type { Weigh } from "./schema.ts";

/** Tones of a picture, L*: each group's mean, then each group's light parts, then the mean of all. */
export type Tones = readonly number[];

/** sign · (tone `first` − tone `second`) ≥ atLeast; second null: the first by itself. */
export interface ToneBound {
  /** Index among the tones. */
  readonly first: number;
  readonly second: number | null;
  readonly sign: 1 | -1;
  readonly atLeast: number;
}

/** Lightness from which a tone prints as bare paper, and its light parts do, L*. */
const BARE_PAPER = 96;
const BARE_PARTS = 99;
/** Deviations from a family's mean to its light parts. */
const LIGHT_PARTS = 1.3;
/** Farthest that the picture's mean tone may move, stops. */
const MIDDLE_MOVES = 1 / 3;
/** Below this a group may be hair or its shade, L*. */
const AS_DARK_AS_HAIR = 38;
/** Bounds count as kept within this, L*. */
const CLOSE = 0.4;

/**
 * What no proposal may do to a picture: nothing becomes bare paper that was not, its mean tone stays within a third of a
 * stop, a sky that was no lighter than the neutrals (clouds) stays so, and skin that was lighter than something dark (hair)
 * does too.
 * @param from - the Weigh that the picture is compared with.
 * @param options - not strict: neither the mean tone counts nor light parts; films and filters are known by how they move them.
 */
export function tasteOf(probe: FamilyProbe, from: Weigh = probe.weigh, { strict = true } = {}): ToneBound[] {
  const { facts } = probe;
  const tones = tonesOf(probe, from);
  const groups = facts.length;
  const [neutrals, all] = [groups - 1, 2 * groups];
  const atMost = (first: number, most: number): ToneBound => ({ first, second: null, sign: -1, atLeast: -most });
  const notBare = facts.flatMap(({ share }, k) =>
    share > 0
      ? [
          atMost(k, Math.max(BARE_PAPER, tones[k])),
          ...(strict ? [atMost(groups + k, Math.max(BARE_PARTS, tones[groups + k]))] : []),
        ]
      : [],
  );
  const reach = (2 ** (MIDDLE_MOVES / 3) - 1) * (tones[all] + 16);
  const mean: ToneBound[] = [
    atMost(all, tones[all] + reach),
    { first: all, second: null, sign: 1, atLeast: tones[all] - reach },
  ];
  const skies = facts.flatMap(({ hint, share }, k): ToneBound[] =>
    hint === "sky" && share > 0 && facts[neutrals].share > 0 && tones[neutrals] >= tones[k]
      ? [{ first: neutrals, second: k, sign: 1, atLeast: 0 }]
      : [],
  );
  const skins = facts.flatMap(({ hint, share }, k): ToneBound[] =>
    hint === "skin" && share > 0
      ? facts.flatMap((other, j): ToneBound[] =>
          other.share > 0 && tones[j] < Math.min(AS_DARK_AS_HAIR, tones[k])
            ? [{ first: k, second: j, sign: 1, atLeast: 0 }]
            : [],
        )
      : [],
  );
  return [...notBare, ...(strict ? mean : []), ...skies, ...skins];
}

export function tonesOf(probe: FamilyProbe, weigh: Weigh): Tones {
  const greys = probe.greys(weigh);
  const means = greys.map(({ lightness }) => lightness);
  const light = greys.map(({ lightness, spread }) => lightness + LIGHT_PARTS * spread);
  const whole = probe.facts.reduce((sum, { share }) => sum + share, 0);
  const all = means.reduce((sum, lightness, k) => sum + probe.facts[k].share * lightness, 0);
  return [...means, ...light, all / Math.max(whole, 1e-9)];
}

/** How much is missing for a bound to hold, L*; 0 or less when it holds. */
export function missingOf(tones: Tones, { first, second, sign, atLeast }: ToneBound): number {
  return atLeast - sign * (tones[first] - (second === null ? 0 : tones[second]));
}

/** Whether a Weigh keeps within bounds. */
export function keeps(probe: FamilyProbe, weigh: Weigh, bounds: readonly ToneBound[]): boolean {
  const tones = tonesOf(probe, weigh);
  return bounds.every((bound) => missingOf(tones, bound) <= CLOSE);
}
