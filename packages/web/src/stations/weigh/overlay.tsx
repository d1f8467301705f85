import { useStore } from "zustand";
import { benchView } from "../../picture/bench-view.ts";
import { ShapeOverlay } from "../../shapes/overlay.tsx";
import type { OverlayProps } from "../station.ts";
import { FamilyOverlay } from "./family-overlay.tsx";
import { AREA_STACK } from "./stack.ts";

/** Families and areas on the picture. A file without colour has none. */
export function WeighOverlay(props: OverlayProps) {
  const { areasOpen } = useStore(benchView);
  if (props.negative.capture.grey) return null;
  return (
    <>
      {areasOpen && <ShapeOverlay stack={AREA_STACK} {...props} />}
      <FamilyOverlay {...props} />
    </>
  );
}
