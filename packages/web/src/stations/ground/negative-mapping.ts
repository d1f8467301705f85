import { applyAffine, type Frame, type Negative } from "@yelm/core";
import { applyToFrame } from "./frame-places.ts";
import { frameToPane, paneToFrame, type Placement } from "../../picture/placement.ts";

/** Between places on the negative (fractions of the long edge) and pane points, through lens, slant and crop. */
export function negativeMapping(negative: Negative, frame: Frame, placement: Placement) {
  const edge = Math.max(negative.width, negative.height);
  const { lens } = frame;
  return {
    /** CSS pixels per long edge. */
    pixels: (edge * placement.scale) / placement.dpr,
    toPane(x: number, y: number): [number, number] {
      return frameToPane(placement, ...applyToFrame(negative, frame, x, y));
    },
    toNegative(x: number, y: number): [number, number] {
      const flat = applyAffine(frame.toFlat, ...paneToFrame(placement, x, y));
      const [nx, ny] = lens ? lens.toNegative(...flat) : flat;
      return [nx / edge, ny / edge];
    },
  };
}
