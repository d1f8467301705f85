import { useAct } from "../keys/acts.ts";
import { benchView } from "../picture/bench-view.ts";
import { FIT, ZOOM_STEPS, type Zoom } from "../picture/placement.ts";
import type { PictureMode } from "../picture/protocol.ts";
import { nextSurround } from "../theme/theme.ts";

/** Acts on how the picture is looked at; returns the handlers of the two buttons that are held. */
export function usePictureActs() {
  const show = (mode: PictureMode) => () => benchView.setState({ mode });
  const end = show("print");
  useAct({
    id: "before",
    label: "Before: plain luminance",
    group: "Picture",
    keys: "b",
    run: show("plain"),
    release: end,
  });
  useAct({
    id: "colour",
    label: "The negative in colour",
    group: "Picture",
    keys: "c",
    run: show("colour"),
    release: end,
  });
  useAct({
    id: "fit",
    label: "Whole picture",
    group: "Picture",
    keys: "f",
    run: () => benchView.setState({ zoom: FIT }),
  });
  useAct({ id: "full", label: "100 %", group: "Picture", keys: "g", run: () => zoomTo(() => 1) });
  useAct({
    id: "nearer",
    label: "Nearer",
    group: "Picture",
    keys: "equal",
    run: () => zoomTo((now) => ZOOM_STEPS.find((step) => step > now * 1.01) ?? 2),
  });
  useAct({
    id: "farther",
    label: "Farther",
    group: "Picture",
    keys: "minus",
    run: () => zoomTo((now) => [...ZOOM_STEPS].reverse().find((step) => step < now * 0.99) ?? "fit"),
  });
  useAct({ id: "surround", label: "Next surround", group: "Bench", keys: "s", run: nextSurround });
  const held = (mode: PictureMode) => ({ onPointerDown: show(mode), onPointerUp: end, onPointerLeave: end });
  const toggle = () => zoomTo(() => (benchView.getState().zoom.zoom === "fit" ? 1 : "fit"));
  return { before: held("plain"), colour: held("colour"), toggle };
}

/** Zooms about the spot in the middle of the view. */
function zoomTo(next: (now: number) => number | "fit"): void {
  const { zoom, scale } = benchView.getState();
  const wanted = next(scale);
  const to: Zoom = wanted === "fit" ? FIT : { ...zoom, zoom: wanted };
  benchView.setState({ zoom: to });
}
