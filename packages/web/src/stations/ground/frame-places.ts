import { applyAffine, invertAffine, type Frame, type Negative } from "@yelm/core";

/** A place of the negative, in long edges → frame pixels. */
export function applyToFrame(negative: Negative, frame: Frame, x: number, y: number): [number, number] {
  const edge = Math.max(negative.width, negative.height);
  const flat = frame.lens ? frame.lens.toFlat(x * edge, y * edge) : ([x * edge, y * edge] as const);
  return applyAffine(invertAffine(frame.toFlat), ...flat);
}
