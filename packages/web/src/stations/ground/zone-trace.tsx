import { formatSigned, type ZoneShift } from "@yelm/core";
import { zoneNumeral } from "../../controls/formats.ts";

const WIDTH = 268;
const HEIGHT = 58;
const LEFT = 14;
const SEEN = 0.005;

/** Where each zone of the scene goes: rungs from where it lay (above) to where it lies (below). */
export function ZoneTrace({ trace }: { trace: readonly ZoneShift[] }) {
  const seen = trace.filter(({ share }) => share > SEEN);
  const most = seen.reduce((a, b) => (Math.abs(b.stops) > Math.abs(a.stops) ? b : a), { zone: 5, stops: 0, share: 0 });
  if (Math.abs(most.stops) < 0.01) return null;
  // Small movements are drawn larger, and it is said.
  const factor = Math.abs(most.stops) < 0.3 ? 4 : 1;
  const x = (zone: number) => LEFT + (Math.min(10.4, Math.max(-0.4, zone)) / 10) * (WIDTH - 2 * LEFT);
  return (
    <figure className="pt-2" data-testid="zone-trace">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="block w-full" role="img" aria-label="How the zones move">
        {Array.from({ length: 11 }, (_, zone) => (
          <text key={zone} x={x(zone)} y={10} textAnchor="middle" fontSize={11} className="fill-quiet font-serif">
            {zoneNumeral(zone)}
          </text>
        ))}
        <line x1={LEFT} x2={WIDTH - LEFT} y1={16} y2={16} className="stroke-quiet" strokeOpacity={0.5} />
        <line x1={LEFT} x2={WIDTH - LEFT} y1={50} y2={50} className="stroke-quiet" strokeOpacity={0.5} />
        {seen.map(({ zone, stops }) => (
          <line
            key={zone}
            x1={x(zone)}
            x2={x(zone + factor * stops)}
            y1={16}
            y2={50}
            className={Math.abs(stops) >= 0.05 ? "stroke-accent" : "stroke-quiet"}
          />
        ))}
      </svg>
      <figcaption className="text-quiet">
        It moves the greys: Zone {zoneNumeral(most.zone)} by {formatSigned(most.stops, 2)} stops, the others less.
        {factor > 1 && ` Drawn ${factor} times as large.`}
      </figcaption>
    </figure>
  );
}
