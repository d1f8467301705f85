import type { Histograms, PaletteColour, Recipe } from "@yelm/core";
import { useEffect, useState } from "react";
import type { RenderPool } from "../picture/render-pool.ts";

const REST_MS = 160;

/** Histograms of the print, measured again each time the hand rests. */
export function useHistograms(pool: RenderPool, recipe: Recipe): Histograms | null {
  const [histograms, setHistograms] = useState<Histograms | null>(null);
  useEffect(() => {
    let live = true;
    const timer = setTimeout(() => {
      pool
        .measure(recipe)
        .then((found) => live && setHistograms(found))
        .catch(() => undefined);
    }, REST_MS);
    return () => {
      live = false;
      clearTimeout(timer);
    };
  }, [pool, recipe]);
  return histograms;
}

/** The picture's main colours; they depend on the crop alone. */
export function usePalette(pool: RenderPool, recipe: Recipe): readonly PaletteColour[] {
  const [palette, setPalette] = useState<readonly PaletteColour[]>([]);
  const frame = JSON.stringify({ ...recipe.ground, exposureEv: 0 });
  useEffect(() => {
    let live = true;
    const timer = setTimeout(() => {
      pool
        .palette({ ...recipe, ground: { ...recipe.ground, exposureEv: 0 } })
        .then((found) => live && setPalette(found))
        .catch(() => undefined);
    }, REST_MS);
    return () => {
      live = false;
      clearTimeout(timer);
    };
    // Only the frame counts: a new recipe with the same frame has the same colours.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pool, frame]);
  return palette;
}
