import { applyAffine, invertAffine, type Frame, type Negative } from "@yelm/core";
import { frameToPane, paneToFrame, type Placement } from "../picture/placement.ts";

/** Where an overlay lies. */
export interface OverlayPlace {
  readonly negative: Negative;
  readonly frame: Frame;
  readonly placement: Placement;
}

/** Between lengths on the flat picture (fractions of the long edge) and pane points. */
export function shapeMapping({ negative, frame, placement }: OverlayPlace) {
  const edge = Math.max(negative.width, negative.height);
  const toFrame = invertAffine(frame.toFlat);
  const { left, top, width, height, dpr } = placement;
  return {
    /** What of the pane the print lies on, CSS pixels. */
    print: { x: left / dpr, y: top / dpr, width: width / dpr, height: height / dpr },
    /** CSS pixels per long edge. */
    pixels: (edge * placement.scale) / dpr,
    angleDegrees: (Math.atan2(toFrame.ay, toFrame.ax) * 180) / Math.PI,
    toPane: (x: number, y: number): [number, number] =>
      frameToPane(placement, ...applyAffine(toFrame, x * edge, y * edge)),
    toFlat: (x: number, y: number): [number, number] => {
      const [nx, ny] = applyAffine(frame.toFlat, ...paneToFrame(placement, x, y));
      return [nx / edge, ny / edge];
    },
  };
}

export type Mapping = ReturnType<typeof shapeMapping>;
/** A pointer's place in the overlay, CSS pixels. */
export type Local = (event: { readonly clientX: number; readonly clientY: number }) => [number, number];
