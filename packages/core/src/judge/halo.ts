import { boxMeans } from "../maths/box-means.ts";

/** What stands about the edges of a print that its tones alone do not make. */
export interface Halo {
  /** By how much the light side is lightened and the dark side darkened toward the edge, L*, together. */
  readonly lightness: number;
  /** Where it is strongest, 0–1. */
  readonly x: number;
  readonly y: number;
}

/** Shares of the long edge: how far from an edge is near, and how far is far. */
const NEAR = 0.009;
const FAR = 0.045;
/** A step this large, L*, is an edge about which a halo shows. */
const LEAST_STEP = 14;
/** The halo is that of the worst edges: this share of them is worse. */
const WORST = 0.08;
/** Fewer edges than this, shares of the pixels, tell nothing. */
const LEAST_EDGES = 0.0008;
/** Sides that print as near to each other as this, L*, such as two blown ones, are to be changed evenly each by itself. */
const AS_ONE = 4;

/**
 * Halos of a print against the same print without anything spatial. Tones alone change both sides of an edge evenly; what changes more
 * near the edge than away from it, and opposite ways on its two sides, is a halo.
 * @param print - L*, row by row.
 * @param plain - the same of the print without spatial work.
 * @param guide - the same of the picture in which the edges are found, where the print has lost them: blown, or in black.
 * @returns null when there are too few edges to tell.
 */
export function measureHalo(
  print: Float32Array,
  plain: Float32Array,
  width: number,
  height: number,
  guide = plain,
): Halo | null {
  const edge = Math.max(width, height);
  const near = Math.max(2, Math.round(NEAR * edge));
  const far = Math.max(near + 3, Math.round(FAR * edge));
  const soft = boxMeans(plain, width, height, 2);
  const edges = guide === plain ? soft : boxMeans(guide, width, height, 2);
  const change = boxMeans(
    print.map((v, i) => v - plain[i]),
    width,
    height,
    1,
  );
  const found: { halo: number; i: number }[] = [];
  const inside = (x: number, y: number) => x >= 0 && y >= 0 && x < width && y < height;
  for (let y = 2; y < height - 2; y += 2)
    for (let x = 2; x < width - 2; x += 2) {
      const i = y * width + x;
      const [gx, gy] = [edges[i + 2] - edges[i - 2], edges[i + 2 * width] - edges[i - 2 * width]];
      const slope = Math.hypot(gx, gy);
      if (slope < LEAST_STEP / 3) continue;
      const [ux, uy] = [gx / slope, gy / slope];
      const at = (distance: number) => {
        const [px, py] = [Math.round(x + ux * distance), Math.round(y + uy * distance)];
        return inside(px, py) ? py * width + px : -1;
      };
      const [lightNear, lightFar, darkNear, darkFar] = [near, far, -near, -far].map(at);
      if (lightFar < 0 || darkFar < 0) continue;
      // Both sides have to be even on their own, or else what is compared is not one thing.
      const step = edges[lightNear] - edges[darkNear];
      if (step < LEAST_STEP) continue;
      if (
        Math.abs(edges[lightNear] - edges[lightFar]) > 0.4 * step ||
        Math.abs(edges[darkNear] - edges[darkFar]) > 0.4 * step
      )
        continue;
      // What tones alone make of a place follows from its own lightness, between those of the two sides.
      const span = soft[lightFar] - soft[darkFar];
      const byTones = (at: number, far: number) =>
        Math.abs(span) < AS_ONE
          ? change[far]
          : change[darkFar] + ((change[lightFar] - change[darkFar]) * (soft[at] - soft[darkFar])) / span;
      const halo = change[lightNear] - byTones(lightNear, lightFar) - (change[darkNear] - byTones(darkNear, darkFar));
      found.push({ halo, i });
    }
  if (found.length < LEAST_EDGES * width * height) return null;
  found.sort((p, q) => q.halo - p.halo);
  const { halo, i } = found[Math.floor(WORST * found.length)];
  return { lightness: halo, x: ((i % width) + 0.5) / width, y: (Math.floor(i / width) + 0.5) / height };
}
