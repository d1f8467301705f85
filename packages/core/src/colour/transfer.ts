import { lightnessToLuminance, luminanceToLightness } from "./lab.ts";

/** How linear light becomes a code value. `encode` and `decode` are inverse on 0–1. */
export interface Transfer {
  readonly encode: (linear: number) => number;
  readonly decode: (code: number) => number;
}

/** IEC 61966-2-1. */
export const SRGB_TRANSFER: Transfer = {
  encode: (v) => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055),
  decode: (c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4),
};

/** Pure power 2.2, the usual grey encoding for print work. */
export const GAMMA22_TRANSFER: Transfer = {
  encode: (v) => v ** (1 / 2.2),
  decode: (c) => c ** 2.2,
};

/** CIE L* as a share of 100: code values evenly spaced to the eye. */
export const LIGHTNESS_TRANSFER: Transfer = {
  encode: (v) => luminanceToLightness(v) / 100,
  decode: (c) => lightnessToLuminance(100 * c),
};
