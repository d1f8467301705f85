import type { Part } from "../parts/part.ts";
import { defaultRecipe } from "./defaults.ts";
import { PARTS, type RecipePart } from "./parts.ts";
import type { Recipe } from "./schema.ts";

/**
 * Takes one line of the ticket out of a recipe: its fields go back to their defaults, a light move or an area is switched
 * off, families go back to 0.
 * @param id - a line's id as `describeRecipe` gives it; an unknown one changes nothing.
 */
export function strikeLine(recipe: Recipe, id: string): Recipe {
  return switchLine(recipe, id, null);
}

/** Puts a line back as it stands in `source`. */
export function restoreLine(recipe: Recipe, id: string, source: Recipe): Recipe {
  return switchLine(recipe, id, source);
}

/** The id of the item that is a ticket line of its own, such as a light move; null for other lines. */
export function itemOfLine(
  line: string,
): { readonly part: RecipePart; readonly list: string; readonly id: string } | null {
  const at = line.indexOf(":");
  const part = PARTS.find(({ itemLines }) => at > 0 && line.slice(0, at) in itemLines);
  return part ? { part: part.name, list: part.itemLines[line.slice(0, at)], id: line.slice(at + 1) } : null;
}

function switchLine(recipe: Recipe, id: string, source: Recipe | null): Recipe {
  const item = itemOfLine(id);
  if (item) return switchItem(recipe, item, source !== null);
  const part = PARTS.find(({ lines }) => Object.hasOwn(lines, id));
  return part ? { ...recipe, [part.name]: switchedPart(part, id, recipe[part.name], source?.[part.name]) } : recipe;
}

function switchItem(
  recipe: Recipe,
  { part, list, id }: NonNullable<ReturnType<typeof itemOfLine>>,
  on: boolean,
): Recipe {
  const value = recipe[part] as unknown as Record<string, readonly { readonly id: string }[]>;
  const items = value[list].map((one) => (one.id === id ? { ...one, on } : one));
  return { ...recipe, [part]: { ...value, [list]: items } };
}

function switchedPart(part: Part<unknown, RecipePart>, id: string, value: unknown, source: unknown): unknown {
  const line = part.lines[id];
  if ("strike" in line) return source === undefined ? line.strike(value) : line.restore(value, source);
  const from = source ?? defaultRecipe()[part.name];
  const out = structuredClone(value);
  for (const path of line) {
    const keys = path.split(".");
    const last = keys.pop()!;
    const inside = (at: unknown) =>
      keys.reduce<Record<string, unknown>>((where, key) => where[key] as Record<string, unknown>, at as never);
    inside(out)[last] = structuredClone(inside(from)[last]);
  }
  return out;
}
