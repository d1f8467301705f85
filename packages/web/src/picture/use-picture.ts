import { frameOf, type Frame, type Negative, type Recipe } from "@yelm/core";
import { useEffect, useMemo, useRef, useState, type RefObject } from "react";
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

/** Keeps a canvas showing the print at a placement. */
export function usePicture(
  canvas: RefObject<HTMLCanvasElement | null>,
  pool: RenderPool,
  negative: Negative,
  recipe: Recipe,
  mode: PictureMode,
  placement: Placement,
): PictureState {
  const [state, setState] = useState<PictureState>({ error: null, first: true });
  const painter = useRef<{ readonly pool: RenderPool; readonly painter: Painter } | null>(null);
  const { visible, scale, left, top, dpr } = placement;

  useEffect(() => {
    if (painter.current?.pool !== pool) painter.current = { pool, painter: new Painter(canvas.current!, pool) };
    return painter.current.painter.show(
      { negative, recipe, mode, placement },
      () => setState((old) => (old.error === null && !old.first ? old : { error: null, first: false })),
      (error) => setState((old) => ({ ...old, error: error.message })),
    );
    // The placement is spelled out: a new object with the same numbers must not start a new picture.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pool, negative, recipe, mode, scale, left, top, dpr, visible.x, visible.y, visible.width, visible.height]);
  return state;
}
