import { frameOf, hashOf, tilesVersion, type Frame, type Negative, type Recipe } from "@yelm/core";
import { useCallback, useEffect, useMemo, useRef, useState, type RefObject } from "react";
import { keepPicture, keptPictureAtHand } from "./kept-pictures.ts";
import { Painter, type Wanted } from "./painter.ts";
import type { Placement } from "./placement.ts";
import type { PictureMode } from "../workers/questions.ts";
import type { RenderPool } from "../workers/render-pool.ts";
import { RENDER_CODE } from "../workers/spare-workers.ts";

/** A picture is kept when it has been exact for so long. */
const KEEP_AFTER_MS = 2500;

export interface PictureState {
  readonly error: string | null;
  /** True until there is a first picture. */
  readonly first: boolean;
}

export function useFrame(negative: Negative, recipe: Recipe): Frame {
  const { ground } = recipe;
  return useMemo(() => frameOf(negative, ground), [negative, ground]);
}

/** The mark of a picture: of what, computed by what code, where. */
function markOf({ id, capture }: Negative, { recipe, mode, placement: { scale, visible } }: Wanted): string {
  return hashOf(JSON.stringify([RENDER_CODE, tilesVersion(capture), id, recipe, mode, scale, visible]));
}

/** The same for two placements that show the same. */
const numbersOf = ({ visible: { x, y, width, height }, scale, left, top, dpr }: Placement) =>
  [scale, left, top, dpr, x, y, width, height].join(" ");

const isWhole = ({ width, height, visible }: Placement) => visible.width === width && visible.height === height;

/**
 * Keeps a canvas showing the print at a placement. `want` shows another recipe at once, before React hears of it.
 * @param placement - null while its pane has no size yet.
 * @param rests - whether this is the print as it is, whose exact picture is worth keeping for the next time that it is opened.
 */
export function usePicture(
  canvas: RefObject<HTMLCanvasElement | null>,
  pool: RenderPool,
  printId: string,
  negative: Negative,
  recipe: Recipe,
  mode: PictureMode,
  placement: Placement | null,
  rests: boolean,
): PictureState & { readonly want: (recipe: Recipe) => void } {
  const [state, setState] = useState<PictureState>({ error: null, first: true });
  const painter = useRef<Painter | null>(null);
  const seen = useRef({ printId, negative, mode, placement });
  seen.current = { printId, negative, mode, placement };
  const numbers = placement && numbersOf(placement);
  const keptMark = useRef<string | null>(null);

  const want = useCallback((next: Recipe) => {
    const { negative, mode, placement } = seen.current;
    if (!placement) return;
    painter.current?.show(
      { negative, mode, placement, recipe: next },
      () => setState((old) => (old.error === null && !old.first ? old : { error: null, first: false })),
      (error) => setState((old) => ({ ...old, error: error.message })),
    );
  }, []);
  useEffect(() => {
    const made = new Painter(canvas.current!, pool, (wanted) => {
      const kept = isWhole(wanted.placement) ? keptPictureAtHand(seen.current.printId) : null;
      keptMark.current = kept?.mark ?? null;
      return kept && kept.mark === markOf(seen.current.negative, wanted) ? kept.image : null;
    });
    painter.current = made;
    return () => made.stop();
  }, [canvas, pool]);
  useEffect(
    () => want(recipe),
    // A new placement with the same numbers must not start a new picture.
    [want, pool, negative, recipe, mode, numbers],
  );
  useEffect(() => {
    if (!rests || mode !== "print") return;
    const timer = setInterval(() => {
      const exact = painter.current?.exact;
      if (exact?.recipe !== recipe || exact.mode !== "print" || !isWhole(exact.placement)) return;
      clearInterval(timer);
      const mark = markOf(seen.current.negative, exact);
      if (mark === keptMark.current) return;
      keptMark.current = mark;
      keepPicture(printId, mark, canvas.current!).catch(() => undefined);
    }, KEEP_AFTER_MS);
    return () => clearInterval(timer);
  }, [canvas, printId, rests, recipe, mode, numbers]);
  return { ...state, want };
}
