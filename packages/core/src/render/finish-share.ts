import { evenZones, plainMove } from "../parts/light/schema.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";

/** What of the finish a light move can strengthen or weaken where it is. */
export const SHARED = ["tone", "grain"] as const;
export type Shared = (typeof SHARED)[number];

/**
 * A recipe whose moves lift by as many stops as they strengthen the tone or the grain: its sum of moves says how much more (+) or less
 * (−) of it each place has. Null when no move does.
 */
export function shareRecipe(recipe: Recipe, of: Shared): Recipe | null {
  const { light } = recipe;
  const moves = light.moves
    .filter(({ on, effects }) => on && effects[of] !== 0)
    .map((move) => ({
      ...move,
      stops: move.effects[of],
      byZone: evenZones().byZone,
      curve: plainMove().curve,
      effects: plainMove().effects,
    }));
  return moves.length === 0 ? null : { ...recipe, light: { ...light, moves }, finish: defaultRecipe().finish };
}
