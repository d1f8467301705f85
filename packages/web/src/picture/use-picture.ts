import { frameOf, type Frame, type Negative, type Recipe } from "@yelm/core";
import { useCallback, useEffect, useMemo, useRef, useState, type RefObject } from "react";
import { Painter } from "./painter.ts";
import type { Placement } from "./placement.ts";
import type { PictureMode } from "../workers/questions.ts";
import type { RenderPool } from "../workers/render-pool.ts";

export interface PictureState {
  readonly error: string | null;
  /** True until there is a first picture. */
  readonly first: boolean;
}

export function useFrame(negative: Negative, recipe: Recipe): Frame {
  const { ground } = recipe;
  return useMemo(() => frameOf(negative, ground), [negative, ground]);
}

/** Keeps a canvas showing the print at a placement. `want` shows another recipe at once, before React hears of it. */
export function usePicture(
  canvas: RefObject<HTMLCanvasElement | null>,
  pool: RenderPool,
  negative: Negative,
  recipe: Recipe,
  mode: PictureMode,
  placement: Placement,
): PictureState & { readonly want: (recipe: Recipe) => void } {
  const [state, setState] = useState<PictureState>({ error: null, first: true });
  const painter = useRef<Painter | null>(null);
  const seen = useRef({ negative, mode, placement });
  seen.current = { negative, mode, placement };
  const { visible, scale, left, top, dpr } = placement;

  const want = useCallback((next: Recipe) => {
    painter.current?.show(
      { ...seen.current, recipe: next },
      () => setState((old) => (old.error === null && !old.first ? old : { error: null, first: false })),
      (error) => setState((old) => ({ ...old, error: error.message })),
    );
  }, []);
  useEffect(() => {
    const made = new Painter(canvas.current!, pool);
    painter.current = made;
    return () => made.stop();
  }, [canvas, pool]);
  useEffect(
    () => want(recipe),
    // The placement is spelled out: a new object with the same numbers must not start a new picture.
    [want, pool, negative, recipe, mode, scale, left, top, dpr, visible.x, visible.y, visible.width, visible.height],
  );
  return { ...state, want };
}
