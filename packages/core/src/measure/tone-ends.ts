import type { Shape } from "../parts/shape/schema.ts";
import { toneCurve } from "../parts/shape/tone-curve.ts";
import { lightToStops, stopsToLight } from "../colour/stops.ts";

/** Reflectance below which a print is the deepest black, and above which it is bare paper. */
export const DEEPEST = 0.0005;
export const BARE = 0.9995;

/** The light of a picture toward its ends: what any black and white point would clip, without rendering it. */
export interface ToneEnds {
  readonly width: number;
  readonly height: number;
  /** Scene stops of the darkest and of the lightest pixel of every cell. */
  readonly darkest: Float32Array;
  readonly lightest: Float32Array;
  /** Share of pixels by their stops, bins of equal width from {@link LOWEST_COUNTED} to {@link HIGHEST_COUNTED}; beyond them in the end bins. */
  readonly counts: Float32Array;
  /** Mean stops of each bin's pixels: what is blown lies all in one place, where a bin's middle does not. */
  readonly means: Float32Array;
}

const CELL = 3;
/** Scene stops that are counted. */
export const LOWEST_COUNTED = -14;
export const HIGHEST_COUNTED = 9;
const BINS_PER_STOP = 64;
/** Light that counts as none. */
const LEAST_LIGHT = 1e-6;

/**
 * Looks at the ends of a light, width·height values, 1.0 = sensor white.
 * @param weights - how much each pixel counts; 1 when they are not said.
 */
export function toneEnds(light: Float32Array, width: number, height: number, weights?: Float32Array): ToneEnds {
  const [across, down] = [Math.ceil(width / CELL), Math.ceil(height / CELL)];
  const darkest = new Float32Array(across * down).fill(Infinity);
  const lightest = new Float32Array(across * down).fill(-Infinity);
  const bins = (HIGHEST_COUNTED - LOWEST_COUNTED) * BINS_PER_STOP;
  const counts = new Float64Array(bins);
  const sums = new Float64Array(bins);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const stops = lightToStops(Math.max(LEAST_LIGHT, light[y * width + x]));
      const cell = Math.floor(y / CELL) * across + Math.floor(x / CELL);
      if (stops < darkest[cell]) darkest[cell] = stops;
      if (stops > lightest[cell]) lightest[cell] = stops;
      const share = (weights ? weights[y * width + x] : 1) / (width * height);
      const bin = binOf(stops);
      counts[bin] += share;
      sums[bin] += share * stops;
    }
  const means = Float32Array.from(counts, (count, i) => (count > 0 ? sums[i] / count : middleOf(i)));
  return { width: across, height: down, darkest, lightest, counts: Float32Array.from(counts), means };
}

function binOf(stops: number): number {
  const bins = (HIGHEST_COUNTED - LOWEST_COUNTED) * BINS_PER_STOP;
  return Math.min(bins - 1, Math.max(0, Math.floor((stops - LOWEST_COUNTED) * BINS_PER_STOP)));
}

const middleOf = (bin: number) => LOWEST_COUNTED + (bin + 0.5) / BINS_PER_STOP;

/**
 * Scene stops up to which a print is as black as it gets, and from which it is as white as it gets: nothing tells tones apart
 * there; infinite when there are none.
 */
export function clippingStops(shape: Shape): { readonly black: number; readonly white: number } {
  const curve = toneCurve(shape);
  const [blackest, whitest] = [curve(0), curve(stopsToLight(HIGHEST_COUNTED + 4))];
  return {
    black: edgeOf((stops) => curve(stopsToLight(stops)) >= blackest + DEEPEST, -Infinity),
    white: edgeOf((stops) => curve(stopsToLight(stops)) > whitest - (1 - BARE), Infinity),
  };
}

/** The stops from which something that turns once is true. */
function edgeOf(isTrue: (stops: number) => boolean, never: number): number {
  let [low, high] = [LOWEST_COUNTED, HIGHEST_COUNTED];
  if (isTrue(low)) return never === -Infinity ? -Infinity : low;
  if (!isTrue(high)) return never === -Infinity ? high : never;
  for (let i = 0; i < 30; i++) {
    const middle = (low + high) / 2;
    if (isTrue(middle)) high = middle;
    else low = middle;
  }
  return high;
}

/** Shares of the picture that a shape prints as the deepest black and as bare paper. */
export function sharesBeyond(
  { counts, means }: ToneEnds,
  shape: Shape,
): { readonly black: number; readonly white: number } {
  const { black, white } = clippingStops(shape);
  let [dark, light] = [0, 0];
  counts.forEach((share, i) => {
    if (means[i] <= black) dark += share;
    if (means[i] >= white) light += share;
  });
  return { black: dark, white: light };
}

/** Cells that are the first to clip at an end: the farthest out, no two near each other. */
export function firstSpecks(ends: ToneEnds, end: "black" | "white", most: number): { x: number; y: number }[] {
  const { width, height } = ends;
  const values = end === "black" ? ends.darkest.map((v) => -v) : ends.lightest;
  const apart = 0.06 * Math.max(width, height);
  const order = Array.from(values.keys()).sort((p, q) => values[q] - values[p]);
  const found: { x: number; y: number }[] = [];
  const reach = Math.min(order.length, 4000);
  for (let i = 0; i < reach && found.length < most; i++) {
    const [x, y] = [order[i] % width, Math.floor(order[i] / width)];
    if (found.every((other) => Math.hypot(other.x - x, other.y - y) > apart)) found.push({ x, y });
  }
  return found.map(({ x, y }) => ({ x: (x + 0.5) / width, y: (y + 0.5) / height }));
}

/** Share of the picture that counts as a first speck. */
export const FIRST_SPECK = 1e-4;

/** The black or white point at which only the first speck of the picture clips; null when no point within `range` does it. */
export function pointAtFirstSpeck(
  { counts }: ToneEnds,
  shape: Shape,
  end: "black" | "white",
  range: { readonly minimum: number; readonly maximum: number },
): number | null {
  const list = end === "black" ? [...counts] : [...counts].reverse();
  let passed = 0;
  const bin = list.findIndex((share) => (passed += share) >= FIRST_SPECK);
  if (bin < 0) return null;
  const stops =
    end === "black" ? LOWEST_COUNTED + (bin + 1) / BINS_PER_STOP : HIGHEST_COUNTED - (bin + 1) / BINS_PER_STOP;
  // The whole bin in which that share is reached.
  const field = end === "black" ? "blackPoint" : "whitePoint";
  const edge = (point: number) => clippingStops({ ...shape, [field]: point })[end];
  let [low, high] = [range.minimum, range.maximum];
  // What clips goes out with the point.
  if (edge(low) > stops || edge(high) < stops) return null;
  for (let i = 0; i < 24; i++) {
    const middle = (low + high) / 2;
    if (edge(middle) < stops) low = middle;
    else high = middle;
  }
  return Math.round(high * 100) / 100;
}
