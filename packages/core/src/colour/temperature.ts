import { smoothstep } from "../maths/smoothstep.ts";
import type { Chromaticity } from "./white.ts";

/** A light as photographers set it. */
export interface TemperatureTint {
  /** Correlated colour temperature, kelvin. */
  readonly kelvin: number;
  /** Thousandths of a CIE 1960 unit off the locus; positive is greenish light, which makes the picture more magenta. */
  readonly tint: number;
}

export const KELVIN_RANGE = { lowest: 1800, highest: 20000 } as const;
/** Between these the black-body locus goes over into daylight. */
const BLEND_KELVIN = { from: 3200, to: 4900 } as const;
const MIRED = 1e6;

/** The chromaticity of a temperature and tint. */
export function temperatureTintToWhite({ kelvin, tint }: TemperatureTint): Chromaticity {
  const { point, normal } = locus(kelvin);
  return fromUv([point[0] + (normal[0] * tint) / 1000, point[1] + (normal[1] * tint) / 1000]);
}

/**
 * The temperature and tint of a chromaticity: the foot of the perpendicular on the locus in CIE 1960 u, v (CIE 15:2018,
 * 9.5), found by bisection over reciprocal temperature. Inverse of {@link temperatureTintToWhite} within the range.
 */
export function whiteToTemperatureTint(white: Chromaticity): TemperatureTint {
  const uv = toUv(white);
  const beyond = (mired: number) => {
    const { point, normal } = locus(MIRED / mired);
    // The tangent towards lower temperature is the normal turned by a right angle.
    return (uv[0] - point[0]) * normal[1] - (uv[1] - point[1]) * normal[0];
  };
  let low = MIRED / KELVIN_RANGE.highest;
  let high = MIRED / KELVIN_RANGE.lowest;
  for (let i = 0; i < 50; i++) {
    const middle = (low + high) / 2;
    if (beyond(middle) > 0) low = middle;
    else high = middle;
  }
  const kelvin = MIRED / ((low + high) / 2);
  const { point, normal } = locus(kelvin);
  return { kelvin, tint: 1000 * ((uv[0] - point[0]) * normal[0] + (uv[1] - point[1]) * normal[1]) };
}

/** Part of the way from one temperature to another, in reciprocal temperature, which is even to the eye. */
export function mixKelvin(from: number, to: number, share: number): number {
  return MIRED / (MIRED / from + share * (MIRED / to - MIRED / from));
}

type Uv = readonly [number, number];

/** A point of the locus in u, v and the unit normal there, towards green. */
function locus(kelvin: number): { point: Uv; normal: Uv } {
  const inside = Math.min(KELVIN_RANGE.highest, Math.max(KELVIN_RANGE.lowest, kelvin));
  const point = toUv(locusChromaticity(inside));
  const step = 0.002 * inside;
  const warm = toUv(locusChromaticity(inside - step));
  const cool = toUv(locusChromaticity(inside + step));
  const tangent: Uv = [warm[0] - cool[0], warm[1] - cool[1]];
  const length = Math.hypot(...tangent);
  return { point, normal: [-tangent[1] / length, tangent[0] / length] };
}

function locusChromaticity(kelvin: number): Chromaticity {
  const share = smoothstep(kelvin, BLEND_KELVIN.from, BLEND_KELVIN.to);
  if (share === 0) return blackBody(kelvin);
  const day = daylight(kelvin);
  if (share === 1) return day;
  const black = blackBody(kelvin);
  return [black[0] + share * (day[0] - black[0]), black[1] + share * (day[1] - black[1])];
}

/** Daylight locus, CIE 15:2018, 4.1.2, equations 4.1 to 4.3; continued below 4000 K for the blend. */
function daylight(kelvin: number): Chromaticity {
  const t = 1000 / kelvin;
  const x =
    kelvin <= 7000
      ? 0.244063 + t * (0.09911 + t * (2.9678 - 4.607 * t))
      : 0.23704 + t * (0.24748 + t * (1.9018 - 2.0064 * t));
  return [x, -3 * x * x + 2.87 * x - 0.275];
}

/** Black-body locus by the cubics of Kim, Lee, Kim and Lee 2002, 1667 to 4000 K and on; within 1e-3 in x and y. */
function blackBody(kelvin: number): Chromaticity {
  const t = 1000 / kelvin;
  const x =
    kelvin <= 4000
      ? 0.17991 + t * (0.8776956 + t * (-0.234358 - 0.2661239 * t))
      : 0.24039 + t * (0.2226347 + t * (2.1070379 - 3.0258469 * t));
  const y =
    kelvin <= 2222
      ? -0.20219683 + x * (2.18555832 + x * (-1.3481102 - 1.1063814 * x))
      : kelvin <= 4000
        ? -0.16748867 + x * (2.09137015 + x * (-1.37418593 - 0.9549476 * x))
        : -0.37001483 + x * (3.75112997 + x * (-5.8733867 + 3.081758 * x));
  return [x, y];
}

function toUv([x, y]: Chromaticity): Uv {
  const d = -2 * x + 12 * y + 3;
  return [(4 * x) / d, (6 * y) / d];
}

function fromUv([u, v]: Uv): Chromaticity {
  const d = 2 * u - 8 * v + 4;
  return [(3 * u) / d, (2 * v) / d];
}
