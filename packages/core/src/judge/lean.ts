import { boxMeans } from "../maths/box-means.ts";

/** By how much a picture leans. */
export interface Lean {
  /** Turning the picture by this makes its level lines level: degrees, clockwise positive. */
  readonly degrees: number;
  /** How clearly its lines say so: their evidence at this angle over that beside it. */
  readonly clearness: number;
}

const MOST_DEGREES = 7;
const STEP = 0.1;
/** A long line stands out from angles so far beside it; what stands out from farther ones only is texture that runs one way. */
const BESIDE_DEGREES = 0.8;
/** Share of the pixels whose gradients are counted. */
const STRONGEST = 0.06;

/**
 * The lean of a picture by its long lines that are nearly level or upright: gradients are summed along lines of every angle, and
 * where lines lie along, the sums are most uneven (a projection profile, as pages of text are straightened).
 * @param lightness - L*, row by row.
 * @returns null where nothing is level or upright.
 */
export function measureLean(lightness: Float32Array, width: number, height: number): Lean | null {
  const soft = boxMeans(lightness, width, height, 1);
  const level = evidence(soft, width, height, false);
  const upright = evidence(soft, width, height, true);
  const angles = level.scores.length;
  const raw = Array.from({ length: angles }, (_, k) => level.scores[k] + upright.scores[k]);
  // A line is wider than a step; what stands alone is chance.
  const both = raw.map((v, k) => (raw[Math.max(0, k - 1)] + 2 * v + raw[Math.min(angles - 1, k + 1)]) / 4);
  const at = both.indexOf(Math.max(...both));
  const beside = Math.round(BESIDE_DEGREES / STEP);
  // What lies near an end of the range is no top.
  if (at < beside || at >= angles - beside) return null;
  const rest = Math.max(both[at - beside], both[at + beside]);
  if (rest <= 0) return null;
  const [before, here, after] = [both[at - 1], both[at], both[at + 1]];
  const bend = before - 2 * here + after;
  const shift = bend < 0 ? (0.5 * (before - after)) / bend : 0;
  return { degrees: -(-MOST_DEGREES + (at + shift) * STEP), clearness: here / rest };
}

/** A place within a pixel, by chance and always the same: without it the angles of the pixels' own rows would stand out. */
function jitter(i: number): number {
  const h = Math.imul(i ^ (i >>> 15), 0x2c1b3c6d);
  return ((h ^ (h >>> 13)) >>> 0) / 4294967296 - 0.5;
}

/** Unevenness of the gradients' sums by angle, over its own median. */
function evidence(soft: Float32Array, width: number, height: number, upright: boolean): { scores: number[] } {
  const places: number[] = [];
  const slopes = new Float32Array(width * height);
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const along = upright ? soft[i + width] - soft[i - width] : soft[i + 1] - soft[i - 1];
      const across = upright ? soft[i + 1] - soft[i - 1] : soft[i + width] - soft[i - width];
      // Only what is steep across and not along can be such a line.
      if (Math.abs(across) > 4 * Math.abs(along)) slopes[i] = across;
    }
  const sorted = slopes.map(Math.abs).sort();
  const least = Math.max(1, sorted[Math.floor((1 - STRONGEST) * (sorted.length - 1))]);
  for (let i = 0; i < slopes.length; i++) if (Math.abs(slopes[i]) >= least) places.push(i);
  const count = Math.round((2 * MOST_DEGREES) / STEP) + 1;
  if (places.length < 0.002 * slopes.length) return { scores: new Array<number>(count).fill(0) };
  const size = Math.ceil(Math.hypot(width, height)) + 4;
  const scores = Array.from({ length: count }, (_, k) => {
    const angle = ((-MOST_DEGREES + k * STEP) * Math.PI) / 180;
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
    const sums = new Float64Array(2 * size);
    for (const i of places) {
      const [x, y] = [(i % width) - width / 2, Math.floor(i / width) - height / 2];
      const place = (upright ? x * cos + y * sin : y * cos - x * sin) + size + jitter(i);
      const cell = Math.floor(place);
      // One gradient counts no more than a few times the least, so that many places outweigh a strong one.
      const slope = Math.max(-3 * least, Math.min(3 * least, slopes[i]));
      sums[cell] += slope * (1 - (place - cell));
      sums[cell + 1] += slope * (place - cell);
    }
    return sums.reduce((sum, v) => sum + v * v, 0);
  });
  const median = [...scores].sort((p, q) => p - q)[Math.floor(count / 2)];
  return { scores: scores.map((score) => score / Math.max(1e-9, median)) };
}
