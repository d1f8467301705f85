import type { Weigh, FilmChoice } from "./schema.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import { REC2020 } from "../../colour/rgb-space.ts";
import { candidateWeights, contrastWeights, flattestWeights } from "./contrast-weights.ts";
import type { ColourCell } from "./colour-cells.ts";
import type { Boundary } from "./picture-colours.ts";
import { findNeighbours } from "./separation.ts";
import { SMALLEST_ASKED, type FamilyProbe } from "./family-probe.ts";
import { freshWeigh, plainWeigh } from "./plain-weigh.ts";
import { solve } from "./solve.ts";
import { keeps, tasteOf } from "./taste.ts";

/** A conversion to begin with. */
export interface StartingPoint {
  readonly id: string;
  readonly name: string;
  /** What it does here, in a few words. */
  readonly why: string;
  readonly weigh: Weigh;
}

/** Films and filters tried, in this order. */
const FILMS: readonly (readonly [name: string, choice: Pick<FilmChoice, "film" | "filter">])[] = [
  ["Panchromatic", { film: "panchromatic", filter: "none" }],
  ["Light yellow", { film: "panchromatic", filter: "light yellow" }],
  ["Deep yellow", { film: "panchromatic", filter: "deep yellow" }],
  ["Orange", { film: "panchromatic", filter: "orange" }],
  ["Red", { film: "panchromatic", filter: "red" }],
  ["Green", { film: "panchromatic", filter: "green" }],
  ["Blue", { film: "panchromatic", filter: "blue" }],
  ["Orthochromatic", { film: "orthochromatic", filter: "none" }],
  ["Extended red, red", { film: "extended red", filter: "red" }],
  ["Near infrared", { film: "near infrared", filter: "red" }],
  ["Blue-sensitive", { film: "blue-sensitive", filter: "none" }],
];
/** A film or filter is offered when the greys move by this on average, L*, against every one offered before. */
const MAKES_A_DIFFERENCE = 1.2;
/** Fewer than this are filled up with whatever differs most. */
const FEWEST = 8;
const WARM_HUES = { from: 28, to: 78 } as const;

/** Conversions of this picture to begin with: at least eight, those first that serve as reference. */
export function startingPoints(
  probe: FamilyProbe,
  boundaries: readonly Boundary[],
  cells: readonly ColourCell[],
): StartingPoint[] {
  const plain = plainWeigh(probe.weigh);
  const bounds = tasteOf(probe, plain);
  /** The weights, or as far towards them from plain ones as the picture bears. */
  const byWeights = (weights: Vector3): Weigh => {
    const towards = (share: number): Weigh => {
      const [red, green, blue] = REC2020.luminance.map((weight, c) => weight + share * (weights[c] - weight));
      return { ...plain, red, green, blue };
    };
    const share = [1, 0.85, 0.7, 0.55, 0.4, 0.25].find((part) => keeps(probe, towards(part), bounds)) ?? 0.1;
    return towards(share);
  };
  const parted = solve(probe.under(plain), boundaries, { kind: "part all" });
  const points: StartingPoint[] = [
    { id: "luminance", name: "Plain luminance", why: "the reference", weigh: plain },
    {
      id: "contrast",
      name: "Colours apart",
      why: "keeps most of the colour contrast",
      weigh: byWeights(contrastWeights(cells)),
    },
    // Where nothing has merged it would be the reference again.
    ...(parted.changes.length > 0
      ? [{ id: "parted", name: "Neighbours parted", why: "merged neighbours get two greys", weigh: parted.weigh }]
      : []),
    { id: "flat", name: "Flattest", why: "everything open, to sculpt from", weigh: byWeights(flattestWeights(cells)) },
    {
      id: "skin",
      name: skinFamilies(probe).length > 0 ? "Calmest skin" : "Calmest",
      why:
        skinFamilies(probe).length > 0 ? "skin smooth, blemishes quiet" : "the least noise and unrest in warm colours",
      weigh: byWeights(calmestWeights(probe)),
    },
  ];
  const lightness = (weigh: Weigh) => probe.greys(weigh).map((grey) => grey.lightness);
  const taken = [lightness(plain)];
  const films = FILMS.map(([name, choice]) => {
    const weigh: Weigh = { ...plain, by: "film", film: { ...freshWeigh().film, ...choice } };
    return { name, choice, weigh, greys: lightness(weigh) };
  }).filter(({ weigh }) => keeps(probe, weigh, tasteOf(probe, plain, { strict: false })));
  const apart = (greys: readonly number[]) => Math.min(...taken.map((other) => meanChange(probe, greys, other)));
  const offer = ({ name, choice, weigh, greys }: (typeof films)[number]) => {
    taken.push(greys);
    points.push({ id: `${choice.film}/${choice.filter}`, name, why: strongestChange(probe, greys, taken[0]), weigh });
  };
  const left = films.filter((one) => {
    if (apart(one.greys) < MAKES_A_DIFFERENCE) return true;
    offer(one);
    return false;
  });
  while (points.length < FEWEST && left.length > 0) {
    left.sort((p, q) => apart(q.greys) - apart(p.greys));
    offer(left.shift()!);
  }
  return points;
}

/** Families that look like skin, else none. */
function skinFamilies({ facts }: FamilyProbe): number[] {
  return facts.flatMap(({ hint }, i) => (hint === "skin" ? [i] : []));
}

