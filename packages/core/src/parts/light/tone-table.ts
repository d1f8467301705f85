import { printZone, stopsToLight } from "../../colour/stops.ts";
import { smoothstep } from "../../maths/smoothstep.ts";
import type { Shape } from "../shape/schema.ts";
import { toneCurve } from "../shape/tone-curve.ts";
import type { LightMove } from "./schema.ts";

/** Tones of a table, scene stops; the kernel `addByTone` is given them. */
export const TONE_TABLE = { lowest: -14, perStop: 16, count: 321 } as const;
/** Zones over which a limit fades out. */
const SOFT_ZONES = 1;

/** Whether a move acts on some tones otherwise than on others. */
export function isByTone({ zones, byZone }: LightMove): boolean {
  return zones.from > 0 || zones.to < 10 || byZone.some((stops) => stops !== 0);
}

/** Stops of a move for a tone that prints on a zone, amount left aside. */
export function stopsOnZone(
  { stops, zones, byZone }: Pick<LightMove, "stops" | "zones" | "byZone">,
  zone: number,
): number {
  const below = zones.from > 0 ? smoothstep(zone, zones.from - SOFT_ZONES, zones.from) : 1;
  const above = zones.to < 10 ? 1 - smoothstep(zone, zones.to, zones.to + SOFT_ZONES) : 1;
  const i = Math.min(byZone.length - 2, Math.max(0, Math.floor(zone)));
  const between = byZone[i] + (byZone[i + 1] - byZone[i]) * (zone - i);
  return stops * below * above + between;
}

/** Stops of a move over scene stops: which zone a tone is on follows from the tone curve. */
export function toneTable(move: LightMove, shape: Shape): Float32Array {
  const curve = toneCurve(shape);
  const amount = move.amountPercent / 100;
  return Float32Array.from({ length: TONE_TABLE.count }, (_, i) => {
    const stops = TONE_TABLE.lowest + i / TONE_TABLE.perStop;
    return amount * stopsOnZone(move, printZone(curve(stopsToLight(stops))));
  });
}
