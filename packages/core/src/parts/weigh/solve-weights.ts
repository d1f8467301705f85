import { type Weigh, weighSchema } from "./schema.ts";
import { rangeOf } from "../../schema/defaults.ts";
import { SMALLEST_ASKED, type FamilyProbe } from "./family-probe.ts";
import { PARTED } from "./separation.ts";
import { MOST_NOISE_STOPS, type StoppedBy } from "./solve.ts";

/** The nearest weights that part two groups. */
export interface WeightSolution {
  readonly weigh: Weigh;
  readonly reached: boolean;
  /** What stopped it: the family that would get too noisy, or the range of the weights. */
  readonly stoppedBy: Extract<StoppedBy, { kind: "noise" | "range" }> | null;
}

const { minimum: LOWEST, maximum: HIGHEST } = rangeOf(weighSchema, "red");
/** Greys that still print as greys, L*. */
const DARKEST = 3;
const LIGHTEST = 97;
const RING = 0.04;
const FARTHEST = 3;
const DIRECTIONS = 48;

/**
 * The smallest change of the three weights, sum kept, that parts two groups: rings about the present weights are searched
 * outwards until one holds weights that do, within the noise bound.
 */
export function partByWeights(
  probe: FamilyProbe,
  first: number,
  second: number,
  apart = PARTED,
  mostNoiseStops = MOST_NOISE_STOPS,
): WeightSolution {
  const { weigh } = probe;
  const { red, green, blue } = weigh;
  const before = probe.noiseStops();
  let noisy: number | null = null;
  for (let radius = RING; radius <= FARTHEST; radius += RING) {
    const held: { weigh: Weigh; gap: number }[] = [];
    for (let k = 0; k < DIRECTIONS; k++) {
      const [dr, dg, db] = alongRing((2 * Math.PI * k) / DIRECTIONS, radius);
      const next = {
        ...weigh,
        by: "weights" as const,
        red: short(red + dr),
        green: short(green + dg),
        blue: short(blue + db),
      };
      if ([next.red, next.green, next.blue].some((w) => w < LOWEST || w > HIGHEST)) continue;
      const [p, q] = [first, second].map((group) => probe.greyOf(group, next).lightness);
      const printed = [p, q].every((lightness) => lightness > DARKEST && lightness < LIGHTEST);
      if (printed && Math.abs(p - q) >= apart) held.push({ weigh: next, gap: Math.abs(p - q) });
    }
    for (const found of held.sort((p, q) => q.gap - p.gap)) {
      const noise = probe.noiseStops(found.weigh);
      const loud = noise.findIndex(
        (stops, i) => probe.facts[i].share >= SMALLEST_ASKED && (stops ?? 0) > Math.max(mostNoiseStops, before[i] ?? 0),
      );
      if (loud === -1) return { weigh: found.weigh, reached: true, stoppedBy: null };
      noisy ??= loud;
    }
  }
  const stoppedBy =
    noisy === null ? ({ kind: "range", family: first } as const) : ({ kind: "noise", family: noisy } as const);
  return { weigh, reached: false, stoppedBy };
}

/** A step of a length in the plane of weights of one sum. */
function alongRing(angle: number, length: number): [number, number, number] {
  const u = (length * Math.cos(angle)) / Math.SQRT2;
  const v = (length * Math.sin(angle)) / Math.sqrt(6);
  return [u + v, -2 * v, v - u];
}

function short(weight: number): number {
  return Math.round(1e4 * weight) / 1e4;
}
