import type { Histograms, PaletteColour, Recipe } from "@yelm/core";
import { useEffect } from "react";
import { createStore } from "zustand/vanilla";
import type { EditSession } from "../data/edit-session.ts";
import type { RenderPool } from "../picture/render-pool.ts";

const REST_MS = 220;

interface Measured {
  readonly histograms: Histograms | null;
  readonly palette: readonly PaletteColour[];
}

/** What was measured of the print on the bench; it follows the edits at a short distance. */
export const measured = createStore<Measured>(() => ({ histograms: null, palette: [] }));

/** Measures the print each time the hand rests; the colours only when the frame has changed. */
export function useMeasuring(pool: RenderPool, session: EditSession): void {
  useEffect(() => {
    let live = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let frame = "";
    const keep = (change: Partial<Measured>) => {
      if (live) measured.setState(change);
    };
    const measure = () => {
      const { recipe } = session.store.getState();
      pool.measure(recipe).then(
        (histograms) => keep({ histograms }),
        () => undefined,
      );
      const now = frameOf(recipe);
      if (now === frame) return;
      frame = now;
      const plain = { ...recipe, ground: { ...recipe.ground, exposureEv: 0 } };
      pool.palette(plain).then(
        (palette) => keep({ palette }),
        () => undefined,
      );
    };
    const rest = () => {
      clearTimeout(timer);
      timer = setTimeout(measure, REST_MS);
    };
    measured.setState({ histograms: null, palette: [] });
    rest();
    const stop = session.store.subscribe((now, before) => {
      if (now.recipe !== before.recipe) rest();
    });
    return () => {
      live = false;
      clearTimeout(timer);
      stop();
    };
  }, [pool, session]);
}

/** What of a recipe decides which colours are in the picture, and how they look. */
function frameOf({ ground: { angleDegrees, quarterTurns, crop, whiteBalance } }: Recipe): string {
  return JSON.stringify([angleDegrees, quarterTurns, crop, whiteBalance]);
}
