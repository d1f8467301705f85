import { REC2020 } from "../../colour/rgb-space.ts";

/** Fall-off found in a picture. */
export interface FallOff {
  /** Stops that the corners have lost; never negative. */
  readonly stops: number;
  /** 0–1: how well the four quarters of the picture agree. */
  readonly agreement: number;
}

/** Gradients steeper than this, stops a half diagonal, belong to the subject. */
const STEEPEST = 6;
const PASSES = 12;
const DARKEST = 2e-3;
const LIGHTEST = 0.9;

/**
 * The fall-off stops·r² in a picture, from one frame: without a lens, light is as likely to rise towards the corners as to
 * fall, so the median of its radial gradients is that of the lens (radial gradient symmetry, Zheng et al. 2008).
 * @param planes - linear working colour of the whole, uncropped negative; width·height values each.
 */
export function measureFallOff(planes: readonly Float32Array[], width: number, height: number): FallOff {
  const [r, g, b] = REC2020.luminance;
  const stops = Float64Array.from(planes[0], (red, i) => {
    const light = r * red + g * planes[1][i] + b * planes[2][i];
    return light > DARKEST && light < LIGHTEST ? Math.log2(light) : NaN;
  });
  const radius = Math.hypot(width, height) / 2;
  let found = quartersAbout(stops, width, height, radius, 0);
  let best = 0;
  // What counts as steep is judged after the fall-off found so far is given back, else strong ones would be missed.
  for (let pass = 0; pass < PASSES; pass++) {
    best = weightedMedian(found.flat());
    found = quartersAbout(stops, width, height, radius, best);
  }
  const each = found.map(weightedMedian);
  const spread = Math.max(...each) - Math.min(...each);
  return { stops: Math.max(0, best), agreement: best > 0 ? Math.max(0, 1 - spread / (best + 0.5)) : 0 };
}

type Quarter = [stops: number, weight: number][];

/** Fall-off that each calm pixel asks for, by the picture's quarters. */
function quartersAbout(stops: Float64Array, width: number, height: number, radius: number, given: number): Quarter[] {
  const quarters: Quarter[] = [[], [], [], []];
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const u = (x + 0.5 - width / 2) / radius;
      const v = (y + 0.5 - height / 2) / radius;
      const distance = Math.hypot(u, v);
      if (distance < 0.15) continue;
      // The gradient of -s·r² is -2·s·(u, v).
      const dx = ((stops[i + 1] - stops[i - 1]) / 2) * radius + 2 * given * u;
      const dy = ((stops[i + width] - stops[i - width]) / 2) * radius + 2 * given * v;
      if (!(Math.hypot(dx, dy) < STEEPEST)) continue;
      const slope = (dx * u + dy * v) / distance;
      quarters[(u > 0 ? 1 : 0) + (v > 0 ? 2 : 0)].push([given - slope / (2 * distance), distance * distance]);
    }
  return quarters;
}

function weightedMedian(values: readonly (readonly [number, number])[]): number {
  const sorted = [...values].sort((a, b) => a[0] - b[0]);
  const half = sorted.reduce((sum, [, weight]) => sum + weight, 0) / 2;
  let sum = 0;
  for (const [value, weight] of sorted) {
    sum += weight;
    if (sum >= half) return value;
  }
  return 0;
}
