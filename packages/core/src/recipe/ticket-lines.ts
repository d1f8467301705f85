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
  film: ["weigh.by"],
  weights: ["weigh.red", "weigh.green", "weigh.blue"],
  "black-point": ["shape.blackPoint"],
  "white-point": ["shape.whitePoint"],
  mid: ["shape.midPoint"],
  grade: ["shape.grade"],
  local: ["shape.localContrast"],
  characteristic: ["shape.characteristic"],
  curve: ["shape.curve"],
  grain: ["finish.grain.granularity"],
  toning: ["finish.toning.toner"],
  edges: ["finish.edgeBurn.stops"],
};

/**
 * Takes one line of the ticket out of a recipe: its fields go back to their defaults, a light move or an area is switched
 * off, families go back to 0.
 * @param id - a line's id as `describeRecipe` gives it; an unknown one changes nothing.
 */
export function strikeLine(recipe: Recipe, id: string): Recipe {
  if (id === "families") return moveFamiliesTo(recipe, () => 0);
  return isPart(id) ? switchPart(recipe, id, false) : copyLine(recipe, id, defaultRecipe());
}

/** Puts a line back as it stands in `source`. */
export function restoreLine(recipe: Recipe, id: string, source: Recipe): Recipe {
  if (id === "families")
    return moveFamiliesTo(recipe, (family) => source.weigh.families.find((one) => one.id === family)?.stops ?? 0);
  return isPart(id) ? switchPart(recipe, id, true) : copyLine(recipe, id, source);
}

function moveFamiliesTo(recipe: Recipe, stopsOf: (id: string) => number): Recipe {
  const families = recipe.weigh.families.map((family) => ({ ...family, stops: stopsOf(family.id) }));
  return { ...recipe, weigh: { ...recipe.weigh, families } };
}

/** Lines that stand for one of several like things and are switched rather than undone. */
function isPart(id: string): boolean {
  return id.startsWith("move:") || id.startsWith("area:");
}

function switchPart(recipe: Recipe, id: string, on: boolean): Recipe {
  const switched = <T extends { id: string; on: boolean }>(kind: string, parts: T[]) =>
    parts.map((part) => (`${kind}:${part.id}` === id ? { ...part, on } : part));
  return {
    ...recipe,
    light: { moves: switched("move", recipe.light.moves) },
    weigh: { ...recipe.weigh, areas: switched("area", recipe.weigh.areas) },
  };
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
