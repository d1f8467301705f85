import { smooth3 } from "../../maths/smooth3.ts";

/** A piece of a picture at full size about an edge. */
export interface EdgePatch {
  readonly width: number;
  readonly height: number;
  /** Linear working red, green, blue. */
  readonly colour: readonly [Float32Array, Float32Array, Float32Array];
  /** The grey light made of them. */
  readonly light: Float32Array;
}

/** What a conversion did to an edge. */
export interface EdgeDamage {
  /** How far the grey leaves what a mixture of the two sides would be, at worst, as a share of the step. */
  readonly halo: number;
  /** The same as a share of the mean light, which says whether it is seen. */
  readonly contrast: number;
  /** How much more jagged the edge runs than in the mixture, pixels. */
  readonly stairPx: number;
  /** Height of the step in grey light. */
  readonly step: number;
}

/** Steps smaller than this share of the patch's mean light are no edge. */
const LEAST_STEP = 0.06;
/** Share of pixels without light from which a patch tells nothing of its edge. */
const MOST_BLACK = 0.02;
/** Share of pixels at either end that are taken for one side. */
const SIDE_SHARE = 0.12;

/**
 * Halo and stair-steps that a conversion made at an edge. On an edge two colours mix linearly, so a faithful grey is a
 * linear function of red, green and blue there; it is fitted to the patch by least squares, and what the grey does beyond it is
 * damage. Single pixels are averaged with their neighbours along the way, so that noise counts little.
 * @returns null when the patch has no step, or is partly black: that is clipping, and told as such.
 */
export function edgeDamage({ width, height, colour, light }: EdgePatch): EdgeDamage | null {
  const black = light.reduce((count, v) => count + (v <= 0 ? 1 : 0), 0);
  if (black > MOST_BLACK * light.length) return null;
  const mixture = linearFit(colour, light);
  const sorted = Float32Array.from(mixture).sort();
  const low = sorted[Math.floor(SIDE_SHARE * sorted.length)];
  const high = sorted[Math.floor((1 - SIDE_SHARE) * sorted.length)];
  const step = high - low;
  const mean = light.reduce((sum, v) => sum + v, 0) / light.length;
  if (!(step > LEAST_STEP * mean)) return null;
  const rest = smooth3(
    light.map((v, i) => v - mixture[i]),
    width,
    height,
  );
  const deviations = rest.map(Math.abs).sort();
  const worst = deviations[Math.floor(0.98 * deviations.length)];
  const middle = (low + high) / 2;
  const stairPx = Math.max(0, raggedness(light, width, height, middle) - raggedness(mixture, width, height, middle));
  return { halo: worst / step, contrast: worst / mean, stairPx, step };
}

/** The least-squares a + b·R + c·G + d·B. */
function linearFit(colour: EdgePatch["colour"], light: Float32Array): Float32Array {
  const n = light.length;
  const rows = [0, 1, 2, 3].map(() => new Float64Array(5));
  const term = (i: number, k: number) => (k === 0 ? 1 : k === 4 ? light[i] : colour[k - 1][i]);
  for (let i = 0; i < n; i++)
    for (let r = 0; r < 4; r++) for (let c = 0; c < 5; c++) rows[r][c] += term(i, r) * term(i, c);
  // A touch of ridge: on a patch of two colours the channels depend on each other.
  for (let r = 1; r < 4; r++) rows[r][r] *= 1 + 1e-6;
  for (let r = 0; r < 4; r++) {
    const pivot = rows[r][r] || 1e-12;
    for (let below = 0; below < 4; below++) {
      if (below === r) continue;
      const factor = rows[below][r] / pivot;
      for (let c = r; c < 5; c++) rows[below][c] -= factor * rows[r][c];
    }
  }
  const [a, b, c, d] = rows.map((row, r) => row[4] / (row[r] || 1e-12));
  return light.map((_, i) => a + b * colour[0][i] + c * colour[1][i] + d * colour[2][i]);
}

/** How far the crossing of a level wanders about a smooth line, pixels: along rows or columns, whichever cross it more often. */
function raggedness(values: Float32Array, width: number, height: number, level: number): number {
  const crossings = (lines: number, length: number, at: (line: number, i: number) => number) => {
    const found: number[] = [];
    for (let line = 0; line < lines; line++)
      for (let i = 1; i < length; i++) {
        const [p, q] = [at(line, i - 1) - level, at(line, i) - level];
        if (p * q > 0 || p === q) continue;
        found.push(i - 1 + p / (p - q));
        break;
      }
    return found;
  };
  const rows = crossings(height, width, (y, x) => values[y * width + x]);
  const columns = crossings(width, height, (x, y) => values[y * width + x]);
  const places = rows.length >= columns.length ? rows : columns;
  const bends = places.slice(2).map((place, i) => place - 2 * places[i + 1] + places[i]);
  // Second differences of independent wanderings have √6 times their deviation, which is √(π/2) times their mean size.
  const mean = bends.reduce((sum, bend) => sum + Math.min(2, Math.abs(bend)), 0) / bends.length;
  return bends.length > 4 ? (mean * Math.sqrt(Math.PI / 2)) / Math.sqrt(6) : 0;
}
