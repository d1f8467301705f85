import { boxMeans } from "../maths/box-means.ts";
import type { Size } from "../maths/rect.ts";
import { luminanceToLightness } from "../colour/lab.ts";

/** A place that draws the eye. */
export interface Pull {
  /** Middle, 0–1 of the frame from the left and the top. */
  readonly x: number;
  readonly y: number;
  /** Strength beside the strongest, 0–1. */
  readonly strength: number;
  /** Contrast against what is around it, L*. */
  readonly contrast: number;
  /** Its own lightness, L*. */
  readonly lightness: number;
  /** Its place by a second opinion, 1 the first; null when that sees nothing there. */
  readonly second: number | null;
}

/** A print as squinting eyes see it. */
export interface Squint extends Size {
  /** Lightness, L*, row by row. */
  readonly seen: Float32Array;
  /** The strongest pulls, the strongest first. */
  readonly pulls: readonly Pull[];
}

/** Spread of what squinting eyes leave, as a share of the diagonal seen from a diagonal away, about two thirds of a degree. */
const EYE_BLUR = 0.012;
/** How much wider the surroundings are that a place stands out of. */
const AROUND = 5;
/** Two pulls lie at least so many spreads of the surroundings apart. */
const APART = 1.1;
/** What is weaker than this share of the strongest pulls nobody. */
const LEAST = 0.25;
const MOST_PULLS = 7;
/** Less contrast than this is unseen, L*. */
const LEAST_CONTRAST = 2;

/**
 * Where the eye goes: lightness blurred as by squinting; what is light and stands out of its surroundings pulls, as the product of
 * both. A second opinion ranks by the distance from the picture's mean alone (frequency-tuned saliency: Achanta et al. 2009).
 * @param reflectance - of the whole print, small, without grain; row by row.
 * @param distance - of the viewer, in diagonals of the print.
 */
export function squint(reflectance: ArrayLike<number>, { width, height }: Size, distance = 1): Squint {
  const lightness = Float32Array.from(reflectance, (r) => luminanceToLightness(Math.min(1, Math.max(0, r))));
  const sigma = Math.max(0.6, EYE_BLUR * distance * Math.hypot(width, height));
  const seen = blurred(lightness, width, height, sigma);
  const around = blurred(seen, width, height, AROUND * sigma);
  const mean = seen.reduce((sum, v) => sum + v, 0) / seen.length;
  const pull = seen.map((v, i) => Math.abs(v - around[i]) * (0.15 + v / 100));
  const other = seen.map((v) => Math.abs(v - mean));
  const room = APART * AROUND * sigma;
  const first = peaks(pull, width, height, room);
  const second = peaks(other, width, height, room);
  const strongest = first[0] === undefined ? 0 : pull[first[0]];
  const pulls = first
    .filter((i) => pull[i] >= LEAST * strongest && Math.abs(seen[i] - around[i]) > LEAST_CONTRAST)
    .slice(0, MOST_PULLS)
    .map((i): Pull => {
      const [x, y] = [i % width, Math.floor(i / width)];
      const at = second.findIndex((j) => Math.hypot((j % width) - x, Math.floor(j / width) - y) < room);
      return {
        x: (x + 0.5) / width,
        y: (y + 0.5) / height,
        strength: pull[i] / strongest,
        contrast: seen[i] - around[i],
        lightness: seen[i],
        second: at < 0 ? null : at + 1,
      };
    });
  return { width, height, seen, pulls };
}

/** Places of local greatness, the greatest first, none nearer to a greater one than `room`. */
function peaks(values: Float32Array, width: number, height: number, room: number): number[] {
  const tops: number[] = [];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      let isTop = true;
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1) && isTop; v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1) && isTop; u++)
          if (values[v * width + u] > values[i]) isTop = false;
      if (isTop) tops.push(i);
    }
  tops.sort((p, q) => values[q] - values[p]);
  const kept: number[] = [];
  for (const i of tops) {
    const [x, y] = [i % width, Math.floor(i / width)];
    if (kept.every((j) => Math.hypot((j % width) - x, Math.floor(j / width) - y) >= room)) kept.push(i);
    if (kept.length > 2 * MOST_PULLS) break;
  }
  return kept;
}

/** A Gaussian as three boxes in a row; borders are repeated. */
function blurred(values: Float32Array, width: number, height: number, sigma: number): Float32Array {
  const radius = Math.max(1, Math.round((Math.sqrt(4 * sigma * sigma + 1) - 1) / 2));
  let out = values;
  for (let pass = 0; pass < 3; pass++) out = boxMeans(out, width, height, radius);
  return out;
}
