import type { ClippingCost, EdgeDamage, EdgePlace, Recipe, Seam } from "@yelm/core";
import type { RenderPool } from "../picture/render-pool.ts";

/** What a conversion costs beyond noise. Places are 0–1 of the frame. */
export interface WeighPrice {
  readonly clipping: ClippingCost;
  /** The edge between two groups that suffers most. */
  readonly edge: (EdgeDamage & EdgePlace) | null;
  /** The steepest edge of an area. */
  readonly seam: (Seam & { readonly areaId: string }) | null;
}

/**
 * Measures the price in short steps, so that the picture is never kept waiting for long.
 * @param isWanted - asked between the steps.
 * @returns null when it is no longer wanted.
 */
export async function measurePrice(
  pool: RenderPool,
  recipe: Recipe,
  isWanted: () => boolean,
): Promise<WeighPrice | null> {
  const clipping = await pool.clipping(recipe);
  if (!isWanted()) return null;
  let edge: WeighPrice["edge"] = null;
  for (const place of await pool.edgePlaces(recipe)) {
    const damage = await pool.edge(recipe, place);
    if (!isWanted()) return null;
    if (damage && damage.contrast > (edge?.contrast ?? 0)) edge = { ...damage, ...place };
  }
  let seam: WeighPrice["seam"] = null;
  for (const [index, { id, on }] of recipe.weigh.areas.entries()) {
    if (!on) continue;
    const found = await pool.seam(recipe, index);
    if (!isWanted()) return null;
    if (found && found.stopsPerPercent > (seam?.stopsPerPercent ?? 0)) seam = { ...found, areaId: id };
  }
  return { clipping, edge, seam };
}
