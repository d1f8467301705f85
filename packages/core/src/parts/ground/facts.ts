import { diagonal3, IDENTITY3, invert3, multiply3, type Matrix3, type Vector3 } from "../../colour/matrix.ts";
import { REC709_TO_REC2020 } from "../../colour/rgb-space.ts";
import { D65, type Chromaticity } from "../../colour/white.ts";
import { cameraToWorking } from "../../raw/camera-matrix.ts";
import type { CaptureInfo } from "../../raw/capture-info.ts";
import { balanceGains } from "../../raw/mosaic.ts";
import { luminanceNoise, type GreyNoise } from "./grey-noise.ts";
import { asShotWhite } from "./white-balance.ts";

/** What is known of a negative beyond its pixels. */
export interface NegativeFacts {
  /** The light that the tiles are balanced for. */
  readonly asShot: Chromaticity;
  /** Noise of a pixel's luminance under plain weights; null when it is not known. */
  readonly noise: GreyNoise | null;
  /** The tiles' colours to the channels of the capture, each of which is full at 1. */
  readonly toChannels: Matrix3;
}

/** What of a negative's facts is taken when nothing is known. */
export const PLAIN_FACTS: NegativeFacts = { asShot: D65, noise: null, toChannels: IDENTITY3 };

/** What the engine needs to know of a capture. */
export function factsOf(capture: CaptureInfo): NegativeFacts {
  return { asShot: asShotWhite(capture), noise: luminanceNoise(capture), toChannels: invert3(fromChannels(capture)) };
}

function fromChannels({ kind, calibrations, neutral, toWorking }: CaptureInfo): Matrix3 {
  if (kind !== "raw" || calibrations.length === 0) return toWorking ?? REC709_TO_REC2020;
  const white: Vector3 = neutral ?? [1, 1, 1];
  // A channel of the sensor is full at its gain.
  return multiply3(cameraToWorking(calibrations, white), diagonal3(balanceGains(white)));
}

/** Share of what a channel holds from which kernels heed how full it is, as in `kernels/full.ts`. */
const FILLING = 0.6;

/**
 * What kernels read of {@link NegativeFacts.toChannels}: the matrix by rows, then red, green and blue of a colour below which no channel begins to
 * be full, whatever the others are. Of none, no colour fills any.
 */
export function channelValues(toChannels: Matrix3 | null): Float32Array {
  if (!toChannels) return Float32Array.from([...IDENTITY3, Infinity, Infinity, Infinity]);
  const from = invert3(toChannels);
  const least = [0, 1, 2].map((i) =>
    [0, 1, 2].reduce((sum, j) => sum + (i === j ? FILLING * from[4 * i] : Math.min(0, from[3 * i + j])), 0),
  );
  return Float32Array.from([...toChannels, ...least]);
}
