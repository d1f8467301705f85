import { adaptWhite } from "./adaptation.ts";
import { invert3, multiply3, transform3, type Matrix3, type Vector3 } from "./matrix.ts";
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

const DAYLIGHT = daylightSpectrum(D65);
/** The tables' own D65 lies a hair off the rounded one: taken out, so that the perfect white is exactly neutral. */
const WHITE_XYZ = reflectanceToXyz(
  spectrumOf(() => 1),
  DAYLIGHT,
);
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
const ROUNDS = 40;
/** Largest difference in any channel, as a share of the largest channel, at which a fit is called reached. */
const CLOSE = 1e-4;
/** Change of log reflectance in a round after which nothing more is gained. */
const SETTLED = 1e-5;
/** Keeps the curvature's matrix invertible: a level spectrum costs nothing. */
const RIDGE = 1e-6;
/** Farthest step of log reflectance in one round. */
const LONGEST_STEP = 1.5;

/** Working colour of a reflectance under D65. */
export function reflectanceToWorking(reflectance: Spectrum): Vector3 {
  const [r, g, b] = WORKING_RESPONSE.map((response) => integrate(reflectance, response));
  return [r, g, b];
}

/** A fitted reflectance. */
export interface Upsampled {
  /** Positive; above 1 where the colour asks for it, since only its shape is wanted. */
  readonly reflectance: Spectrum;
  /** Largest difference left in working red, green and blue, as a share of the largest. */
  readonly error: number;
}

/**
 * The smoothest reflectance of a working colour under D65: the one whose logarithm has the least squared slope (Burns 2020),
 * by Newton's method on the three colour equations with Lagrange multipliers. It scales with the colour, so that it belongs to a
 * chromaticity. Against made-up pigments it came nearer to the greys of true spectra than bounded sigmoids (Jakob and Hanika
 * 2019), by a quarter.
 * @param working - positive; a colour purer than any spectrum of 10 nm samples gets the nearest one found, with its error.
 * @param start - a spectrum of a colour near by, which saves rounds.
 */
export function upsample(working: Vector3, start?: Spectrum): Upsampled {
  const largest = Math.max(...working);
  const wanted: Vector3 = [working[0] / largest, working[1] / largest, working[2] / largest];
  let best = fit(wanted, start && start.map((v) => Math.log(v / largest)));
  // A start from afar can lead astray.
  if (start && best.error > CLOSE) {
    const again = fit(wanted);
    if (again.error < best.error) best = again;
  }
  return { reflectance: best.log.map((z) => largest * Math.exp(z)), error: best.error };
}

/** Whether a fit meets its colour. */
export function isReached({ error }: Upsampled): boolean {
  return error <= CLOSE;
}

function fit(wanted: Vector3, start?: Spectrum): { log: Spectrum; error: number } {
  const z = start ? Float64Array.from(start) : spectrumOf(() => Math.log(0.5));
  let multipliers: Vector3 = [0, 0, 0];
  let best = { log: Float64Array.from(z), error: Infinity };
  const diagonal = new Float64Array(SAMPLES);
  const columns = [0, 1, 2, 3].map(() => new Float64Array(SAMPLES));
  for (let round = 0; round < ROUNDS; round++) {
    const r = z.map(Math.exp);
    const found = reflectanceToWorking(r);
    const missing: Vector3 = [wanted[0] - found[0], wanted[1] - found[1], wanted[2] - found[2]];
    const error = Math.max(...missing.map(Math.abs));
    if (error < best.error) best = { log: Float64Array.from(z), error };
    for (let i = 0; i < SAMPLES; i++) {
      const pull = multipliers.reduce((sum, m, c) => sum + m * WORKING_RESPONSE[c][i], 0);
      diagonal[i] = slopeDiagonal(i) + RIDGE + r[i] * pull;
      columns[3][i] = -(slopeTimes(z, i) + RIDGE * z[i] + r[i] * pull);
      for (let c = 0; c < 3; c++) columns[c][i] = r[i] * WORKING_RESPONSE[c][i];
    }
    const pulls = columns.slice(0, 3).map((column) => Float64Array.from(column));
    solveTridiagonal(diagonal, columns);
    const normal = pulls.flatMap((p) => columns.slice(0, 3).map((column) => integrate(p, column)));
    const right = pulls.map((p, c) => integrate(p, columns[3]) - missing[c]);
    const step = solve3(normal, right);
    if (!step) break;
    let farthest = 0;
    for (let i = 0; i < SAMPLES; i++) {
      const change = columns[3][i] - step[0] * columns[0][i] - step[1] * columns[1][i] - step[2] * columns[2][i];
      const limited = Math.min(LONGEST_STEP, Math.max(-LONGEST_STEP, change));
      if (!Number.isFinite(limited)) return best;
      z[i] += limited;
      farthest = Math.max(farthest, Math.abs(limited));
    }
    multipliers = [multipliers[0] + step[0], multipliers[1] + step[1], multipliers[2] + step[2]];
    if (farthest < SETTLED) break;
  }
  return best;
}

/** Diagonal of the matrix of squared slopes; beside it all are −2. */
function slopeDiagonal(i: number): number {
  return i === 0 || i === SAMPLES - 1 ? 2 : 4;
}

function slopeTimes(z: Spectrum, i: number): number {
  const before = i > 0 ? z[i] - z[i - 1] : 0;
  const after = i < SAMPLES - 1 ? z[i] - z[i + 1] : 0;
  return 2 * (before + after);
}

/** Solves for several right sides in place (Thomas's elimination); off the diagonal all are −2. */
function solveTridiagonal(diagonal: Float64Array, columns: readonly Float64Array[]): void {
  for (let i = 1; i < SAMPLES; i++) {
    const factor = -2 / (Math.abs(diagonal[i - 1]) > 1e-12 ? diagonal[i - 1] : 1e-12);
    diagonal[i] += 2 * factor;
    for (const column of columns) column[i] -= factor * column[i - 1];
  }
  for (let i = SAMPLES - 1; i >= 0; i--) {
    const pivot = Math.abs(diagonal[i]) > 1e-12 ? diagonal[i] : 1e-12;
    for (const column of columns) column[i] = (column[i] + (i < SAMPLES - 1 ? 2 * column[i + 1] : 0)) / pivot;
  }
}

function solve3(m: readonly number[], v: readonly number[]): Vector3 | null {
  const scale = Math.max(...m.map(Math.abs));
  if (!(scale > 0) || !Number.isFinite(scale)) return null;
  try {
    const inverse = invert3(m.map((value) => value / scale) as unknown as Matrix3);
    const [x, y, z] = transform3(inverse, [v[0], v[1], v[2]]);
    return [x / scale, y / scale, z / scale];
  } catch {
    return null;
  }
}
