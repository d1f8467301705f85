import type { Station } from "../parts/stations.ts";
import { defaultRecipe } from "./defaults.ts";
import { PARTS } from "./parts.ts";
import type { Recipe } from "./schema.ts";

/** One readable line of a recipe. */
export interface TicketLine {
  /** Stable name of the line, used to switch it and to find its control. */
  readonly id: string;
  readonly station: Station;
  readonly text: string;
}

const FRESH = defaultRecipe();

/** Everything that differs from a fresh recipe, as lines in the order of the work. */
export function describeRecipe(recipe: Recipe): TicketLine[] {
  return PARTS.flatMap((part) =>
    part.describe(recipe[part.name], FRESH[part.name]).map(({ id, text }) => ({ id, station: part.station, text })),
  );
}
