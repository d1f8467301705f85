import { frameOf, levelCount, levelForScale, type Frame, type Negative, type Recipe, type View } from "@yelm/core";
import { useEffect, useMemo, useRef, useState, type RefObject } from "react";
import type { PictureMode } from "./protocol.ts";
import type { RenderPool } from "./render-pool.ts";
import type { Placement } from "./placement.ts";

/** After this pause the picture is computed again from twice the pixels, which comes nearest the export. */
const SETTLE_MS = 140;
/** A change is answered within this time; when the picture would take longer, a coarser one comes first. */
const FRAME_MS = 33;
/** Coarser by at most two levels, a sixteenth of the pixels. */
const COARSEST = 2;
/** Pixels around the view whose tiles are fetched ahead. */
const AHEAD_PX = 512;

export interface PictureState {
  readonly error: string | null;
  /** True until there is a first picture. */
  readonly first: boolean;
}

export function useFrame(negative: Negative, recipe: Recipe): Frame {
  const { ground } = recipe;
  return useMemo(() => frameOf(negative, ground), [negative, ground]);
}

/**
 * Keeps a canvas showing the print at a placement: a quick picture at once, the exact one when the hand rests.
 * Until then the last picture is moved and stretched to where it belongs, so that panning follows the pointer.
 */
export function usePicture(
  canvas: RefObject<HTMLCanvasElement | null>,
  pool: RenderPool,
  negative: Negative,
  recipe: Recipe,
  mode: PictureMode,
  placement: Placement,
): PictureState {
  const [state, setState] = useState<PictureState>({ error: null, first: true });
  const shown = useRef<{ scale: number; x: number; y: number } | null>(null);
  const { visible, scale, left, top, dpr } = placement;

  const speed = useRef({ msPerPixel: 1e-5 });

  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    moveCanvas(element, placement, shown.current);
    let live = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const levels = levelCount(negative);
    const draw = async (level: number, density: string) => {
      const view = { ...visible, scale, level };
      try {
        const started = performance.now();
        const picture = await pool.render(recipe, view, mode);
        if (!picture || !live) return false;
        const elapsed = performance.now() - started;
        const computed = (view.width * view.height) / (scale * 2 ** level) ** 2;
        speed.current.msPerPixel = 0.5 * (speed.current.msPerPixel + elapsed / computed);
        element.width = view.width;
        element.height = view.height;
        element.getContext("2d")!.putImageData(picture.pixels, 0, 0);
        shown.current = { scale, x: visible.x, y: visible.y };
        moveCanvas(element, placement, shown.current);
        element.dataset.density = density;
        element.dataset.scale = String(scale);
        element.dataset.drawMs = elapsed.toFixed(1);
        setState((old) => (old.error === null && !old.first ? old : { error: null, first: false }));
        return true;
      } catch (error) {
        if (live) setState((old) => ({ ...old, error: error instanceof Error ? error.message : String(error) }));
        return false;
      }
    };
    const quick = levelForScale(scale, levels, 1);
    const exact = levelForScale(scale, levels, 2);
    const pixels = (visible.width * visible.height) / (scale * 2 ** quick) ** 2;
    let first = quick;
    while (
      first < Math.min(quick + COARSEST, levels - 1) &&
      (pixels * speed.current.msPerPixel) / 4 ** (first - quick) > FRAME_MS
    )
      first++;
    const run = async () => {
      element.dataset.density = "0";
      if (first > quick && !(await draw(first, "0.5"))) return;
      if (!(await draw(quick, exact === quick ? "2" : "1"))) return;
      timer = setTimeout(() => {
        const settled = exact === quick ? Promise.resolve(true) : draw(exact, "2");
        void settled.then((drawn) => drawn && live && pool.prefetch(recipe, around(placement, exact)));
      }, SETTLE_MS);
    };
    void run();
    return () => {
      live = false;
      clearTimeout(timer);
    };
    // The placement is spelled out: a new object with the same numbers must not start a new picture.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pool, negative, recipe, mode, scale, left, top, dpr, visible.x, visible.y, visible.width, visible.height]);
  return state;
}

function moveCanvas(
  element: HTMLCanvasElement,
  placement: Placement,
  shown: { scale: number; x: number; y: number } | null,
) {
  if (!shown) return;
  const stretch = placement.scale / shown.scale;
  const x = (placement.left + shown.x * stretch) / placement.dpr;
  const y = (placement.top + shown.y * stretch) / placement.dpr;
  element.style.transform = `translate(${x}px, ${y}px)`;
  element.style.width = `${(element.width * stretch) / placement.dpr}px`;
  element.style.height = `${(element.height * stretch) / placement.dpr}px`;
}

/** The view with what lies next to it. */
function around({ visible, scale, width, height }: Placement, level: number): View {
  const x = Math.max(0, visible.x - AHEAD_PX);
  const y = Math.max(0, visible.y - AHEAD_PX);
  return {
    x,
    y,
    width: Math.min(width, visible.x + visible.width + AHEAD_PX) - x,
    height: Math.min(height, visible.y + visible.height + AHEAD_PX) - y,
    scale,
    level,
  };
}
