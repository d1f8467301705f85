/** What a slanted edge tells of sharpness. */
export interface EdgeResponse {
  /** Spatial frequency at which the contrast has fallen to a half, cycles a pixel. */
  readonly mtf50: number;
  /** How far the profile goes beyond its plateaus, share of the step. */
  readonly overshoot: number;
}

const OVERSAMPLING = 4;
/** Half width of the profile about the edge, pixels. */
const REACH = 24;
const FREQUENCY_STEP = 0.002;

/**
 * Spatial frequency response of a nearly vertical edge (e-SFR, ISO 12233:2017, 6.2): the edge's line is fitted through the
 * rows' centroids, the rows are projected along it into a profile with four values a pixel, and its derivative transformed.
 * @param grey - rows of `width` values, linear; one edge from plateau to plateau within each row.
 * @throws {RangeError} when there is no such edge.
 */
export function measureSlantedEdge(grey: ArrayLike<number>, width: number, height: number): EdgeResponse {
  const [slope, offset] = fitEdge(grey, width, height);
  const bins = 2 * REACH * OVERSAMPLING;
  const sum = new Float64Array(bins);
  const count = new Float64Array(bins);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const bin = Math.floor((x - slope * y - offset + REACH) * OVERSAMPLING);
      if (bin < 0 || bin >= bins) continue;
      sum[bin] += grey[y * width + x];
      count[bin]++;
    }
  const profile = sum.map((value, i) => value / count[i]);
  if (profile.some((value) => !Number.isFinite(value)))
    throw new RangeError(`Expected an edge with ${REACH} pixels on both sides, slanted by some degrees.`);
  return { mtf50: halfContrast(profile), overshoot: overshootOf(profile) };
}

/**
 * Least-squares line x = slope·y + offset: first through the places that best split each row into two levels, then twice
 * through the centroids of the derivatives near the line.
 */
function fitEdge(grey: ArrayLike<number>, width: number, height: number): [slope: number, offset: number] {
  const rows = Array.from({ length: height }, (_, y) => y);
  let line = fitLine(rows.map((y) => splitOf(grey, y * width, width)));
  for (let pass = 0; pass < 2; pass++) {
    const [slope, offset] = line;
    line = fitLine(rows.map((y) => centroidOf(grey, y * width, width, slope * y + offset)));
  }
  return line;
}

function splitOf(grey: ArrayLike<number>, from: number, width: number): number {
  let difference = 0;
  for (let x = 0; x < REACH; x++) difference += grey[from + REACH + x] - grey[from + x];
  let best = REACH;
  let most = Math.abs(difference);
  for (let x = REACH + 1; x <= width - REACH; x++) {
    const at = from + x;
    difference += grey[at + REACH - 1] - 2 * grey[at - 1] + grey[at - REACH - 1];
    if (Math.abs(difference) <= most) continue;
    most = Math.abs(difference);
    best = x;
  }
  return best - 0.5;
}

function centroidOf(grey: ArrayLike<number>, from: number, width: number, near: number): number {
  let mass = 0;
  let moment = 0;
  for (let x = Math.max(1, Math.ceil(near - REACH / 4)); x < Math.min(width, near + REACH / 4); x++) {
    const d = grey[from + x] - grey[from + x - 1];
    mass += d;
    moment += d * (x - 0.5);
  }
  const centre = moment / mass;
  return Math.abs(centre - near) < REACH / 4 ? centre : near;
}

function fitLine(places: readonly number[]): [slope: number, offset: number] {
  const n = places.length;
  const middle = (n - 1) / 2;
  const mean = places.reduce((a, b) => a + b, 0) / n;
  let along = 0;
  let across = 0;
  places.forEach((x, y) => {
    along += (y - middle) ** 2;
    across += (y - middle) * (x - mean);
  });
  const slope = across / along;
  return [slope, mean - slope * middle];
}

function halfContrast(profile: Float64Array): number {
  const n = profile.length - 1;
  const spread = Float64Array.from({ length: n }, (_, i) => {
    const window = 0.54 + 0.46 * Math.cos((2 * Math.PI * (i + 0.5 - n / 2)) / n);
    return window * (profile[i + 1] - profile[i]);
  });
  const at = (cyclesPerPixel: number) => {
    let re = 0;
    let im = 0;
    spread.forEach((value, i) => {
      const phase = (2 * Math.PI * cyclesPerPixel * i) / OVERSAMPLING;
      re += value * Math.cos(phase);
      im += value * Math.sin(phase);
    });
    // The finite difference that made the spread has a response of its own.
    const x = (Math.PI * cyclesPerPixel) / OVERSAMPLING;
    return Math.hypot(re, im) / (x === 0 ? 1 : Math.sin(x) / x);
  };
  const whole = at(0);
  let before = 1;
  for (let f = FREQUENCY_STEP; f <= 1; f += FREQUENCY_STEP) {
    const here = at(f) / whole;
    if (here <= 0.5) return f - (FREQUENCY_STEP * (0.5 - here)) / (before - here);
    before = here;
  }
  return 1;
}

function overshootOf(profile: Float64Array): number {
  const plateau = REACH * OVERSAMPLING * 0.4;
  const mean = (from: number, to: number) => profile.slice(from, to).reduce((a, b) => a + b, 0) / (to - from);
  const low = mean(0, plateau);
  const high = mean(profile.length - plateau, profile.length);
  const step = high - low;
  if (step === 0) return 0;
  const shares = Array.from(profile, (value) => (value - low) / step);
  return Math.max(0, Math.max(...shares) - 1, -Math.min(...shares));
}
