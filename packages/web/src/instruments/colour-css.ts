import { REC2020_TO_REC709, SRGB_TRANSFER, transform3, type Vector3 } from "@yelm/core";

/** A linear working colour as the screen shows it. */
export function workingToCss(working: Vector3, gain = 1): string {
  return linearToCss(transform3(REC2020_TO_REC709, [working[0] * gain, working[1] * gain, working[2] * gain]));
}

/** A print reflectance as the screen shows it. */
export function greyToCss(reflectance: number): string {
  return linearToCss([reflectance, reflectance, reflectance]);
}

function linearToCss(linear: Vector3): string {
  const codes = linear.map((v) => Math.round(255 * SRGB_TRANSFER.encode(Math.min(1, Math.max(0, v)))));
  return `rgb(${codes.join(" ")})`;
}
