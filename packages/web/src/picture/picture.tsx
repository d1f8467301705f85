import { useGesture } from "@use-gesture/react";
import { asShotWhite, lightThatMakesNeutral, type Negative, type Station } from "@yelm/core";
import { useEffect, useLayoutEffect, useRef, useState, type MouseEvent, type ReactNode } from "react";
import { useStore } from "zustand";
import { surroundColour, useLook } from "../theme/theme.ts";
import { useEdit, useSession } from "../data/use-session.ts";
import { notify } from "../shell/shell-view.ts";
import { benchView, type Tool } from "./bench-view.ts";
import { CleanOverlay } from "./clean-overlay.tsx";
import { CropOverlay } from "./crop-overlay.tsx";
import { FamilyOverlay } from "./family-overlay.tsx";
import { LineOverlay } from "./line-overlay.tsx";
import { FIT, fitScale, paneToFrame, place, type Placement, type Zoom } from "./placement.ts";
import type { RenderPool } from "./render-pool.ts";
import { ShapeOverlay } from "./shape-overlay.tsx";
import { AREA_STACK, LIGHT_STACK } from "./shape-stacks.ts";
import { useFrame, usePicture } from "./use-picture.ts";

const PROBE_INTERVAL_MS = 60;
const WHEEL_STEP = 1.0018;

interface PicturePaneProps {
  readonly pool: RenderPool;
  readonly negative: Negative;
  readonly station: Station;
}

/** The picture on its surround: zoom, pan, the spot under the pointer, and whatever the hand is doing on top. */
export function PicturePane({ pool, negative, station }: PicturePaneProps) {
  const pane = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const edited = useEdit((state) => state.recipe);
  const { zoom, mode, tool, dust, areasOpen } = useStore(benchView);
  const look = useLook();
  const recipe = tool === "crop" ? { ...edited, ground: { ...edited.ground, crop: null } } : edited;
  const stable = useStableRecipe(recipe, tool === "crop");
  const frame = useFrame(negative, stable);
  const dpr = window.devicePixelRatio || 1;
  const placement = place(frame, size, dpr, tool === "crop" ? FIT : zoom);
  const { error, first } = usePicture(canvas, pool, negative, stable, mode, placement);

  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      setSize({ width: Math.floor(width), height: Math.floor(height) });
    });
    observer.observe(pane.current!);
    return () => observer.disconnect();
  }, []);
  useProbe(pane, pool, placement, frame);
  useEffect(() => benchView.setState({ scale: placement.scale }), [placement.scale]);

  const pick = usePick(pool, negative, placement);
  const setZoom = (next: Zoom) => benchView.setState({ zoom: next });
  const zoomAt = (scale: number, x: number, y: number) => {
    const smallest = fitScale(frame, size, dpr);
    if (scale <= smallest * 1.02 && smallest < 1) {
      setZoom(FIT);
      return;
    }
    const clamped = Math.min(4, scale);
    const [fx, fy] = paneToFrame(placement, x, y);
    const centreX = (fx * clamped + (size.width / 2 - x) * dpr) / (frame.width * clamped);
    const centreY = (fy * clamped + (size.height / 2 - y) * dpr) / (frame.height * clamped);
    setZoom({ zoom: clamped, centreX, centreY });
  };

  useGesture(
    {
      onDrag: ({ delta: [dx, dy], buttons, event }) => {
        if (tool !== "look" && buttons !== 4) return;
        if ((event.target as Element).closest("[data-handle]") && buttons !== 4) return;
        if (zoom.zoom === "fit") return;
        setZoom({
          zoom: zoom.zoom,
          centreX: clampCentre(zoom.centreX - (dx * dpr) / placement.width, size.width * dpr, placement.width),
          centreY: clampCentre(zoom.centreY - (dy * dpr) / placement.height, size.height * dpr, placement.height),
        });
      },
      onWheel: ({ event, delta: [, dy] }) => {
        if (tool === "crop") return;
        const box = pane.current!.getBoundingClientRect();
        zoomAt(placement.scale * WHEEL_STEP ** -dy, event.clientX - box.left, event.clientY - box.top);
      },
      onDoubleClick: ({ event }) => {
        if (tool !== "look") return;
        const box = pane.current!.getBoundingClientRect();
        if (zoom.zoom === "fit") zoomAt(1, event.clientX - box.left, event.clientY - box.top);
        else setZoom(FIT);
      },
    },
    { target: pane, drag: { pointer: { buttons: [1, 4] } } },
  );

  return (
    <div
      ref={pane}
      data-testid="picture"
      className="relative h-full w-full touch-none overflow-hidden select-none"
      style={{
        background: surroundColour(look),
        cursor: zoom.zoom === "fit" || tool === "pick" ? "crosshair" : "grab",
      }}
      onClick={tool === "pick" ? pick : undefined}
    >
      <canvas
        ref={canvas}
        data-testid="picture-canvas"
        aria-label={`${negative.title}, ${mode === "print" ? "the print" : mode === "plain" ? "plain conversion" : "in colour"}`}
        role="img"
        className="absolute top-0 left-0 origin-top-left"
      />
      {size.width > 0 && tool === "crop" && <CropOverlay negative={negative} frame={frame} placement={placement} />}
      {size.width > 0 && station === "Light" && (
        <ShapeOverlay stack={LIGHT_STACK} negative={negative} frame={frame} placement={placement} />
      )}
      {size.width > 0 && station === "Weigh" && !negative.capture.grey && (
        <>
          {areasOpen && <ShapeOverlay stack={AREA_STACK} negative={negative} frame={frame} placement={placement} />}
          <FamilyOverlay pool={pool} negative={negative} frame={frame} placement={placement} />
        </>
      )}
      {size.width > 0 && (tool === "heal" || tool === "clone" || dust.length > 0) && (
        <CleanOverlay pool={pool} negative={negative} frame={frame} placement={placement} />
      )}
      {size.width > 0 && (tool === "level" || tool === "uprights") && (
        <LineOverlay key={tool} negative={negative} placement={placement} />
      )}
      {mode !== "print" && <Caption>{mode === "plain" ? "before: plain luminance" : "the negative in colour"}</Caption>}
      {HINTS[tool] && <Caption>{HINTS[tool]}</Caption>}
      {first && !error && <Caption>developing…</Caption>}
      {error && <Caption>{error} The last picture stays; it is tried again with the next change.</Caption>}
    </div>
  );
}

