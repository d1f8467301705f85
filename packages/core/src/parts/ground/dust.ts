/** A place that looks like dust. */
export interface DustSpot {
  /** Centre and radius, pixels. */
  readonly x: number;
  readonly y: number;
  readonly radius: number;
  /** How far it stands out, in deviations of the surroundings. */
  readonly strength: number;
}

/** Radii looked for, pixels of the picture handed in. */
const RADII = [2.2, 3.2, 4.6, 6.4, 8.6];
const LEAST_STRENGTH = 5;
/** Surroundings whose light varies by more than this share, gradients apart, are texture and no smooth area. */
const SMOOTH = 0.03;
const LEAST_CONTRAST = 0.02;
/** Share of the disc's mean difference that its weakest part has to show: dust is even, texture is not. */
const LEAST_EVENNESS = 0.3;
/** A spot stands out so many times as much as places around it usually do, these many radii away, in so many directions. */
const TIMES_USUAL = 6;
/** The same against three quarters of those that are smooth, which leave out the edges of things. */
const TIMES_MOST = 5;
const MOSTLY = 0.75;
const AROUND = { radii: [5, 8], directions: 16 } as const;
const MOST = 60;
type Offset = readonly [dx: number, dy: number];

/**
 * Finds dark (and light) round spots on smooth areas: the mean inside a disc against the mean of a ring around it, where
 * the ring, and a wider one, vary by little more than noise and agree; where many places stand out, such as in fur and sand, none of them
 * is a spot. Strongest first.
 * @param light - linear; rows of `width` values.
 */
export function findDust(light: Float32Array, width: number, height: number): DustSpot[] {
  const found: DustSpot[] = [];
  for (const radius of RADII) {
    const shape: Shape = {
      radius,
      disc: offsetsWithin(0, 0.7 * radius),
      ring: halfOf(offsetsWithin(1.6 * radius, 2.3 * radius)),
      wide: halfOf(offsetsWithin(3 * radius, 3.5 * radius)),
    };
    const step = Math.max(1, Math.floor(radius / 2));
    const border = Math.ceil(3.5 * radius) + 1;
    for (let y = border; y < height - border; y += step)
      for (let x = border; x < width - border; x += step) {
        const spot = judge(light, width, x, y, shape);
        if (spot) found.push(spot);
      }
  }
  found.sort((a, b) => b.strength - a.strength);
  const kept: DustSpot[] = [];
  for (const spot of found) {
    const near = kept.some(
      (other) => Math.hypot(other.x - spot.x, other.y - spot.y) < 2 * (other.radius + spot.radius),
    );
    if (!near) kept.push(spot);
    if (kept.length === MOST) break;
  }
  return kept;
}

interface Shape {
  readonly radius: number;
  readonly disc: readonly Offset[];
  /** One of each pair of opposite places: their mean knows no gradient. */
  readonly ring: readonly Offset[];
  readonly wide: readonly Offset[];
}

function judge(light: Float32Array, width: number, x: number, y: number, shape: Shape): DustSpot | null {
  const at = y * width + x;
  const centre = light[at];
  const [[dx, dy]] = shape.ring;
  const beside = (light[at + dy * width + dx] + light[at - dy * width - dx]) / 2;
  // Most places differ too little to be looked at closely.
  if (Math.abs(centre / beside - 1) < LEAST_CONTRAST / 2) return null;
  // Texture shows in a few pairs already.
  let least = beside;
  let most = beside;
  for (let i = 0, step = Math.max(1, shape.ring.length >> 3); i < shape.ring.length; i += step) {
    const [u, v] = shape.ring[i];
    const pair = (light[at + v * width + u] + light[at - v * width - u]) / 2;
    if (pair < least) least = pair;
    if (pair > most) most = pair;
    if (most - least > 3.5 * SMOOTH * most) return null;
  }
  const ring = level(light, width, at, shape.ring);
  if (!(ring.mean > 1e-4) || ring.deviation > SMOOTH * ring.mean) return null;
  const difference = meanOver(light, width, at, shape.disc) - ring.mean;
  const contrast = Math.abs(difference) / ring.mean;
  // The mean of the disc varies less than a pixel does. Dust darkens; what is lighter is more often a glint.
  const likely = difference < 0 ? 1 : 0.5;
  const strength =
    ((likely * Math.abs(difference)) / (ring.deviation + 0.004 * ring.mean)) *
    Math.min(2, Math.sqrt(shape.disc.length / 12));
  if (contrast < LEAST_CONTRAST || strength < LEAST_STRENGTH) return null;
  const wide = level(light, width, at, shape.wide);
  if (wide.deviation > 1.5 * SMOOTH * wide.mean || Math.abs(wide.mean - ring.mean) > 0.35 * Math.abs(difference))
    return null;
  for (const [u, v] of shape.disc)
    if ((light[at + v * width + u] - ring.mean) / difference < LEAST_EVENNESS) return null;
  if (contrast < asked(light, width, x, y, shape)) return null;
  return { x: x + 0.5, y: y + 0.5, radius: 1.2 * shape.radius, strength };
}

/** The contrast that is asked of a spot by what discs around it differ from their own rings. */
function asked(light: Float32Array, width: number, x: number, y: number, { radius, disc, ring }: Shape): number {
  const height = light.length / width;
  const border = Math.ceil(2.3 * radius);
  const [all, smooth]: number[][] = [[], []];
  for (const away of AROUND.radii)
    for (let k = 0; k < AROUND.directions; k++) {
      const turn = (2 * Math.PI * (k + away / 16)) / AROUND.directions;
      const [u, v] = [x + away * radius * Math.cos(turn), y + away * radius * Math.sin(turn)].map(Math.round);
      if (u < border || v < border || u >= width - border || v >= height - border) continue;
      const at = v * width + u;
      const { mean, deviation } = level(light, width, at, ring);
      if (!(mean > 0)) continue;
      const contrast = Math.abs(meanOver(light, width, at, disc) / mean - 1);
      all.push(contrast);
      if (deviation < SMOOTH * mean) smooth.push(contrast);
    }
  return Math.max(TIMES_USUAL * quantile(all, 0.5), TIMES_MOST * quantile(smooth, MOSTLY));
}

function quantile(values: number[], share: number): number {
  return values.sort((p, q) => p - q)[Math.floor(share * values.length)] ?? 0;
}

function meanOver(light: Float32Array, width: number, at: number, offsets: readonly Offset[]): number {
  let sum = 0;
  for (const [dx, dy] of offsets) sum += light[at + dy * width + dx];
  return sum / offsets.length;
}

/** Mean and deviation of the pairs of opposite places about one. */
function level(light: Float32Array, width: number, at: number, half: readonly Offset[]) {
  let sum = 0;
  let squares = 0;
  for (const [dx, dy] of half) {
    const v = (light[at + dy * width + dx] + light[at - dy * width - dx]) / 2;
    sum += v;
    squares += v * v;
  }
  const mean = sum / half.length;
  return { mean, deviation: Math.sqrt(2 * Math.max(0, squares / half.length - mean * mean)) };
}

function halfOf(offsets: readonly Offset[]): Offset[] {
  return offsets.filter(([x, y]) => y > 0 || (y === 0 && x > 0));
}

function offsetsWithin(least: number, most: number): Offset[] {
  const reach = Math.ceil(most);
  const out: Offset[] = [];
  for (let y = -reach; y <= reach; y++)
    for (let x = -reach; x <= reach; x++) {
      const d = Math.hypot(x, y);
      if (d >= least && d <= most) out.push([x, y]);
    }
  return out;
}
