import { useGesture } from "@use-gesture/react";
import { isMounted, mountLayout, zoneSteps, type Frame, type Negative, type Recipe } from "@yelm/core";
import {
  memo,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type MouseEvent as ReactMouseEvent,
  type ReactNode,
} from "react";
import { useStore } from "zustand";
import { useSize } from "../controls/use-size.ts";
import { surroundColour, useLook } from "../theme/theme.ts";
import { useEdit, useSession } from "../data/use-session.ts";
import { benchView, type Tool } from "./bench-view.ts";
import { Mount, mountAround } from "./mount.tsx";
import { rememberMount } from "./mounts-seen.ts";
import { FIT, fitScale, paneToFrame, place, type Placement, type Zoom } from "./placement.ts";
import type { RenderPool } from "../workers/render-pool.ts";
import { smallPicture } from "./small-picture.ts";
import { useFrame, usePicture } from "./use-picture.ts";

const PROBE_INTERVAL_MS = 60;
const WHEEL_STEP = 1.0018;
/** How small the picture is from a step back. */
const STEP_BACK = 0.32;

interface PicturePaneProps {
  readonly pool: RenderPool;
  readonly negative: Negative;
  /** The print as it is to be seen with the tool in hand. */
  readonly shown: (recipe: Recipe, tool: Tool) => Recipe;
  /** What to do with the tool in hand, said on the picture. */
  readonly hint: string | undefined;
  /** What lies over the picture. */
  readonly children: (place: OverlayPlace) => ReactNode;
}

/** Where an overlay lies. */
interface OverlayPlace {
  readonly negative: Negative;
  readonly frame: Frame;
  readonly placement: Placement;
}

/** The picture on its surround: zoom, pan, the spot under the pointer, and whatever the hand is doing on top. */
export function PicturePane({ pool, negative, shown, hint, children }: PicturePaneProps) {
  const pane = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const size = useSize(pane);
  const edited = useEdit((state) => state.recipe);
  const printId = useEdit(({ print }) => print.id);
  const { zoom, mode, tool, tried, stepBack, byZones } = useStore(benchView);
  const look = useLook();
  const otherwise = shown(edited, tool);
  const asItIs = otherwise === edited;
  const recipe = asItIs && tried ? tried : otherwise;
  // What is seen otherwise than it is must not be rendered again with every change of what is not seen.
  const stable = useStableRecipe(recipe, recipe !== edited);
  const frame = useFrame(negative, stable);
  const dpr = window.devicePixelRatio || 1;
  // A tool that shows the print otherwise works on the bare picture.
  const mounted = asItIs && isMounted(stable.finish.mount);
  const mount = useMemo(
    () => (mounted ? mountLayout(stable.finish.mount, frame) : null),
    [mounted, stable.finish.mount, frame],
  );
  // The page that opens next time shows it as it lies.
  const rests = useEdit((state) => state.recipe === state.kept) && asItIs && !tried;
  useEffect(() => {
    if (rests) rememberMount(printId, mountAround(stable.finish, { width: frame.width, height: frame.height }));
  }, [printId, stable.finish, frame.width, frame.height, rests]);
  const placement = place(frame, size, dpr, asItIs ? zoom : FIT, mount);
  const laidOut = size.width > 0 ? placement : null;
  const { error, first, want } = usePicture(canvas, pool, printId, negative, stable, mode, laidOut, rests);
  // What the hand changes is on its way to the workers before the page is drawn again; where the picture lies stays.
  const { store } = useSession();
  const isPlain = asItIs && !tried;
  useEffect(() => {
    if (!isPlain) return;
    return store.subscribe(({ recipe: next, kept }, { recipe: last }) => {
      // What goes back to what is kept is mostly drawn on at once, such as a stroke; else the page sees to it.
      if (next === last || next === kept || next.ground !== edited.ground) return;
      if (shown(next, tool) === next) want(next);
    });
  }, [store, want, isPlain, edited.ground, shown, tool]);

  useProbe(pane, pool, placement, frame);
  useEffect(() => benchView.setState({ scale: placement.scale }), [placement.scale]);

  const setZoom = (next: Zoom) => benchView.setState({ zoom: next });
  const zoomAt = (scale: number, x: number, y: number) => {
    const smallest = fitScale(mount?.sheet ?? frame, size, dpr);
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
        if (otherwise !== edited) return;
        const box = pane.current!.getBoundingClientRect();
        zoomAt(placement.scale * WHEEL_STEP ** -dy, event.clientX - box.left, event.clientY - box.top);
      },
    },
    { target: pane, drag: { pointer: { buttons: [1, 4] } } },
  );

  const onDoubleClick = ({ clientX, clientY, target }: ReactMouseEvent) => {
    if (tool !== "look" || (target as Element).closest("[data-handle]")) return;
    const box = pane.current!.getBoundingClientRect();
    if (zoom.zoom === "fit") zoomAt(1, clientX - box.left, clientY - box.top);
    else setZoom(FIT);
  };

  return (
    <div
      ref={pane}
      data-testid="picture"
      onDoubleClick={onDoubleClick}
      className="relative h-full w-full touch-none overflow-hidden select-none"
      style={{
        background: surroundColour(look),
        cursor: zoom.zoom === "fit" ? "crosshair" : "grab",
      }}
    >
      <div
        className="absolute inset-0"
        data-testid="picture-place"
        style={stepBack ? { transform: `scale(${STEP_BACK})` } : undefined}
      >
        {mounted && laidOut && <Mount finish={stable.finish} placement={placement} />}
        <canvas
          ref={canvas}
          data-testid="picture-canvas"
          aria-label={`${negative.title}, ${mode === "print" ? "the print" : mode === "plain" ? "plain conversion" : "in colour"}`}
          role="img"
          className="absolute top-0 left-0 origin-top-left"
          style={byZones ? { filter: `url(#${ZONE_STEPS})` } : undefined}
        />
        <ZoneSteps />
      </div>
      {first && !error && laidOut && <StandIn printId={printId} placement={placement} />}
      {laidOut && (
        <div className="contents" style={stepBack ? { visibility: "hidden" } : undefined}>
          {children({ negative, frame, placement })}
        </div>
      )}
      {mode !== "print" && <Caption>{mode === "plain" ? "before: plain luminance" : "the negative in colour"}</Caption>}
      {byZones && <Caption>by zones: eleven greys, 0 to X</Caption>}
      {hint && <Caption>{hint}</Caption>}
      {first && !error && <Caption>developing…</Caption>}
      {error && <Caption>{error} The last picture stays; it is tried again with the next change.</Caption>}
    </div>
  );
}

