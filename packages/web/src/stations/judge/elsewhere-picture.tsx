import { frameOf, type View } from "@yelm/core";
import { useCallback, useEffect, useMemo, useState } from "react";
import type { Placement } from "../../picture/placement.ts";
import { newPool } from "../../workers/early-pool.ts";
import type { RenderPool } from "../../workers/render-pool.ts";
import { DrawnPicture } from "./drawn-picture.tsx";
import { likePlaced } from "./like-placed.ts";
import type { Elsewhere } from "./use-compared.ts";

/** A print of another negative, as large as the one at `placement` and with the same part of it seen. Its workers live as long as it is shown. */
export function ElsewherePicture({ of: { print, negative }, placement }: { of: Elsewhere; placement: Placement }) {
  const [pool, setPool] = useState<RenderPool | null>(null);
  useEffect(() => {
    const made = newPool(negative);
    setPool(made);
    return () => made.close();
  }, [negative]);
  const { recipe } = print;
  const frame = useMemo(() => frameOf(negative, recipe.ground), [negative, recipe.ground]);
  const draw = useCallback(
    async (view: View) => (await pool?.render(recipe, view, "print"))?.pixels ?? null,
    [pool, recipe],
  );
  return (
    <DrawnPicture draw={draw} negative={negative} placement={likePlaced(frame, placement)} testId="elsewhere-picture" />
  );
}
