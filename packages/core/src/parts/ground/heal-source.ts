/** Directions and distances at which a source is looked for, in radii of the spot. */
const DIRECTIONS = 24;
const DISTANCES = [2.4, 3.2, 4.4, 6];

/** A spot on a small picture of its surroundings, pixels. */
export interface SpotPlace {
  readonly points: readonly (readonly [number, number])[];
  readonly radius: number;
}

/**
 * The place whose surroundings are most like those of a spot: the ring around the spot is compared with the ring around
 * each candidate, after their means were made equal, and rough texture inside a candidate counts against it.
 * @param light - rows of `width` values around the spot.
 * @param avoid - other spots, which are no good sources.
 * @returns the offset from the spot to its source, pixels.
 */
export function findHealSource(
  light: Float32Array,
  width: number,
  height: number,
  spot: SpotPlace,
  avoid: readonly SpotPlace[] = [],
): [x: number, y: number] {
  const ring = ringAround(spot);
  let best: [number, number] = [Math.round(3 * spot.radius), 0];
  let least = Infinity;
  for (const distance of DISTANCES)
    for (let i = 0; i < DIRECTIONS; i++) {
      const angle = (2 * Math.PI * i) / DIRECTIONS;
      const dx = Math.round(Math.cos(angle) * distance * spot.radius);
      const dy = Math.round(Math.sin(angle) * distance * spot.radius);
      const inside = ([x, y]: readonly [number, number]) =>
        x + dx >= 1 && y + dy >= 1 && x + dx < width - 1 && y + dy < height - 1;
      if (!ring.every(inside) || overlaps(spot, dx, dy, avoid)) continue;
      const cost = compare(light, width, height, ring, spot, dx, dy) * (1 + 0.02 * distance);
      if (cost >= least) continue;
      least = cost;
      best = [dx, dy];
    }
  return best;
}

function compare(
  light: Float32Array,
  width: number,
  height: number,
  ring: readonly (readonly [number, number])[],
  { points, radius }: SpotPlace,
  dx: number,
  dy: number,
): number {
  let sum = 0;
  let squares = 0;
  let count = 0;
  for (const [x, y] of ring) {
    if (x < 0 || y < 0 || x >= width || y >= height) continue;
    const d = light[y * width + x] - light[(y + dy) * width + x + dx];
    sum += d;
    squares += d * d;
    count++;
  }
  if (count === 0) return Infinity;
  const mean = sum / count;
  const unlike = Math.sqrt(Math.max(0, squares / count - mean * mean)) + 0.15 * Math.abs(mean);
  // Something that stands in the middle of the source would be copied along.
  let rough = 0;
  for (const [px, py] of points) {
    const around = [[0, 0], [0.5, 0], [-0.5, 0], [0, 0.5], [0, -0.5]].map(([u, v]) => {
      const x = Math.min(width - 1, Math.max(0, Math.round(px + u * radius) + dx));
      const y = Math.min(height - 1, Math.max(0, Math.round(py + v * radius) + dy));
      return light[y * width + x];
    }); // prettier-ignore
    rough += (Math.max(...around) - Math.min(...around)) / points.length;
  }
  return unlike + 0.35 * rough;
}

function ringAround({ points, radius }: SpotPlace): [number, number][] {
  const ring: [number, number][] = [];
  const samples = Math.max(12, Math.round(8 * radius));
  for (const reach of [1.15, 1.5])
    for (const [px, py] of points)
      for (let i = 0; i < samples; i++) {
        const angle = (2 * Math.PI * i) / samples;
        const x = px + reach * radius * Math.cos(angle);
        const y = py + reach * radius * Math.sin(angle);
        if (points.some(([qx, qy]) => Math.hypot(x - qx, y - qy) < 1.05 * radius)) continue;
        ring.push([Math.round(x), Math.round(y)]);
      }
  return ring;
}

function overlaps(spot: SpotPlace, dx: number, dy: number, avoid: readonly SpotPlace[]): boolean {
  const hits = (other: SpotPlace, own: boolean) =>
    spot.points.some(([x, y]) =>
      other.points.some(([u, v]) => Math.hypot(x + dx - u, y + dy - v) < spot.radius + other.radius * (own ? 1 : 1.05)),
    );
  return hits(spot, true) || avoid.some((other) => hits(other, false));
}
