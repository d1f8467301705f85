import { workingToOklab } from "../colour/oklab.ts";
import { boxMeans } from "../maths/box-means.ts";
import type { Size } from "../maths/rect.ts";

/** A picture of linear working colour, three planes of width·height. */
export interface PlanarPicture extends Size {
  readonly planes: readonly [Float32Array, Float32Array, Float32Array];
}

/** Numbers that say what a superpixel looks like: OKLab L, a, b as weighted, and its texture. */
export const FEATURES = 4;
/** Hue tells materials apart more surely than light and shade. */
const COLOUR_WEIGHT = 2.5;
/** A ten times rougher texture counts as so much lightness. */
const TEXTURE_WEIGHT = 0.12;
/** Unevenness of lightness below which everything is smooth. */
const SMOOTH = 0.004;
/** Share of the patches that are smoothest, and the most that is taken for noise. */
const SMOOTHEST = 0.05;
const MOST_NOISE = 0.05;
/** Wanted superpixels, and how much a step of its own width counts against colour. */
const WANTED = 2200;
/** A patch has at least so many pixels. */
const LEAST_PIXELS = 60;
const COMPACTNESS = 0.09;
const ROUNDS = 5;
/** Half window over which colours are averaged before they are clustered, pixels: so that noise has no say in where patches lie. */
const CALM = 1;

/** Patches of pixels of one colour that keep to the picture's edges. */
export interface Superpixels extends Size {
  readonly count: number;
  /** The patch of each pixel. */
  readonly labels: Int32Array;
  /** Pixels of each patch. */
  readonly sizes: Float32Array;
  /** {@link FEATURES} numbers a patch. */
  readonly features: Float32Array;
  /** Middle of each patch, pixels. */
  readonly xs: Float32Array;
  readonly ys: Float32Array;
  /** Neighbours: patches `from[i]` < `to[i]` share `lengths[i]` pixel sides. */
  readonly from: Int32Array;
  readonly to: Int32Array;
  readonly lengths: Float32Array;
}

/**
 * Simple linear iterative clustering in OKLab (SLIC: Achanta et al. 2012), loose pieces given to what surrounds them.
 * @param shift - by what share of a patch its first middles lie aside, across and down: another one gives another cut of the same
 * picture, and what holds in several does not hang on where patches happened to lie.
 */
export function superpixels(picture: PlanarPicture, shift: readonly [number, number] = [0, 0]): Superpixels {
  const { width, height } = picture;
  const { lab, texture, calm } = looksOf(picture);
  const labels = joinedLabels(cluster(calm, width, height, shift), width, height);
  return measured(labels, lab, texture, width, height);
}

interface Looks {
  readonly lab: Lab;
  readonly texture: Float32Array;
  /** Colours without their noise. */
  readonly calm: Lab;
}
const looks = new WeakMap<PlanarPicture, Looks>();

/** What a picture is cut by, kept for its next cut. */
function looksOf(picture: PlanarPicture): Looks {
  let found = looks.get(picture);
  if (!found) {
    const { width, height } = picture;
    const lab = toLab(picture);
    const calm = lab.map((plane) => boxMeans(plane, width, height, CALM)) as unknown as Lab;
    looks.set(picture, (found = { lab, texture: unevenness(lab[0], width, height), calm }));
  }
  return found;
}

/** A picture's colours as they are compared. */
export function coloursOf(picture: PlanarPicture): Lab {
  return looksOf(picture).lab;
}

const wanted = (width: number, height: number) => Math.max(1, Math.min(WANTED, (width * height) / LEAST_PIXELS));

/** OKLab, hue and saturation weighted. */
export type Lab = readonly [Float32Array, Float32Array, Float32Array];

function toLab({ planes: [red, green, blue], width, height }: PlanarPicture): Lab {
  const n = width * height;
  const lab: Lab = [new Float32Array(n), new Float32Array(n), new Float32Array(n)];
  for (let i = 0; i < n; i++) {
    const [l, a, b] = workingToOklab([Math.max(0, red[i]), Math.max(0, green[i]), Math.max(0, blue[i])]);
    lab[0][i] = l;
    lab[1][i] = COLOUR_WEIGHT * a;
    lab[2][i] = COLOUR_WEIGHT * b;
  }
  return lab;
}

/** Logarithm of the mean step of lightness about each pixel, as a feature. */
function unevenness(light: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const right = Math.abs(light[i] - light[x + 1 < width ? i + 1 : i]);
      const below = Math.abs(light[i] - light[y + 1 < height ? i + width : i]);
      out[i] = right + below;
    }
  return out;
}

function cluster(lab: Lab, width: number, height: number, [aside, below]: readonly [number, number]): Int32Array {
  const [l, a, b] = lab;
  const step = Math.sqrt((width * height) / wanted(width, height));
  const [across, down] = [Math.max(1, Math.round(width / step)), Math.max(1, Math.round(height / step))];
  const count = across * down;
  const middles = new Float64Array(5 * count);
  for (let k = 0; k < count; k++) {
    const x = Math.min(width - 1, Math.floor(((k % across) + 0.5 + aside) * (width / across)));
    const y = Math.min(height - 1, Math.floor((Math.floor(k / across) + 0.5 + below) * (height / down)));
    const i = y * width + x;
    middles.set([l[i], a[i], b[i], x, y], 5 * k);
  }
  const labels = new Int32Array(width * height);
  const nearest = new Float32Array(width * height);
  const place = (COMPACTNESS / step) ** 2;
  for (let round = 0; round < ROUNDS; round++) {
    nearest.fill(Infinity);
    for (let k = 0; k < count; k++) claim(lab, width, height, labels, nearest, k, middles, step, place);
    middles.fill(0);
    const sizes = new Float64Array(count);
    for (let y = 0, i = 0; y < height; y++)
      for (let x = 0; x < width; x++, i++) {
        const at = 5 * labels[i];
        middles[at] += l[i];
        middles[at + 1] += a[i];
        middles[at + 2] += b[i];
        middles[at + 3] += x;
        middles[at + 4] += y;
        sizes[labels[i]]++;
      }
    for (let k = 0; k < count; k++)
      for (let c = 0; c < 5; c++) middles[5 * k + c] = sizes[k] > 0 ? middles[5 * k + c] / sizes[k] : -1e6;
  }
  return labels;
}

