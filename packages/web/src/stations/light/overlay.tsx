import { useStore } from "zustand";
import { benchView } from "../../picture/bench-view.ts";
import { ShapeOverlay } from "../../shapes/overlay.tsx";
import type { OverlayProps } from "../station.ts";
import { BurnMapOverlay } from "./burn-map.tsx";
import { ContourOverlay } from "./contour-overlay.tsx";
import { LIGHT_STACK } from "./stack.ts";

/** Light moves on the picture. */
export function LightOverlay(props: OverlayProps) {
  const { burnMap } = useStore(benchView);
  return (
    <>
      {burnMap && <BurnMapOverlay {...props} />}
      <div className="contents" style={burnMap ? { visibility: "hidden" } : undefined}>
        <ShapeOverlay stack={LIGHT_STACK} {...props} />
        <ContourOverlay {...props} />
      </div>
    </>
  );
}
