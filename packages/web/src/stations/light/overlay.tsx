import { ShapeOverlay } from "../../shapes/overlay.tsx";
import type { OverlayProps } from "../station.ts";
import { LIGHT_STACK } from "./stack.ts";

/** Light moves on the picture. */
export function LightOverlay(props: OverlayProps) {
  return <ShapeOverlay stack={LIGHT_STACK} {...props} />;
}
