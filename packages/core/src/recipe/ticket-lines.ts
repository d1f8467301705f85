import { defaultRecipe } from "./defaults.ts";
import type { Recipe } from "./schema.ts";

/** The recipe fields behind the ticket's lines, by line id; light moves are lines of their own. */
const LINE_FIELDS: Readonly<Record<string, readonly string[]>> = {
  exposure: ["ground.exposureEv"],
  white: ["ground.whiteBalance"],
  "fall-off": ["ground.lens.fallOffStops"],
  bending: ["ground.lens.distortion"],
  keystone: ["ground.lens.keystoneVertical", "ground.lens.keystoneHorizontal"],
  calm: ["ground.calm"],
  clean: ["ground.clean"],
  turn: ["ground.quarterTurns"],
  straighten: ["ground.angleDegrees"],
  crop: ["ground.crop"],
  weights: ["weigh.red", "weigh.green", "weigh.blue"],
  "black-point": ["shape.blackPoint"],
  "white-point": ["shape.whitePoint"],
  mid: ["shape.midPoint"],
  grade: ["shape.grade"],
  local: ["shape.localContrast"],
  film: ["shape.characteristic"],
  curve: ["shape.curve"],
  grain: ["finish.grain.granularity"],
  toning: ["finish.toning.toner"],
  edges: ["finish.edgeBurn.stops"],
};

/**
 * Takes one line of the ticket out of a recipe: its fields go back to their defaults, a light move is switched off.
 * @param id - a line's id as `describeRecipe` gives it; an unknown one changes nothing.
 */
export function strikeLine(recipe: Recipe, id: string): Recipe {
  return id.startsWith("move:") ? switchMove(recipe, id, false) : copyLine(recipe, id, defaultRecipe());
}

/** Puts a line back as it stands in `source`. */
export function restoreLine(recipe: Recipe, id: string, source: Recipe): Recipe {
  return id.startsWith("move:") ? switchMove(recipe, id, true) : copyLine(recipe, id, source);
}

function switchMove(recipe: Recipe, id: string, on: boolean): Recipe {
  const moves = recipe.light.moves.map((move) => (`move:${move.id}` === id ? { ...move, on } : move));
  return { ...recipe, light: { moves } };
}

function copyLine(recipe: Recipe, id: string, source: Recipe): Recipe {
  const out = structuredClone(recipe);
  for (const path of LINE_FIELDS[id] ?? []) {
    const keys = path.split(".");
    const last = keys.pop()!;
    const inside = (from: Recipe) =>
      keys.reduce<Record<string, unknown>>((at, key) => at[key] as Record<string, unknown>, from);
    inside(out)[last] = structuredClone(inside(source)[last]);
  }
  return out;
}
