import { luminanceToLightness } from "../colour/lab.ts";

/** What a print made of pixels of which it is known how much of each of two materials they hold. */
export interface MixtureTruth {
  /** Share of the first material, 0–1. */
  readonly coverage: Float32Array;
  /** Light that each material is to have at each pixel, as if it covered it wholly; 1.0 = white. */
  readonly first: Float32Array;
  readonly second: Float32Array;
  /** Pixels of a row. */
  readonly width: number;
}

/** How far light lies from the mixture of the materials' lights. */
export interface MixtureError {
  /** Over pixels of coverage 0.02–0.98: mean and 99th percentile of |ΔL*|. */
  readonly mean: number;
  readonly p99: number;
  /** Share of them that lie more than 3 L* beyond both greys, 0–1. */
  readonly beyond: number;
  /** Over pixels of one material: how far their mean lies from what it is to be, stops, the worse of the two. */
  readonly pureStops: number;
  /** The same over those of them that lie eight pixels or more from any mixture. */
  readonly flatStops: number;
  /** Number of mixed pixels. */
  readonly count: number;
}

/** Beyond both greys from here on, L*. */
const BEYOND = 3;
const MIXED = 0.02;
/** Pixels count as one material below this share of the other. */
const PURE = 0.001;
/** Pixels this far from any mixture are a flat area. */
const FLAT_PX = 8;
/** Fewer pixels than this are no area. */
const LEAST_AREA = 200;

/**
 * Judges a light against its truth.
 * @param light - of the same pixels; those that are not finite are left out.
 */
export function mixtureError(light: Float32Array, { coverage, first, second, width }: MixtureTruth): MixtureError {
  const lightness = (e: number) => luminanceToLightness(Math.min(1, Math.max(0, e)));
  const errors: number[] = [];
  let outside = 0;
  const far = farFromMixtures(coverage, width);
  const pure = [newSums(), newSums()];
  const flat = [newSums(), newSums()];
  coverage.forEach((share, i) => {
    if (!Number.isFinite(light[i])) return;
    const truth = share * first[i] + (1 - share) * second[i];
    if (share < PURE || share > 1 - PURE) {
      const side = share > 0.5 ? 1 : 0;
      add(pure[side], light[i], truth);
      if (far[i] === 1) add(flat[side], light[i], truth);
    }
    if (share < MIXED || share > 1 - MIXED) return;
    const found = lightness(light[i]);
    errors.push(Math.abs(found - lightness(truth)));
    const [a, b] = [lightness(first[i]), lightness(second[i])];
    if (found > Math.max(a, b) + BEYOND || found < Math.min(a, b) - BEYOND) outside++;
  });
  errors.sort((a, b) => a - b);
  const count = errors.length;
  return {
    mean: errors.reduce((sum, e) => sum + e, 0) / count,
    p99: errors[Math.floor(0.99 * (count - 1))],
    beyond: outside / count,
    pureStops: Math.max(...pure.map(stopsOf)),
    flatStops: Math.max(...flat.map(stopsOf)),
    count,
  };
}

function newSums() {
  return { light: 0, truth: 0, count: 0 };
}

function add(sums: ReturnType<typeof newSums>, light: number, truth: number): void {
  sums.light += light;
  sums.truth += truth;
  sums.count++;
}

function stopsOf({ light, truth, count }: ReturnType<typeof newSums>): number {
  return count < LEAST_AREA ? 0 : Math.abs(Math.log2(light / truth));
}

/** 1 where every pixel within `FLAT_PX` along rows and columns is of the one material. */
function farFromMixtures(coverage: Float32Array, width: number): Uint8Array {
  const spread = (mixed: Uint8Array, step: number, length: number, lines: readonly number[]) => {
    const out = new Uint8Array(mixed.length);
    for (const start of lines)
      for (let i = 0; i < length; i++)
        if (mixed[start + i * step] === 1)
          for (let j = Math.max(0, i - FLAT_PX + 1); j < Math.min(length, i + FLAT_PX); j++) out[start + j * step] = 1;
    return out;
  };
  const height = coverage.length / width;
  const mixed = Uint8Array.from(coverage, (share) => (share < PURE || share > 1 - PURE ? 0 : 1));
  const along = spread(
    mixed,
    1,
    width,
    Array.from({ length: height }, (_, y) => y * width),
  );
  const about = spread(
    along,
    width,
    height,
    Array.from({ length: width }, (_, x) => x),
  );
  return about.map((near) => 1 - near);
}
