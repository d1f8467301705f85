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
const RADII = [2, 3, 4.5, 6.5];
const LEAST_STRENGTH = 6;
/** Surroundings whose light varies by more than this share are texture, not a smooth area. */
const SMOOTH = 0.035;
const LEAST_CONTRAST = 0.012;
const MOST = 60;

/**
 * Finds dark (and light) round spots on smooth areas: the mean inside a disc against the mean of a ring around it, where
 * the ring itself is smooth and level. Strongest first.
 * @param light - linear; rows of `width` values.
 */
export function findDust(light: Float32Array, width: number, height: number): DustSpot[] {
  const found: DustSpot[] = [];
  for (const radius of RADII) {
    const disc = offsetsWithin(0, 0.8 * radius);
    const ring = offsetsWithin(1.6 * radius, 2.4 * radius);
    const step = Math.max(1, Math.floor(radius / 2));
    const border = Math.ceil(2.4 * radius) + 1;
    for (let y = border; y < height - border; y += step)
      for (let x = border; x < width - border; x += step) {
        const spot = judge(light, width, x, y, radius, disc, ring);
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

function judge(
  light: Float32Array,
  width: number,
  x: number,
  y: number,
  radius: number,
  disc: readonly (readonly [number, number])[],
  ring: readonly (readonly [number, number])[],
): DustSpot | null {
  const centre = light[y * width + x];
  const at = ([dx, dy]: readonly [number, number]) => light[(y + dy) * width + x + dx];
  // Most places differ too little to be looked at closely.
  const [first] = ring;
  if (Math.abs(centre / at(first) - 1) < LEAST_CONTRAST) return null;
  // Nor is anything rough around the place.
  let least = Infinity;
  let most = 0;
  for (let i = 0; i < ring.length; i += Math.max(1, ring.length >> 3)) {
    const v = at(ring[i]);
    least = Math.min(least, v);
    most = Math.max(most, v);
  }
  if (most - least > 5 * SMOOTH * most) return null;
  let sum = 0;
  let squares = 0;
  for (const offset of ring) {
    const v = at(offset);
    sum += v;
    squares += v * v;
  }
  const mean = sum / ring.length;
  if (!(mean > 1e-4)) return null;
  const deviation = Math.sqrt(Math.max(0, squares / ring.length - mean * mean));
  if (deviation > SMOOTH * mean) return null;
  const inside = disc.reduce((total, offset) => total + at(offset), 0) / disc.length;
  const contrast = Math.abs(inside / mean - 1);
  const strength = Math.abs(inside - mean) / (deviation + 0.004 * mean);
  if (contrast < LEAST_CONTRAST || strength < LEAST_STRENGTH / Math.sqrt(disc.length / 12)) return null;
  return { x: x + 0.5, y: y + 0.5, radius: 1.3 * radius, strength };
}

function offsetsWithin(least: number, most: number): [number, number][] {
  const reach = Math.ceil(most);
  const out: [number, number][] = [];
  for (let y = -reach; y <= reach; y++)
    for (let x = -reach; x <= reach; x++) {
      const d = Math.hypot(x, y);
      if (d >= least && d <= most) out.push([x, y]);
    }
  return out;
}
