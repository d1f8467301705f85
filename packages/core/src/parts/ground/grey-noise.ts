import { MIDDLE_GREY } from "../../colour/stops.ts";
import type { CaptureInfo } from "../../raw/capture-info.ts";
import { invert3, transform3, transpose3, type Vector3 } from "../../colour/matrix.ts";
import { luminanceOf, REC2020 } from "../../colour/rgb-space.ts";
import { CHROMA_NOISE_LEFT } from "../../raw/chroma-smoothing.ts";
import { cameraToWorking } from "../../raw/camera-matrix.ts";
import { balanceGains } from "../../raw/mosaic.ts";
import { scaleNoise } from "../../raw/noise-model.ts";

/** Variance of a grey value = slope · light + offset, 1.0 = sensor white. */
export interface GreyNoise {
  readonly slope: number;
  readonly offset: number;
}

/** Variance of a demosaiced pixel's luminance over that of independent channels; measured on flat charts. */
const DEMOSAICED = 0.955;
/** Deviation of colour differences after demosaicing, which smooths them, over that of independent channels; likewise. */
const DEMOSAICED_COLOUR = 0.42;

/** Noise of plain luminance in the tiles; null when the capture's noise is not known. */
export function luminanceNoise({ noise, neutral, calibrations }: CaptureInfo): GreyNoise | null {
  if (!noise || !neutral || calibrations.length === 0) return null;
  const { slope, offset } = scaleNoise(noise, balanceGains(neutral));
  const weights = transform3(transpose3(cameraToWorking(calibrations, neutral)), REC2020.luminance);
  const sum = (values: Vector3) => weights.reduce((total, w, c) => total + w * w * values[c], 0);
  return { slope: DEMOSAICED * sum(slope), offset: DEMOSAICED * sum(offset) };
}

/** The same after the light was multiplied by `gain`. */
export function scaleGreyNoise({ slope, offset }: GreyNoise, gain: number): GreyNoise {
  const size = Math.abs(gain);
  return { slope: slope * size, offset: offset * size * size };
}

/** What a set of weights does to the noise of grey, against plain luminance of the same sum. */
export interface NoisePrice {
  /** Ratio of the deviations if colour were not smoothed. */
  readonly before: number;
  /** The same with the smoothing that is built in. */
  readonly after: number;
}

/**
 * The price of weights in noise at a light, from the capture's model: variance of w·M·n for independent camera channels n.
 * @param weights - of working red, green and blue.
 * @param light - neutral, 1.0 = sensor white.
 */
export function noisePrice(capture: CaptureInfo, weights: Vector3, light = MIDDLE_GREY): NoisePrice | null {
  const deviation = greyDeviation(capture);
  if (!deviation) return null;
  const neutral: Vector3 = [light, light, light];
  const sum = Math.abs(weights[0] + weights[1] + weights[2]);
  return priceOf(deviation(weights, neutral) / deviation(REC2020.luminance, neutral) / (sum > 1e-3 ? sum : 1));
}

/**
 * The same for one colour: how much more of its grey is noise than of its luminance.
 * @param weights - how the grey answers to working red, green and blue about this colour.
 * @param working - linear working colour as shot.
 * @param grey - its light under the weights.
 */
export function noisePriceOfColour(
  capture: CaptureInfo,
  weights: Vector3,
  working: Vector3,
  grey: number,
): NoisePrice | null {
  const deviation = greyDeviation(capture);
  const luminance = luminanceOf(working);
  if (!deviation || !(luminance > 0) || !(grey > 0)) return null;
  return priceOf(deviation(weights, working) / grey / (deviation(REC2020.luminance, working) / luminance));
}

/** Stops of ISO that a ratio of noise amounts to: four times the ISO is twice the noise. */
export function noiseToIsoStops(ratio: number): number {
  return 2 * Math.log2(ratio);
}

/** Deviation of a weighted grey about a colour, camera channels independent; null when the noise is not known. */
function greyDeviation({ noise, neutral, calibrations }: CaptureInfo) {
  if (!noise || !neutral || calibrations.length === 0) return null;
  const { slope, offset } = scaleNoise(noise, balanceGains(neutral));
  const toWorking = cameraToWorking(calibrations, neutral);
  const toCamera = transpose3(toWorking);
  const channelsOf = invert3(toWorking);
  return (weights: Vector3, working: Vector3): number => {
    const light = transform3(channelsOf, working);
    const variance = (v: number, c: number) => v * v * Math.max(0, slope[c] * light[c] + offset[c]);
    return Math.sqrt(transform3(toCamera, weights).reduce((total, v, c) => total + variance(v, c), 0));
  };
}

/** What the weights add to plain luminance is colour, and colour is smoothed: a little by demosaicing, then on purpose. */
function priceOf(independent: number): NoisePrice {
  const added = DEMOSAICED_COLOUR * Math.sqrt(Math.max(0, independent ** 2 - 1));
  const base = Math.min(1, independent);
  return { before: Math.hypot(base, added), after: Math.hypot(base, CHROMA_NOISE_LEFT * added) };
}

const EASE_STEPS = 24;

/**
 * The weights nearest to given ones whose noise stays within a bound: a blend with plain luminance of the same sum.
 * @param most - noise allowed, times that of plain luminance; above 1.
 */
export function easeWeights(capture: CaptureInfo, weights: Vector3, most: number, light = MIDDLE_GREY): Vector3 {
  const sum = weights[0] + weights[1] + weights[2];
  const blend = (share: number): Vector3 => {
    const mix = (c: 0 | 1 | 2) => share * weights[c] + (1 - share) * sum * REC2020.luminance[c];
    return [mix(0), mix(1), mix(2)];
  };
  const within = (w: Vector3) => (noisePrice(capture, w, light)?.after ?? 0) <= most;
  if (within(weights)) return weights;
  let low = 0;
  let high = 1;
  for (let i = 0; i < EASE_STEPS; i++) {
    const middle = (low + high) / 2;
    if (within(blend(middle))) low = middle;
    else high = middle;
  }
  return blend(low);
}
