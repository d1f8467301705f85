import {
  lightToStops,
  placeTones,
  printZone,
  STRAIGHT_CURVE,
  toneCurve,
  type Placing,
  type SpotProbe,
  type Recipe,
} from "@yelm/core";
import { beforeCurve } from "./before-curve.ts";
import { useEdit } from "../data/use-session.ts";
import { useAnswer } from "../workers/use-answer.ts";

export type Spot = Recipe["shape"]["spots"][number];

/** What a spot shows at present. */
export interface SpotReading {
  readonly spot: Spot;
  /** Its number on the picture and in the list. */
  readonly number: number;
  /** Scene stops; null while it is read, or when the frame does not show it. */
  readonly stops: number | null;
  /** Its zone by points and grade alone, and as it prints. */
  readonly before: number;
  readonly zone: number;
  readonly clipped: "black" | "white" | null;
  /** Where it lies in the frame, 0–1; null while it is not known. */
  readonly at: { readonly x: number; readonly y: number } | null;
}

/** The spots of the print, read as the curve stands: what lies before the curve is asked, the curve is worked out here. */
export function useSpots(): {
  readonly readings: readonly SpotReading[];
  readonly answer: ReturnType<typeof useAnswer<"spots">>;
} {
  const recipe = useEdit((state) => state.recipe);
  const { shape } = recipe;
  const places = shape.spots.map(({ x, y }) => [x, y] as const);
  const answer = useAnswer(
    "spots",
    { recipe, places },
    { key: `${beforeCurve(recipe)} ${JSON.stringify(places)}`, restMs: 60, enabled: places.length > 0 },
  );
  const probes = answer.data?.length === places.length ? answer.data : null;
  return { readings: shape.spots.map((spot, i) => readingOf(shape, spot, i, probes?.[i] ?? null)), answer };
}

function readingOf(shape: Recipe["shape"], spot: Spot, index: number, probe: SpotProbe | null): SpotReading {
  const base = { spot, number: index + 1 };
  if (!probe) return { ...base, stops: null, before: 0, zone: 0, clipped: null, at: null };
  const stops = lightToStops(probe.light);
  const zone = printZone(toneCurve(shape)(probe.light));
  const before = printZone(toneCurve({ ...shape, curve: STRAIGHT_CURVE })(probe.light));
  return { ...base, stops, before, zone, clipped: zone < 0.02 ? "black" : zone > 9.99 ? "white" : null, at: probe.at };
}

/** Puts a spot on a zone; all that were placed before stay on theirs, as far as they can. */
export function placeSpot(
  shape: Recipe["shape"],
  readings: readonly SpotReading[],
  id: string,
  zone: number,
): { shape: Recipe["shape"]; placing: Placing } {
  const spots = shape.spots.map((spot) => (spot.id === id ? { ...spot, placed: true, zone: rounded(zone) } : spot));
  return curveThrough({ ...shape, spots }, readings);
}

/** The curve that all placed spots ask for. */
function curveThrough(
  shape: Recipe["shape"],
  readings: readonly SpotReading[],
): { shape: Recipe["shape"]; placing: Placing } {
  const placed = shape.spots.filter(({ placed }) => placed);
  const tones = placed.flatMap(({ id, zone }) => {
    const stops = readings.find(({ spot }) => spot.id === id)?.stops;
    return stops === null || stops === undefined ? [] : [{ stops: Math.max(lightToStops(1e-6), stops), zone }];
  });
  const placing = placeTones(shape, tones);
  return { shape: { ...shape, curve: [...placing.curve] }, placing };
}

/** What keeps placed spots from their zones, in a sentence; null when nothing does. */
export function trouble(shape: Recipe["shape"], readings: readonly SpotReading[]): string | null {
  const placed = readings.filter(({ spot, stops }) => spot.placed && stops !== null);
  const { conflict, beyond } = placeTones(
    shape,
    placed.map(({ spot, stops }) => ({ stops: stops!, zone: spot.zone })),
  );
  if (beyond.length > 0) {
    const { number, before } = placed[beyond[0]];
    return `Points and grade print spot ${number} ${before > 5 ? "bare paper" : "the deepest black"} already: no curve can place it. Move the ${before > 5 ? "white" : "black"} point.`;
  }
  if (!conflict) return null;
  const [one, other] = conflict.map((i) => placed[i].number);
  return `Spots ${one} and ${other} contradict each other: the darker light is to print lighter. Both lie on the nearest zone that is possible.`;
}

const rounded = (zone: number) => Math.round(100 * Math.min(10, Math.max(0, zone))) / 100;