/** Gives a middle the pixels about it that are nearer to it than to any before. */
function claim(
  [l, a, b]: Lab,
  width: number,
  height: number,
  labels: Int32Array,
  nearest: Float32Array,
  k: number,
  middles: Float64Array,
  step: number,
  place: number,
): void {
  const at = 5 * k;
  const ml = middles[at];
  const ma = middles[at + 1];
  const mb = middles[at + 2];
  const mx = middles[at + 3];
  const my = middles[at + 4];
  const x0 = Math.max(0, Math.floor(mx - step));
  const x1 = Math.min(width - 1, Math.ceil(mx + step));
  const y1 = Math.min(height - 1, Math.ceil(my + step));
  for (let y = Math.max(0, Math.floor(my - step)); y <= y1; y++) {
    const below = place * (y - my) * (y - my);
    for (let x = x0, i = y * width + x0; x <= x1; x++, i++) {
      const dl = l[i] - ml;
      const da = a[i] - ma;
      const db = b[i] - mb;
      const dx = x - mx;
      const d = dl * dl + da * da + db * db + place * dx * dx + below;
      if (d < nearest[i]) {
        nearest[i] = d;
        labels[i] = k;
      }
    }
  }
}

/** Every connected piece a patch of its own; pieces too small go to the one before them. */
function joinedLabels(labels: Int32Array, width: number, height: number): Int32Array {
  const least = (width * height) / wanted(width, height) / 5;
  const out = new Int32Array(labels.length).fill(-1);
  const queue = new Int32Array(labels.length);
  let count = 0;
  for (let start = 0; start < labels.length; start++) {
    if (out[start] >= 0) continue;
    let before = -1;
    let [head, tail] = [0, 0];
    queue[tail++] = start;
    out[start] = count;
    while (head < tail) {
      const i = queue[head++];
      const x = i % width;
      for (const j of [x > 0 ? i - 1 : -1, x + 1 < width ? i + 1 : -1, i - width, i + width]) {
        if (j < 0 || j >= labels.length) continue;
        if (out[j] < 0 && labels[j] === labels[i]) {
          out[j] = count;
          queue[tail++] = j;
        } else if (out[j] >= 0 && out[j] !== count) before = out[j];
      }
    }
    if (tail < least && before >= 0) for (let q = 0; q < tail; q++) out[queue[q]] = before;
    else count++;
  }
  return out;
}

function measured(labels: Int32Array, lab: Lab, texture: Float32Array, width: number, height: number): Superpixels {
  const count = labels.reduce((most, label) => Math.max(most, label), 0) + 1;
  const sizes = new Float32Array(count);
  const sums = new Float64Array(6 * count);
  const sides = new Map<number, number>();
  const meet = (i: number, j: number) => {
    const [p, q] = [labels[i], labels[j]];
    if (p === q) return;
    const key = Math.min(p, q) * count + Math.max(p, q);
    sides.set(key, (sides.get(key) ?? 0) + 1);
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const at = 6 * labels[i];
      sizes[labels[i]]++;
      sums[at] += lab[0][i];
      sums[at + 1] += lab[1][i];
      sums[at + 2] += lab[2][i];
      sums[at + 3] += texture[i];
      sums[at + 4] += x;
      sums[at + 5] += y;
      if (x + 1 < width) meet(i, i + 1);
      if (y + 1 < height) meet(i, i + width);
    }
  const rough = Float64Array.from({ length: count }, (_, k) => sums[6 * k + 3] / sizes[k]);
  // The smoothest patches show the picture's noise, which is none of any texture.
  const noise = Math.min(MOST_NOISE, [...rough].sort((p, q) => p - q)[Math.floor(SMOOTHEST * (count - 1))]);
  const features = new Float32Array(FEATURES * count);
  const [xs, ys] = [new Float32Array(count), new Float32Array(count)];
  for (let k = 0; k < count; k++) {
    for (let c = 0; c < 3; c++) features[FEATURES * k + c] = sums[6 * k + c] / sizes[k];
    features[FEATURES * k + 3] = TEXTURE_WEIGHT * Math.log10(SMOOTH + Math.max(0, rough[k] - noise));
    xs[k] = sums[6 * k + 4] / sizes[k];
    ys[k] = sums[6 * k + 5] / sizes[k];
  }
  const pairs = [...sides.keys()].sort((p, q) => p - q);
  return {
    width,
    height,
    count,
    labels,
    sizes,
    features,
    xs,
    ys,
    from: Int32Array.from(pairs, (key) => Math.floor(key / count)),
    to: Int32Array.from(pairs, (key) => key % count),
    lengths: Float32Array.from(pairs, (key) => sides.get(key)!),
  };
}

/** Distance between what two patches look like. */
export function difference({ features }: Superpixels, p: number, q: number): number {
  let sum = 0;
  for (let c = 0; c < FEATURES; c++) sum += (features[FEATURES * p + c] - features[FEATURES * q + c]) ** 2;
  return Math.sqrt(sum);
}
