import type { Negative, Recipe, View } from "@yelm/core";
import { useCallback, type CSSProperties } from "react";
import type { Placement } from "../../picture/placement.ts";
import { PoolClosedError } from "../../workers/pool-worker.ts";
import { usePool } from "../../workers/use-answer.ts";
import { DrawnPicture } from "./drawn-picture.tsx";

/** Another print of the negative than the one on the bench. */
export function OtherPicture({
  recipe,
  ...rest
}: {
  recipe: Recipe;
  negative: Negative;
  placement: Placement;
  style?: CSSProperties;
}) {
  const pool = usePool();
  const draw = useCallback(
    async (view: View) => {
      const { width, height } = view;
      try {
        const asked = { recipe, view, mode: "print", memory: new ArrayBuffer(4 * width * height) } as const;
        const { memory } = await pool.ask("render", asked);
        return new ImageData(new Uint8ClampedArray(memory, 0, 4 * width * height), width, height);
      } catch (error) {
        if (error instanceof PoolClosedError) return null;
        throw error;
      }
    },
    [pool, recipe],
  );
  return <DrawnPicture {...rest} draw={draw} testId="other-picture" />;
}
