import {
  formatSigned,
  lightToStops,
  printZone,
  REC2020,
  SRGB_TRANSFER,
  REC2020_TO_REC709,
  toneCurve,
  transform3,
  type PaletteColour,
  type Recipe,
  type Vector3,
} from "@yelm/core";
import { useMemo } from "react";
import { zoneNumeral, zoneThirds } from "../stations/formats.ts";

const WIDTH = 268;
const SWATCH = 22;
const ROW = 34;
const TOP = 14;
const RAIL_X = 216;
const FROM_X = 92;

/** Colour in, grey out: the picture's own colours on the left, the zones that the weights print them on at the right. */
export function WeighRungs({ palette, recipe }: { palette: readonly PaletteColour[]; recipe: Recipe }) {
  const curve = useMemo(() => toneCurve(recipe.shape), [recipe.shape]);
  const height = Math.max(260, TOP * 2 + palette.length * ROW);
  const y = (zone: number) => height - TOP - (zone / 10) * (height - 2 * TOP);
  const gain = 2 ** recipe.ground.exposureEv;
  const step = (height - 2 * TOP) / Math.max(1, palette.length);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${height}`}
      className="block w-full"
      role="img"
      aria-label="Colour in, grey out"
      data-testid="weigh-rungs"
    >
      <line x1={RAIL_X} x2={RAIL_X} y1={y(0)} y2={y(10)} className="stroke-quiet" strokeOpacity={0.5} />
      {Array.from({ length: 11 }, (_, zone) => (
        <g key={zone}>
          <line x1={RAIL_X} x2={RAIL_X + 5} y1={y(zone)} y2={y(zone)} className="stroke-quiet" strokeOpacity={0.5} />
          <text x={WIDTH - 2} y={y(zone) + 4} textAnchor="end" fontSize={12} className="fill-quiet font-serif">
            {zoneNumeral(zone)}
          </text>
        </g>
      ))}
      {palette.map(({ working, share }, i) => {
        const light = Math.max(
          0,
          gain * (recipe.weigh.red * working[0] + recipe.weigh.green * working[1] + recipe.weigh.blue * working[2]),
        );
        const reflectance = curve(light);
        const zone = printZone(reflectance);
        const plain = Math.max(1e-6, gain * luminanceOf(working));
        const change = light > 0 ? lightToStops(light) - lightToStops(plain) : -9;
        const moved = Math.abs(change) >= 0.05;
        const from = TOP + step * (i + 0.5);
        const grey = css([reflectance, reflectance, reflectance]);
        return (
          <g key={i}>
            <path
              d={`M${FROM_X} ${from}C${FROM_X + 52} ${from} ${RAIL_X - 52} ${y(zone)} ${RAIL_X - 6} ${y(zone)}`}
              fill="none"
              className="stroke-quiet"
            />
            <rect
              x={0}
              y={from - SWATCH / 2}
              width={SWATCH}
              height={SWATCH}
              rx={2}
              fill={css(transform3(REC2020_TO_REC709, working))}
            />
            <text x={30} y={from + (moved ? -2 : 4)} fontSize={12} className="fill-base-content">
              {share < 0.01 ? "<1 %" : `${Math.round(100 * share)} %`}
            </text>
            {moved && (
              <text x={30} y={from + 12} fontSize={11} className="fill-quiet">
                {change < -4 ? "below −4" : formatSigned(change, 1)}
              </text>
            )}
            <circle cx={RAIL_X} cy={y(zone)} r={6} fill={grey} className="stroke-base-content">
              <title>{`prints on Zone ${zoneThirds(zone)}`}</title>
            </circle>
          </g>
        );
      })}
    </svg>
  );
}

function luminanceOf(working: Vector3): number {
  return REC2020.luminance.reduce((sum, weight, i) => sum + weight * working[i], 0);
}

function css(linear: Vector3): string {
  const codes = linear.map((v) => Math.round(255 * SRGB_TRANSFER.encode(Math.min(1, Math.max(0, v)))));
  return `rgb(${codes.join(" ")})`;
}
