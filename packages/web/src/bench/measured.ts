import type { Histograms } from "@yelm/core";
import { useEffect } from "react";
import { createStore } from "zustand/vanilla";
import type { EditSession } from "../data/edit-session.ts";
import type { RenderPool } from "../picture/render-pool.ts";

const REST_MS = 220;

interface Measured {
  readonly histograms: Histograms | null;
}

/** What was measured of the print on the bench; it follows the edits at a short distance. */
export const measured = createStore<Measured>(() => ({ histograms: null }));

/** Measures the print each time the hand rests. */
export function useMeasuring(pool: RenderPool, session: EditSession): void {
  useEffect(() => {
    let live = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const measure = () => {
      const { recipe } = session.store.getState();
      pool.measure(recipe).then(
        (histograms) => live && measured.setState({ histograms }),
        () => undefined,
      );
    };
    const rest = () => {
      clearTimeout(timer);
      timer = setTimeout(measure, REST_MS);
    };
    measured.setState({ histograms: null });
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