/** What to do with a tool, said on the picture. */
const HINTS: Partial<Record<Tool, string>> = {
  pick: "Click something that should be neutral; V or Esc leaves it",
  level: "Draw along something that should be level or upright; Esc leaves it",
  uprights: "Draw along two uprights, one after the other; Esc leaves it",
  heal: "Click dust, or stroke along a scratch; drag a source to move it; Esc leaves it",
  family: "Drag up or down: the colours under the pointer become lighter or darker; U or Esc leaves it",
  "family pick": "Click a colour that should be moved by itself; Esc leaves it",
  clone: "Click or stroke over what should go; drag the source to what should stand there; Esc leaves it",
};

/** Takes the spot clicked for neutral. */
function usePick(pool: RenderPool, negative: Negative, placement: Placement) {
  const session = useSession();
  return async (event: MouseEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const [x, y] = paneToFrame(placement, event.clientX - box.left, event.clientY - box.top);
    benchView.setState({ tool: "look" });
    const working = await pool.pick(session.store.getState().recipe, x, y);
    const light = lightThatMakesNeutral(working, asShotWhite(negative.capture));
    if (!light) {
      notify("That spot is too dark or too colourful to be taken for neutral. The white is as it was.");
      return;
    }
    const kelvin = Math.round(light.kelvin);
    const tint = Math.round(light.tint * 10) / 10;
    session.change("Ground", "Neutral picked", (recipe) => ({
      ...recipe,
      ground: { ...recipe.ground, whiteBalance: { mode: "set", kelvin, tint, follow: 1 } },
    }));
  };
}

function Caption({ children }: { children: ReactNode }) {
  return (
    <div className="pointer-events-none absolute bottom-4 left-1/2 w-max max-w-[94%] -translate-x-1/2 rounded bg-black/75 px-3 py-1 text-white">
      {children}
    </div>
  );
}

/** While cropping the crop is drawn over the whole picture, so its changes must not render the picture again. */
function useStableRecipe<T extends { ground: object }>(recipe: T, hold: boolean): T {
  const kept = useRef(recipe);
  if (!hold || JSON.stringify(kept.current) !== JSON.stringify(recipe)) kept.current = recipe;
  return kept.current;
}

/** Measures the spot under the pointer, at most every 60 ms. */
function useProbe(
  pane: React.RefObject<HTMLDivElement | null>,
  pool: RenderPool,
  placement: Placement,
  frame: { width: number; height: number },
) {
  const recipe = useEdit((state) => state.recipe);
  const latest = useRef({ recipe, placement, frame });
  latest.current = { recipe, placement, frame };
  useEffect(() => {
    const element = pane.current!;
    let last = 0;
    let busy = false;
    const onMove = (event: PointerEvent) => {
      const box = element.getBoundingClientRect();
      const x = event.clientX - box.left;
      const y = event.clientY - box.top;
      const { recipe: now, placement: where, frame: whole } = latest.current;
      const [fx, fy] = paneToFrame(where, x, y);
      if (fx < 0 || fy < 0 || fx >= whole.width || fy >= whole.height) {
        benchView.setState({ spot: null });
        return;
      }
      if (busy || event.buttons !== 0 || performance.now() - last < PROBE_INTERVAL_MS) return;
      last = performance.now();
      busy = true;
      pool
        .probe(now, fx, fy)
        .then((probe) => benchView.setState({ spot: { ...probe, x, y } }))
        .catch(() => benchView.setState({ spot: null }))
        .finally(() => (busy = false));
    };
    const onLeave = () => benchView.setState({ spot: null });
    element.addEventListener("pointermove", onMove);
    element.addEventListener("pointerleave", onLeave);
    return () => {
      element.removeEventListener("pointermove", onMove);
      element.removeEventListener("pointerleave", onLeave);
    };
  }, [pane, pool]);
}

function clampCentre(centre: number, pane: number, length: number): number {
  const half = Math.min(0.5, pane / 2 / length);
  return Math.min(1 - half, Math.max(half, centre));
}
