import { D65, type Chromaticity } from "../../colour/white.ts";
import type { CaptureInfo } from "../../raw/capture-info.ts";
import { luminanceNoise, type GreyNoise } from "./grey-noise.ts";
import { asShotWhite } from "./white-balance.ts";

/** What is known of a negative beyond its pixels. */
export interface NegativeFacts {
  /** The light that the tiles are balanced for. */
  readonly asShot: Chromaticity;
  /** Noise of a pixel's luminance under plain weights; null when it is not known. */
  readonly noise: GreyNoise | null;
}

/** What of a negative's facts is taken when nothing is known. */
export const PLAIN_FACTS: NegativeFacts = { asShot: D65, noise: null };

/** What the engine needs to know of a capture. */
export function factsOf(capture: CaptureInfo): NegativeFacts {
  return { asShot: asShotWhite(capture), noise: luminanceNoise(capture) };
}
