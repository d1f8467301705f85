import { printZone, stopsToLight } from "../../colour/stops.ts";
import { luminanceToLightness } from "../../colour/lab.ts";
import { curveThrough } from "../../maths/curve-points.ts";
import { smoothstep } from "../../maths/smoothstep.ts";
import type { Shape } from "../shape/schema.ts";
import { toneCurve } from "../shape/tone-curve.ts";
import type { LightEffects, LightMove } from "./schema.ts";

/** Tones of a table, scene stops; the kernel `addByTone` is given them. */
export const TONE_TABLE = { lowest: -14, perStop: 16, count: 321 } as const;
/** Zones over which a limit fades out. */
const SOFT_ZONES = 1;
/** Slope that opening and holding take at full strength, and over how many stops from Zone V they set in. */
const OPEN_SLOPE = 0.5;
const HOLD_SLOPE = 0.6;
const SETS_IN = 1.5;
/** They take no more than this of the stops beyond. */
const MOST_BENT = 5;
/** A change of contrast, or a curve, moves no tone by more stops than this. */
const MOST_GRADE_STOPS = 4;
const bounded = (stops: number) => Math.min(MOST_GRADE_STOPS, Math.max(-MOST_GRADE_STOPS, stops));

/** Whether a move acts on some tones otherwise than on others. */
export function actsOnTones({ zones, byZone }: Pick<LightMove, "zones" | "byZone">): boolean {
  return zones.from > 0 || zones.to < 10 || byZone.some((stops) => stops !== 0);
}

/** Share of a move that its limit by zones leaves to a zone. */
function withinZones({ from, to }: LightMove["zones"], zone: number): number {
  const below = from > 0 ? smoothstep(zone, from - SOFT_ZONES, from) : 1;
  return to < 10 ? below * (1 - smoothstep(zone, to, to + SOFT_ZONES)) : below;
}

/** Stops of a move for a tone that prints on a zone, amount left aside. */
export function stopsOnZone(
  { stops, zones, byZone }: Pick<LightMove, "stops" | "zones" | "byZone">,
  zone: number,
): number {
  const i = Math.min(byZone.length - 2, Math.max(0, Math.floor(zone)));
  const between = byZone[i] + (byZone[i + 1] - byZone[i]) * (zone - i);
  return stops * withinZones(zones, zone) + between;
}

/** What opening and holding add to a tone, stops from Zone V. */
export function bentStops({ open, hold }: Pick<LightEffects, "open" | "hold">, stops: number): number {
  const beyond = (by: number) => {
    const u = Math.max(0, by);
    return Math.min(MOST_BENT, u < SETS_IN ? (u * u) / (2 * SETS_IN) : u - SETS_IN / 2);
  };
  return OPEN_SLOPE * open * beyond(-stops) - HOLD_SLOPE * hold * beyond(stops);
}

const tabled = (value: (stops: number) => number): Float32Array =>
  Float32Array.from({ length: TONE_TABLE.count }, (_, i) => value(TONE_TABLE.lowest + i / TONE_TABLE.perStop));

/**
 * Stops that a move adds for the tone of an edge-keeping base, over scene stops: which zone a tone is on follows from the tone
 * curve. Null when it adds nothing anywhere.
 * @param amount - share of its strength with which the move counts.
 */
export function byToneTable(move: LightMove, shape: Shape, amount: number): Float32Array | null {
  const { effects, zones } = move;
  const curve = toneCurve(shape);
  const table = tabled((stops) => {
    const zone = printZone(curve(stopsToLight(stops)));
    const bent = effects.open === 0 && effects.hold === 0 ? 0 : bentStops(effects, stops) * withinZones(zones, zone);
    return amount * (stopsOnZone(move, zone) + bent);
  });
  return table.some((stops) => stops !== 0) ? table : null;
}

/** Stops that a move adds tone by tone, by its grade and by its own curve, over scene stops; null when it adds nothing. */
export function toneByToneTable({ effects, curve }: LightMove, shape: Shape, amount: number): Float32Array | null {
  const graded = effects.grade === 0 ? null : gradeTable(effects, shape);
  const curved = curveTable(curve, shape);
  if (!graded && !curved) return null;
  return Float32Array.from({ length: TONE_TABLE.count }, (_, i) => amount * ((graded?.[i] ?? 0) + (curved?.[i] ?? 0)));
}

/** Stops from each tone to the one that prints as a move's own curve wants it; null when it wants no change. */
function curveTable(points: LightMove["curve"], shape: Shape): Float32Array | null {
  const own = curveThrough(points);
  if (!own) return null;
  const tone = toneCurve(shape);
  const prints = tabled((stops) => luminanceToLightness(tone(stopsToLight(stops))) / 100);
  const last = TONE_TABLE.count - 1;
  return prints.map((lightness, i) => {
    const wanted = own(lightness);
    // The nearest tone that prints so: what is clipped stays where it is when it is to stay clipped.
    let at = i;
    while (at < last && prints[at] < wanted) at++;
    while (at > 0 && prints[at] > wanted) at--;
    const [low, high] = [prints[at], prints[Math.min(last, at + 1)]];
    const between = high > low && wanted > low ? (wanted - low) / (high - low) : 0;
    return bounded((at + Math.min(1, between) - i) / TONE_TABLE.perStop);
  });
}

/** Stops that a change of contrast about a zone adds to a tone, over scene stops. */
function gradeTable({ grade, gradeZone }: LightEffects, shape: Shape): Float32Array {
  const curve = toneCurve(shape);
  const zones = tabled((stops) => printZone(curve(stopsToLight(stops))));
  // Where the tone curve reaches the zone first.
  let at = zones.findIndex((zone) => zone >= gradeZone);
  if (at < 0) at = TONE_TABLE.count - 1;
  const pivot = TONE_TABLE.lowest + at / TONE_TABLE.perStop;
  return tabled((stops) => bounded(grade * (stops - pivot)));
}

/** Share − 1 that a limit by zones leaves to a tone; null when it leaves all. */
export function zoneLimitTable(zones: LightMove["zones"], shape: Shape): Float32Array | null {
  if (zones.from <= 0 && zones.to >= 10) return null;
  const curve = toneCurve(shape);
  return tabled((stops) => withinZones(zones, printZone(curve(stopsToLight(stops)))) - 1);
}
