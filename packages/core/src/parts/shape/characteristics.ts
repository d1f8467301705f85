import { stopsToLight } from "../../colour/stops.ts";
import type { Shape } from "./schema.ts";
import { STRAIGHT_CURVE } from "../../maths/curve-points.ts";
import { toneCurve } from "./tone-curve.ts";

/** What of a shape a film or a paper settles. */
type Material = Pick<Shape, "characteristic" | "toe" | "shoulder" | "grade" | "paperWhite" | "paperBlack">;

export interface NamedMaterial {
  readonly name: string;
  readonly why: string;
  readonly shape: Material;
}

const film = (toe: number, shoulder: number, grade: number, paperWhite = 0, paperBlack = 3.3): Material => ({
  characteristic: "film",
  toe,
  shoulder,
  grade,
  paperWhite,
  paperBlack,
});

/** Films and papers to begin with, by what they do. */
export const MATERIALS: readonly NamedMaterial[] = [
  {
    name: "straight",
    why: "light and print in proportion",
    shape: { characteristic: "straight", toe: 0.35, shoulder: 0.45, grade: 2, paperWhite: 0, paperBlack: 3.3 },
  },
  { name: "long-toed portrait film", why: "soft lights that come up late", shape: film(0.9, 0.4, 1.75) },
  { name: "general film", why: "a straight middle between soft ends", shape: film(0.35, 0.45, 2) },
  { name: "short-toed landscape film", why: "lights that keep their steps", shape: film(0.1, 0.6, 2.25) },
  { name: "pushed film", why: "steep, its darks blocked up", shape: film(0.25, 0.15, 3.25) },
  { name: "glossy paper", why: "a deep black, 2.1", shape: film(0.35, 0.3, 2.25, 0.04, 2.1) },
  { name: "matt paper", why: "a soft black, 1.55", shape: film(0.45, 0.7, 2, 0.06, 1.55) },
  { name: "warm art paper", why: "cream white, black 1.75", shape: film(0.55, 0.6, 1.75, 0.1, 1.75) },
];

/** A print that has faded: its black lifted, its white gone dull, everything softer. */
export const FADED: Material = film(0.6, 0.8, 1.5, 0.14, 1.2);

/** What is read off a characteristic curve. */
export interface CharacteristicReading {
  /** Densities of what is whitest and of what is blackest. */
  readonly dMin: number;
  readonly dMax: number;
  /** Steepest slope of density over log exposure: the gamma of the straight part. */
  readonly gamma: number;
  /** Scene stops between which the slope is at least half of it: beyond lie shoulder (darks) and toe (lights). */
  readonly straightFrom: number;
  readonly straightTo: number;
}

const LOWEST = -12;
const HIGHEST = 8;
const STEP = 1 / 32;
/** Densities between which the straight part is looked for: those of Zones II and VIII. */
const STRAIGHT = [1.5, 0.24] as const;
const LEAST_REFLECTANCE = 10 ** -3.3;

/** Density of what a scene light prints as, by points, grade, characteristic and paper; not by the free curve. */
export function characteristicDensity(shape: Shape): (stops: number) => number {
  const curve = toneCurve({ ...shape, curve: STRAIGHT_CURVE });
  return (stops) => Math.max(0, -Math.log10(Math.max(LEAST_REFLECTANCE, curve(stopsToLight(stops)))));
}

/** Reads the characteristic of a shape. */
export function readCharacteristic(shape: Shape): CharacteristicReading {
  const density = characteristicDensity(shape);
  const count = Math.round((HIGHEST - LOWEST) / STEP);
  const slopes = Array.from({ length: count }, (_, i) => {
    const stops = LOWEST + i * STEP;
    return (density(stops) - density(stops + STEP)) / (STEP * Math.log10(2));
  });
  // A black point taken off makes the darkest tones steep without end: the straight part is that of the middle zones.
  const run = Math.round(1 / STEP);
  let [gamma, sum] = [0, 0];
  slopes.forEach((slope, i) => {
    sum += slope - (i >= run ? slopes[i - run] : 0);
    const from = LOWEST + (i + 1 - run) * STEP;
    const isMiddle = density(from) <= STRAIGHT[0] && density(from + 1) >= STRAIGHT[1];
    if (i >= run && isMiddle) gamma = Math.max(gamma, sum / run);
  });
  if (gamma === 0) gamma = Math.max(...slopes.map((slope) => (Number.isFinite(slope) ? slope : 0)));
  const steep = slopes.flatMap((slope, i) => (slope >= gamma / 2 ? [LOWEST + i * STEP] : []));
  return {
    dMin: density(HIGHEST),
    dMax: density(LOWEST - 4),
    gamma,
    straightFrom: steep[0] ?? 0,
    straightTo: (steep.at(-1) ?? 0) + STEP,
  };
}

/** Least share of a picture that makes a dull sky. */
const LEAST_SHARE = 0.02;

/**
 * The white point that blows the lightest broad tone of a picture to bare paper: below the lower flank of the last heap of its
 * histogram that is more than a few specks.
 * @param scene - shares of the light, even bins from `lowest` stops up.
 * @returns scene stops, or null when there is no such heap above Zone V.
 */
export function whitePointBelowLights(scene: readonly number[], lowest: number, binsPerStop: number): number | null {
  const smooth = scene.map((_, i) => (at(scene, i - 1) + 2 * at(scene, i) + at(scene, i + 1)) / 4);
  let peak = -1;
  for (let i = smooth.length - 1; i > 0; i--) {
    const isTop = smooth[i] >= at(smooth, i + 1) && smooth[i] >= at(smooth, i - 1);
    const share = at(smooth, i - 1) + smooth[i] + at(smooth, i + 1);
    if (isTop && share >= LEAST_SHARE) {
      peak = i;
      break;
    }
  }
  if (peak < 0 || lowest + peak / binsPerStop < 0) return null;
  let flank = peak;
  while (flank > 0 && smooth[flank] > smooth[peak] / 4 && smooth[flank - 1] <= smooth[flank] + 1e-9) flank--;
  return lowest + flank / binsPerStop;
}

function at(values: readonly number[], i: number): number {
  return values[i] ?? 0;
}
