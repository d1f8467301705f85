import { printZone, stopsToLight } from "../../colour/stops.ts";
import { rangeOf } from "../../schema/defaults.ts";
import { shapeSchema, type Shape } from "./schema.ts";
import { STRAIGHT_CURVE } from "../../maths/curve-points.ts";
import { toneCurve } from "./tone-curve.ts";

/** How much light of a picture lies where, by share: scene stops below which a share of its pixels lies. */
export type StopsBelow = (share: number) => number;

/** A way to begin with the tones of a picture. */
export interface Opening {
  readonly id: string;
  readonly name: string;
  readonly why: string;
  readonly shape: Shape;
}

/** What an opening settles first; its points and its middle then follow from the picture. */
interface Plan extends PointsFit {
  readonly id: string;
  readonly name: string;
  readonly why: string;
  readonly start: Partial<Shape>;
}

/** An opening begins with nothing but what it says. */
const NOTHING = {
  midPoint: 0,
  grade: 2,
  characteristic: "straight",
  curve: STRAIGHT_CURVE,
  openShadows: 0,
  holdHighlights: 0,
  localContrast: { low: 0, mid: 0, high: 0 },
  detail: { fine: 0, middle: 0, broad: 0 },
} as const satisfies Partial<Shape>;

const PLANS: readonly Plan[] = [
  {
    id: "flat",
    name: "Flat",
    why: "everything the capture holds, to be sculpted",
    start: { openShadows: 0.8, holdHighlights: 0.8, grade: 1.5 },
    beyond: [0, 0],
    middle: 5,
  },
  {
    id: "full",
    name: "Full range",
    why: "from a speck of black to a speck of white",
    start: {},
    beyond: [0.001, 0.001],
    middle: null,
  },
  {
    id: "hard",
    name: "Hard",
    why: "contrast first; deep blacks and open whites",
    start: { grade: 3.5 },
    beyond: [0.01, 0.01],
    middle: 4.7,
  },
  {
    id: "low",
    name: "Low key",
    why: "the middle on Zone III, lights kept from clipping",
    start: { holdHighlights: 0.4 },
    beyond: [0.002, 0],
    middle: 3,
  },
  {
    id: "high",
    name: "High key",
    why: "the middle on Zone VII½, whites with their texture",
    start: { openShadows: 0.6, holdHighlights: 0.4, grade: 1.5 },
    beyond: [0, 0.002],
    middle: 7.5,
  },
];

/** The openings' spatial settings, for which somebody has to measure the light. */
export const OPENING_STARTS: readonly Partial<Shape>[] = PLANS.map(({ start }) => ({ ...NOTHING, ...start }));

/**
 * Ways to begin with the tones of a picture.
 * @param own - the print's present shape; what an opening does not speak of (haze, scattering, sharpening, spots) stays.
 * @param measured - the picture's light under each of {@link OPENING_STARTS}, in their order.
 */
export function openings(own: Shape, measured: readonly StopsBelow[]): Opening[] {
  return PLANS.map(({ id, name, why, beyond, middle }, i) => {
    const below = measured[i];
    const shape: Shape = {
      ...own,
      ...OPENING_STARTS[i],
      spots: own.spots.map((spot) => ({ ...spot, placed: false })),
    };
    return { id, name, why, shape: fitPoints(shape, below, { beyond, middle }) };
  });
}

/** Where a picture's own light is to lie on the scale. */
export interface PointsFit {
  /** Shares of the picture beyond the black and the white point. */
  readonly beyond: readonly [black: number, white: number];
  /** Zone on which the picture's middle is to print, as far as the mid point reaches; null leaves it. */
  readonly middle: number | null;
}

/** Puts the points of a shape where a picture's own light wants them. */
export function fitPoints(shape: Shape, below: StopsBelow, { beyond, middle }: PointsFit): Shape {
  // A film's ends never clip, nor does a faded paper: points are found as if both were straight.
  let straight: Shape = { ...shape, ...STRAIGHT_PAPER };
  // The points' reach depends on the mid point, and the middle on the points.
  for (let round = 0; round < ROUNDS; round++) {
    if (middle !== null) straight = withMiddle(straight, below(0.5), middle);
    straight = withPoint(straight, "blackPoint", below(beyond[0]));
    straight = withPoint(straight, "whitePoint", below(1 - beyond[1]));
  }
  const { blackPoint, whitePoint, midPoint } = straight;
  const fitted = { ...shape, blackPoint, whitePoint, midPoint };
  const isStraight = Object.entries(STRAIGHT_PAPER).every(
    ([field, value]) => JSON.stringify(shape[field as keyof Shape]) === JSON.stringify(value),
  );
  return isStraight || middle === null ? fitted : withMiddle(fitted, below(0.5), middle);
}

const STRAIGHT_PAPER = {
  characteristic: "straight",
  paperWhite: 0,
  paperBlack: rangeOf(shapeSchema, "paperBlack").maximum,
  curve: STRAIGHT_CURVE,
} as const satisfies Partial<Shape>;

const ROUNDS = 4;
/** Reflectances that are as good as the deepest black and as bare paper. */
const NEAR_BLACK = 0.0005;
const NEAR_WHITE = 0.9995;

/** Gives a shape the point at which a light is just about to clip. */
function withPoint(shape: Shape, field: "blackPoint" | "whitePoint", stops: number): Shape {
  const { minimum, maximum } = rangeOf(shapeSchema, field);
  const isClipped = (point: number) => {
    const r = toneCurve({ ...shape, [field]: point })(stopsToLight(stops));
    return field === "blackPoint" ? r <= NEAR_BLACK : r >= NEAR_WHITE;
  };
  // Black clips more the higher its point lies, white the lower.
  let [safe, clipped] = field === "blackPoint" ? [minimum, maximum] : [maximum, minimum];
  for (let i = 0; i < 24; i++) {
    const point = (safe + clipped) / 2;
    if (isClipped(point)) clipped = point;
    else safe = point;
  }
  const step = 50;
  const towardsSafe = field === "blackPoint" ? Math.floor(step * safe) : Math.ceil(step * safe);
  return { ...shape, [field]: Math.min(maximum, Math.max(minimum, towardsSafe / step)) };
}

/** Gives a shape the mid point that prints a tone on a zone, or comes nearest. */
function withMiddle(shape: Shape, stops: number, zone: number): Shape {
  let { minimum: low, maximum: high } = rangeOf(shapeSchema, "midPoint");
  for (let i = 0; i < 20; i++) {
    const midPoint = (low + high) / 2;
    if (printZone(toneCurve({ ...shape, midPoint })(stopsToLight(stops))) < zone) low = midPoint;
    else high = midPoint;
  }
  return { ...shape, midPoint: Math.round(50 * low) / 50 };
}

/** How much light of a picture lies where, from the light itself. */
export function stopsBelow(stops: Float32Array): StopsBelow {
  const sorted = stops.slice().sort();
  return (share) => sorted[Math.min(sorted.length - 1, Math.max(0, Math.round(share * (sorted.length - 1))))];
}
