import type { Vector3 } from "../colour/matrix.ts";
import type { Mosaic } from "./mosaic.ts";

/**
 * How the variance of a sensor site depends on its signal, for red, green and blue: slope · signal + offset (photon and
 * read noise), both in units of sensor white before white balance.
 */
export interface NoiseModel {
  readonly slope: Vector3;
  readonly offset: Vector3;
  /** Stated by the file, or measured from the picture. */
  readonly source: "file" | "measured";
}

/** Sites of one colour along an edge of a patch that is measured. */
const PATCH = 14;
const MAXIMUM_PATCHES = 12_000;
const BINS = 20;
/** Of the patches of a tone, the calmest share is taken for flat… */
const CALM_SHARE = 0.12;
/** …and as the calmest of flat patches are calmer than the mean by chance, their deviation is raised by this. */
const CALM_BIAS = 1.16;
const LEAST_IN_BIN = 12;

/** The model that a file's noise profile states: one pair, or one for each colour; null when it is none. */
export function noiseOfProfile(profile: readonly number[] | null): NoiseModel | null {
  if (!profile || (profile.length !== 2 && profile.length !== 6)) return null;
  if (!profile.every((v) => Number.isFinite(v) && v >= 0) || !profile.some((v) => v > 0)) return null;
  const pick = (i: number): Vector3 => [
    profile[i],
    profile[(2 + i) % profile.length],
    profile[(4 + i) % profile.length],
  ];
  return { slope: pick(0), offset: pick(1), source: "file" };
}

/**
 * Measures the model from the picture (photon transfer: variance against mean over flat patches, Janesick 2007). In each
 * tone the calmest patches are taken for flat; their variance comes from second differences, so that gradients do not
 * count. Null when the picture has too few flat patches for a line.
 */
export function measureNoise(mosaic: Mosaic): NoiseModel | null {
  const channels = [0, 1, 2].map((channel) => fitChannel(patchesOf(mosaic, channel)));
  if (channels.some((line) => line === null)) return null;
  const [r, g, b] = channels as [number, number][];
  return { slope: [r[0], g[0], b[0]], offset: [r[1], g[1], b[1]], source: "measured" };
}

/** The model after the channels were multiplied by `gains`. */
export function scaleNoise({ slope, offset, source }: NoiseModel, gains: Vector3): NoiseModel {
  const scale = (v: Vector3, power: number): Vector3 => [
    v[0] * gains[0] ** power,
    v[1] * gains[1] ** power,
    v[2] * gains[2] ** power,
  ];
  return { slope: scale(slope, 1), offset: scale(offset, 2), source };
}

interface Patch {
  readonly mean: number;
  readonly variance: number;
}

function patchesOf({ data, stride, left, top, width, height, phase, black, white }: Mosaic, channel: number): Patch[] {
  const span = 2 * PATCH;
  const columns = Math.floor(width / span);
  const rows = Math.floor(height / span);
  const step = Math.max(1, Math.ceil(Math.sqrt((columns * rows) / MAXIMUM_PATCHES)));
  // Green has two sites a cell; the one in the red rows stands for both.
  const x0 = channel === 0 ? phase.redX : 1 - phase.redX;
  const y0 = channel === 2 ? 1 - phase.redY : phase.redY;
  const level = black[2 * y0 + x0];
  const scale = 1 / (white - level);
  const patches: Patch[] = [];
  for (let row = 0; row < rows; row += step)
    for (let column = 0; column < columns; column += step) {
      const from = (top + row * span + y0) * stride + left + column * span + x0;
      let sum = 0;
      let squares = 0;
      let most = 0;
      for (let v = 0; v < PATCH; v++)
        for (let u = 0; u < PATCH; u++) {
          const at = from + 2 * v * stride + 2 * u;
          const value = data[at];
          sum += value;
          if (value > most) most = value;
          if (u === 0 || v === 0 || u === PATCH - 1 || v === PATCH - 1) continue;
          // The mixed second difference: zero for any sum of a function of x and one of y.
          const d =
            4 * value -
            2 * (data[at - 2] + data[at + 2] + data[at - 2 * stride] + data[at + 2 * stride]) +
            data[at - 2 * stride - 2] + data[at - 2 * stride + 2] + data[at + 2 * stride - 2] + data[at + 2 * stride + 2]; // prettier-ignore
          squares += d * d;
        }
      if (most >= white) continue;
      const mean = (sum / PATCH ** 2 - level) * scale;
      patches.push({ mean, variance: (squares / (36 * (PATCH - 2) ** 2)) * scale * scale });
    }
  return patches;
}

/** Slope and offset by weighted least squares over tones, neither negative. */
function fitChannel(patches: readonly Patch[]): [slope: number, offset: number] | null {
  const bins = Array.from({ length: BINS }, () => [] as Patch[]);
  for (const patch of patches) {
    const tone = Math.floor((BINS * Math.log2(Math.max(patch.mean, 2 ** -12) * 2 ** 12)) / 12);
    bins[Math.min(BINS - 1, tone)].push(patch);
  }
  const points = bins
    .filter((bin) => bin.length >= LEAST_IN_BIN)
    .map((bin) => {
      const calm = bin
        .toSorted((a, b) => a.variance - b.variance)
        .slice(0, Math.max(3, Math.round(CALM_SHARE * bin.length)));
      const mean = calm.reduce((sum, p) => sum + p.mean, 0) / calm.length;
      const variance = (CALM_BIAS * calm.reduce((sum, p) => sum + p.variance, 0)) / calm.length;
      return { x: mean, y: variance, weight: calm.length / Math.max(1e-18, variance ** 2) };
    });
  if (points.length < 2) return null;
  let sw = 0, sx = 0, sy = 0, sxx = 0, sxy = 0; // prettier-ignore
  for (const { x, y, weight } of points) {
    sw += weight;
    sx += weight * x;
    sy += weight * y;
    sxx += weight * x * x;
    sxy += weight * x * y;
  }
  const slope = (sw * sxy - sx * sy) / (sw * sxx - sx * sx);
  const offset = (sy - slope * sx) / sw;
  if (slope > 0 && offset >= 0) return [slope, offset];
  if (slope > 0) return [sxy / sxx, 0];
  return [0, Math.max(0, sy / sw)];
}
