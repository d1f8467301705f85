import { useEffect, useState } from "react";
import { useEdit } from "../data/use-session.ts";
import type { WorkerResults } from "../picture/protocol.ts";
import type { RenderPool } from "../picture/render-pool.ts";

const REST_MS = 240;

/** What Ground shows of the picture; it follows the edits at a short distance. Null until it was measured. */
export function useGroundMeasured(pool: RenderPool): WorkerResults["ground"] | null {
  const recipe = useEdit((state) => state.recipe);
  const { ground, weigh } = recipe;
  const [found, setFound] = useState<WorkerResults["ground"] | null>(null);
  useEffect(() => {
    let live = true;
    const timer = setTimeout(() => {
      pool.ground(recipe).then(
        (measured) => live && setFound(measured),
        () => undefined,
      );
    }, REST_MS);
    return () => {
      live = false;
      clearTimeout(timer);
    };
    // Tone and light moves change nothing of it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pool, ground, weigh]);
  return found;
}
