import { BENCH_ACTS } from "./acts.ts";
import { useAct } from "../keys/acts.ts";
import { benchView } from "../picture/bench-view.ts";
import { FIT, ZOOM_STEPS, type Zoom } from "../picture/placement.ts";
import type { PictureMode } from "../workers/questions.ts";
import { nextSurround } from "../theme/theme.ts";

/** Acts on how the picture is looked at; returns the handlers of the two buttons that are held. */
export function usePictureActs() {
  const show = (mode: PictureMode) => () => benchView.setState({ mode });
  const end = show("print");
  useAct({ ...BENCH_ACTS["before"], run: show("plain"), release: end });
  useAct({ ...BENCH_ACTS["colour"], run: show("colour"), release: end });
  const stepBack = (on: boolean) => () => benchView.setState({ stepBack: on });
  useAct({ ...BENCH_ACTS["step-back"], run: stepBack(true), release: stepBack(false) });
  const byZones = (on: boolean) => () => benchView.setState({ byZones: on });
  useAct({ ...BENCH_ACTS["zones-only"], run: byZones(true), release: byZones(false) });
  useAct({ ...BENCH_ACTS["fit"], run: () => benchView.setState({ zoom: FIT }) });
  useAct({ ...BENCH_ACTS["full"], run: () => zoomTo(() => 1) });
  useAct({ ...BENCH_ACTS["nearer"], run: () => zoomTo((now) => ZOOM_STEPS.find((step) => step > now * 1.01) ?? 2) });
  useAct({
    ...BENCH_ACTS["farther"],
    run: () => zoomTo((now) => [...ZOOM_STEPS].reverse().find((step) => step < now * 0.99) ?? "fit"),
  });
  useAct({ ...BENCH_ACTS["surround"], run: nextSurround });
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
