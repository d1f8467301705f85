import {
  isWorseEdge,
  type ClippingCost,
  type EdgeDamage,
  type EdgePlace,
  type Recipe,
  type Roughness,
  type Seam,
} from "@yelm/core";
import type { RenderPool } from "../../workers/render-pool.ts";

/** What a conversion costs beyond noise. Places are 0–1 of the frame. */
export interface WeighPrice {
  readonly clipping: ClippingCost;
  /** The edge between two groups that suffers most. */
  readonly edge: (EdgeDamage & EdgePlace) | null;
  /** Where the inside of a colour suffers most; null where no family is moved. */
  readonly rough: Roughness | null;
  /** The steepest edge of an area. */
  readonly seam: (Seam & { readonly areaId: string }) | null;
}

/**
 * Measures the price in short steps, so that the picture is never kept waiting for long.
 * @param signal - asked between the steps.
 * @throws its reason once it is no longer wanted.
 */
export async function measurePrice(pool: RenderPool, recipe: Recipe, signal: AbortSignal): Promise<WeighPrice> {
  // Their tiles are on the way meanwhile.
  const places = await pool.ask("edgePlaces", { recipe });
  signal.throwIfAborted();
  const clipping = await pool.ask("clipping", { recipe });
  signal.throwIfAborted();
  let edge: WeighPrice["edge"] = null;
  for (const place of places) {
    const damage = await pool.ask("edge", { recipe, place });
    signal.throwIfAborted();
    if (damage && (!edge || isWorseEdge(damage, edge))) edge = { ...damage, ...place };
  }
  let rough: WeighPrice["rough"] = null;
  for (const place of await pool.ask("innerPlaces", { recipe })) {
    const roughness = await pool.ask("roughness", { recipe, place });
    signal.throwIfAborted();
    if (!rough || roughness > rough.roughness) rough = { ...place, roughness };
  }
  let seam: WeighPrice["seam"] = null;
  for (const [index, { id, on }] of recipe.weigh.areas.entries()) {
    if (!on) continue;
    const found = await pool.ask("seam", { recipe, index });
    signal.throwIfAborted();
    if (found && found.stopsPerPercent > (seam?.stopsPerPercent ?? 0)) seam = { ...found, areaId: id };
  }
  return { clipping, edge, rough, seam };
}
