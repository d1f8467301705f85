import { frameOf, levelCount, levelForScale, type Frame, type Negative, type Recipe } from "@yelm/core";
import { useEffect, useMemo, useRef, useState, type RefObject } from "react";
import type { PictureMode } from "./protocol.ts";
import type { RenderPool } from "./render-pool.ts";
import type { Placement } from "./placement.ts";

/** After this pause the picture is computed again from twice the pixels, which comes nearest the export. */
const SETTLE_MS = 140;

/** Where the canvas shows which part, and how far it is behind what is wanted. */
export interface PictureState {
  readonly error: string | null;
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

  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    moveCanvas(element, placement, shown.current);
    let live = true;
    const levels = levelCount(negative);
    const draw = async (density: 1 | 2) => {
      const view = { ...visible, scale, level: levelForScale(scale, levels, density) };
      try {
        const picture = await pool.render(recipe, view, mode);
        if (!picture || !live) return false;
        element.width = view.width;
        element.height = view.height;
        element.getContext("2d")!.putImageData(picture.pixels, 0, 0);
        shown.current = { scale, x: visible.x, y: visible.y };
        moveCanvas(element, placement, shown.current);
        element.dataset.density = String(density);
        element.dataset.scale = String(scale);
        setState((old) => (old.error === null && !old.first ? old : { error: null, first: false }));
        return true;
      } catch (error) {
        if (live) setState((old) => ({ ...old, error: error instanceof Error ? error.message : String(error) }));
        return false;
      }
    };
    element.dataset.density = "0";
    const started = performance.now();
    let timer: ReturnType<typeof setTimeout> | undefined;
    void draw(1).then((drawn) => {
      element.dataset.drawMs = (performance.now() - started).toFixed(1);
      if (!drawn || !live) return;
      const exact = levelForScale(scale, levels, 2) === levelForScale(scale, levels, 1);
      if (exact) element.dataset.density = "2";
      else timer = setTimeout(() => void draw(2), SETTLE_MS);
    });
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
