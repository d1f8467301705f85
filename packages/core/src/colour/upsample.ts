import { adaptWhite } from "./adaptation.ts";
import { invert3, multiply3, transform3, type Vector3 } from "./matrix.ts";
import { REC2020 } from "./rgb-space.ts";
import {
  COLOUR_MATCHING,
  daylightSpectrum,
  integrate,
  reflectanceToXyz,
  SAMPLES,
  spectrumOf,
  type Spectrum,
} from "./spectrum.ts";
import { D65, xyzToChromaticity } from "./white.ts";

/** A smooth reflectance ρ(λ) = ½ + x / (2·√(1 + x²)), x = a·t² + b·t + c, t from −1 at 380 nm to 1 at 780 nm. */
export type SmoothReflectance = Vector3;

const DAYLIGHT = daylightSpectrum(D65);
const PLACES = spectrumOf((nm) => (nm - 580) / 200);
const PERFECT = spectrumOf(() => 1);
/** The tables' own D65 lies a hair off the rounded one: taken out, so that the perfect white is exactly neutral. */
const WHITE_XYZ = reflectanceToXyz(PERFECT, DAYLIGHT);
const XYZ_TO_WORKING = multiply3(REC2020.fromXyz, adaptWhite(xyzToChromaticity(WHITE_XYZ), D65));
/** Working red, green and blue of a spectrum under D65, as sums over its samples. */
const WORKING_RESPONSE: readonly Spectrum[] = (() => {
  const norm = integrate(DAYLIGHT, COLOUR_MATCHING[1]);
  return [0, 1, 2].map((c) =>
    Float64Array.from({ length: SAMPLES }, (_, i) => {
      const xyz: Vector3 = [COLOUR_MATCHING[0][i], COLOUR_MATCHING[1][i], COLOUR_MATCHING[2][i]];
      return (transform3(XYZ_TO_WORKING, xyz)[c] * DAYLIGHT[i]) / norm;
    }),
  );
})();
const ROUNDS = 24;
/** Largest difference in any working channel at which a fit is called reached. */
const CLOSE = 2e-4;
/** Curvature and slope beyond this make steps between two samples. */
const STEEPEST = 260;

/** Working colour of a reflectance under D65. */
export function reflectanceToWorking(reflectance: Spectrum): Vector3 {
  const [r, g, b] = WORKING_RESPONSE.map((response) => integrate(reflectance, response));
  return [r, g, b];
}

/** The spectrum that coefficients stand for. */
export function smoothReflectance([a, b, c]: SmoothReflectance): Spectrum {
  return Float64Array.from(PLACES, (t) => {
    const x = (a * t + b) * t + c;
    return 0.5 + x / (2 * Math.sqrt(1 + x * x));
  });
}

/** A fitted reflectance. */
export interface Upsampled {
  readonly coefficients: SmoothReflectance;
  /** Largest difference left in working red, green and blue. */
  readonly error: number;
}

/**
 * The smooth reflectance of a working colour under D65: Jakob and Hanika 2019, fitted by damped Gauss–Newton steps.
 * Colours that no reflectance has (brighter or purer than any surface) get the nearest one found, with its error.
 * @param start - coefficients of a colour near by, which saves rounds.
 */
export function upsample(working: Vector3, start: SmoothReflectance = [0, 0, 0]): Upsampled {
  let best = start;
  let residual = difference(working, best);
  let damping = 1e-4;
  for (let round = 0; round < ROUNDS && largest(residual) > CLOSE / 20; round++) {
    const jacobian = derivatives(best);
    const step = dampedStep(jacobian, residual, damping);
    const next = step && clampSteep([best[0] + step[0], best[1] + step[1], best[2] + step[2]]);
    const after = next && difference(working, next);
    if (next && after && sumOfSquares(after) < sumOfSquares(residual)) {
      best = next;
      residual = after;
      damping = Math.max(1e-9, damping / 8);
    } else {
      damping *= 12;
      if (damping > 1e6) break;
    }
  }
  return { coefficients: best, error: largest(residual) };
}

/** Whether a fit meets its colour. */
export function isReached({ error }: Upsampled): boolean {
  return error <= CLOSE;
}

function difference(working: Vector3, coefficients: SmoothReflectance): Vector3 {
  const found = reflectanceToWorking(smoothReflectance(coefficients));
  return [working[0] - found[0], working[1] - found[1], working[2] - found[2]];
}

/** ∂(r, g, b)/∂(a, b, c), row by row. */
function derivatives([a, b, c]: SmoothReflectance): number[] {
  const out = new Array<number>(9).fill(0);
  for (let i = 0; i < SAMPLES; i++) {
    const t = PLACES[i];
    const x = (a * t + b) * t + c;
    const slope = 0.5 / (1 + x * x) ** 1.5;
    for (let channel = 0; channel < 3; channel++) {
      const share = WORKING_RESPONSE[channel][i] * slope;
      out[3 * channel] += share * t * t;
      out[3 * channel + 1] += share * t;
      out[3 * channel + 2] += share;
    }
  }
  return out;
}

/** Levenberg's step: (JᵀJ + damping·diag) d = Jᵀr. */
function dampedStep(j: number[], r: Vector3, damping: number): Vector3 | null {
  const at = (row: number, column: number) => {
    let sum = 0;
    for (let c = 0; c < 3; c++) sum += j[3 * c + row] * j[3 * c + column];
    return row === column ? sum * (1 + damping) + 1e-14 : sum;
  };
  const right = [0, 1, 2].map((k) => j[k] * r[0] + j[3 + k] * r[1] + j[6 + k] * r[2]);
  return solve3([at(0, 0), at(0, 1), at(0, 2), at(1, 0), at(1, 1), at(1, 2), at(2, 0), at(2, 1), at(2, 2)], right);
}

function solve3(m: number[], v: number[]): Vector3 | null {
  const scale = Math.max(...m.map(Math.abs));
  if (!(scale > 0)) return null;
  try {
    const inverse = invert3(m.map((value) => value / scale) as unknown as Parameters<typeof invert3>[0]);
    const [x, y, z] = transform3(inverse, [v[0], v[1], v[2]]);
    return [x / scale, y / scale, z / scale];
  } catch {
    return null;
  }
}

function clampSteep([a, b, c]: Vector3): Vector3 {
  const limit = (value: number) => Math.min(STEEPEST, Math.max(-STEEPEST, value));
  return [limit(a), limit(b), limit(c)];
}

function largest(v: Vector3): number {
  return Math.max(...v.map(Math.abs));
}

function sumOfSquares([x, y, z]: Vector3): number {
  return x * x + y * y + z * z;
}