/** The weights under which skin, or else what is warm, is most even in stops and least noisy. */
function calmestWeights(probe: FamilyProbe): Vector3 {
  const skin = skinFamilies(probe);
  const warm = probe.weigh.families.flatMap(({ hueDegrees }, i) =>
    hueDegrees > WARM_HUES.from && hueDegrees < WARM_HUES.to ? [i] : [],
  );
  const chosen = skin.length > 0 ? skin : warm;
  if (chosen.length === 0) return REC2020.luminance;
  const plain = plainWeigh(probe.weigh);
  const unrest = ([red, green, blue]: Vector3) => {
    const noise = probe.noiseStops({ ...plain, red, green, blue });
    const stops = (r: number, g: number, b: number) => Math.log2(Math.max(1e-4, red * r + green * g + blue * b));
    return chosen.reduce((sum, k) => {
      const { samples, share } = probe.facts[k];
      const mean = samples.reduce((total, { working, weight }) => total + weight * stops(...working), 0);
      const square = samples.reduce(
        (total, { working, weight }) => total + weight * (stops(...working) - mean) ** 2,
        0,
      );
      return sum + share * Math.sqrt(square) * (1 + Math.max(0, noise[k] ?? 0));
    }, 0);
  };
  return candidateWeights().reduce((best, one) => (unrest(one) < unrest(best) ? one : best));
}

/** Mean change of L* by area. */
function meanChange({ facts }: FamilyProbe, greys: readonly number[], other: readonly number[]): number {
  return greys.reduce((sum, value, i) => sum + facts[i].share * Math.abs(value - other[i]), 0);
}

/** The two families that move most, in words: "sky darker, brick lighter". */
function strongestChange({ facts, weigh }: FamilyProbe, greys: readonly number[], plain: readonly number[]): string {
  const moves = weigh.families
    .map(({ name }, i) => ({ name, by: greys[i] - plain[i], share: facts[i].share }))
    .filter(({ by, share }) => Math.abs(by) > 1 && share > 0.005)
    .sort((p, q) => Math.abs(q.by) * q.share ** 0.3 - Math.abs(p.by) * p.share ** 0.3)
    .slice(0, 2);
  return moves.map(({ name, by }) => `${name} ${by > 0 ? "lighter" : "darker"}`).join(", ") || "hardly differs here";
}

const THROWS = 80;
/** Bounds within which a throw has to stay, besides those of every proposal. */
const DICE = { noiseStops: 0.7, black: 3 } as const;

/**
 * A random conversion within bounds: those of every proposal, no family noisier than 0.7 stops of ISO, none pushed into black that
 * was not there, no more merged neighbours than plain luminance has. The same seed gives the same conversion of the same picture.
 */
export function throwDice(probe: FamilyProbe, boundaries: readonly Boundary[], seed: number): Weigh {
  const random = randomOf(seed);
  const plain = plainWeigh(probe.weigh);
  const merged = (weigh: Weigh) =>
    findNeighbours(probe, boundaries, probe.greys(weigh)).filter((pair) => pair.merged).length;
  const before = probe.greys(plain);
  const allowed = merged(plain);
  const bounds = tasteOf(probe, plain);
  const holds = (weigh: Weigh) => {
    const loud = probe
      .noiseStops(weigh)
      .some((stops, k) => probe.facts[k].share >= SMALLEST_ASKED && (stops ?? 0) > DICE.noiseStops);
    const blocked = probe
      .greys(weigh)
      .some(
        ({ lightness }, k) =>
          probe.facts[k].share >= SMALLEST_ASKED && lightness < DICE.black && before[k].lightness >= DICE.black,
      );
    return !loud && !blocked && merged(weigh) <= allowed && keeps(probe, weigh, bounds);
  };
  for (let i = 0; i < THROWS; i++) {
    const thrown = randomWeigh(plain, random);
    const found = TAMED.map((share) => towards(plain, thrown, share)).find(holds);
    if (found) return found;
  }
  return plain;
}

/** Shares of a throw that are tried when all of it is too much. */
const TAMED = [1, 0.6, 0.35];

/** A share of the way from one conversion to another; a film is taken as it is. */
function towards(from: Weigh, to: Weigh, share: number): Weigh {
  const part = (a: number, b: number) => Math.round(100 * (a + share * (b - a))) / 100;
  const families = to.families.map((family, k) => ({ ...family, stops: part(from.families[k].stops, family.stops) }));
  if (to.by === "film" || share === 1) return { ...to, families };
  const [red, blue] = [part(from.red, to.red), part(from.blue, to.blue)];
  return { ...to, families, red, blue, green: Math.round(100 * (1 - red - blue)) / 100 };
}

function randomWeigh(plain: Weigh, random: () => number): Weigh {
  const between = (low: number, high: number) => low + (high - low) * random();
  const short = (value: number) => Math.round(100 * value) / 100;
  const families = plain.families.map((family) => ({
    ...family,
    stops: random() < 0.45 ? short(between(-1, 1) * between(0.3, 1.4)) : 0,
  }));
  if (random() < 0.4) {
    const [, choice] = FILMS[Math.floor(random() * FILMS.length)];
    return { ...plain, families, by: "film", film: { ...plain.film, ...choice } };
  }
  const red = short(between(-0.2, 1));
  const blue = short(between(-0.3, 0.6));
  return { ...plain, families, red, blue, green: short(1 - red - blue) };
}

/** Seeded numbers in [0, 1): mulberry32. */
function randomOf(seed: number): () => number {
  let state = seed | 0;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