/** The print as it was last seen small, until there is a picture; nothing when it was never. */
function StandIn({ printId, placement }: { printId: string; placement: Placement }) {
  const { left, top, width, height, dpr } = placement;
  const image = useRef<HTMLImageElement>(null);
  const [address] = useState(() => smallPicture(printId));
  const [shown, setShown] = useState(false);
  // What stood here while the bench opened is there at once.
  useLayoutEffect(() => setShown(Boolean(image.current?.complete && image.current.naturalWidth > 0)), []);
  return (
    <img
      data-testid="stand-in"
      ref={image}
      src={address}
      alt=""
      onLoad={() => setShown(true)}
      className="pointer-events-none absolute max-w-none"
      style={{
        visibility: shown ? "visible" : "hidden",
        left: left / dpr,
        top: top / dpr,
        width: width / dpr,
        height: height / dpr,
      }}
    />
  );
}

const ZONE_STEPS = "zone-steps";

/** A filter that makes grey of the picture and puts each tone on the middle of its zone. */
const ZoneSteps = memo(function ZoneSteps() {
  const steps = zoneSteps()
    .map((code) => code.toFixed(4))
    .join(" ");
  return (
    <svg className="absolute h-0 w-0" aria-hidden>
      <filter id={ZONE_STEPS} colorInterpolationFilters="sRGB">
        <feColorMatrix
          type="matrix"
          values="0.2126 0.7152 0.0722 0 0 0.2126 0.7152 0.0722 0 0 0.2126 0.7152 0.0722 0 0 0 0 0 1 0"
        />
        <feComponentTransfer>
          <feFuncR type="discrete" tableValues={steps} />
          <feFuncG type="discrete" tableValues={steps} />
          <feFuncB type="discrete" tableValues={steps} />
        </feComponentTransfer>
      </filter>
    </svg>
  );
});

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
        .ask("probe", { recipe: now, x: fx, y: fy })
        .then((probe) => benchView.setState({ spot: { ...probe, x, y, frameX: fx, frameY: fy } }))
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
