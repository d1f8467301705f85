import { lightToStops } from "../../colour/stops.ts";

/** How one zone of the scene moved. */
export interface ZoneShift {
  /** Scene zone 0–10 before; V is middle grey. */
  readonly zone: number;
  /** Mean movement, stops. */
  readonly stops: number;
  /** Share of the picture that lies in it. */
  readonly share: number;
}

/**
 * What a change does to each zone of the scene.
 * @param before, after - light of the same pixels, 1.0 = sensor white.
 */
export function traceZones(before: Float32Array, after: Float32Array): ZoneShift[] {
  const sum = new Float64Array(11);
  const count = new Float64Array(11);
  before.forEach((light, i) => {
    if (!(light > 1e-5) || !(after[i] > 1e-5)) return;
    const zone = Math.min(10, Math.max(0, Math.round(lightToStops(light) + 5)));
    sum[zone] += Math.log2(after[i] / light);
    count[zone]++;
  });
  return Array.from(sum, (total, zone) => ({
    zone,
    stops: count[zone] > 0 ? total / count[zone] : 0,
    share: count[zone] / before.length,
  }));
}
