import type { Recipe } from "./schema.ts";
import { fieldsOf, itemSchema, RECIPE_SCHEMA, type AnySchema, type Item } from "./walk.ts";

/** A list of a recipe whose items are known by ids. */
export interface FoundList {
  /** Where it lies: "light/moves", "light/moves/ID/shape/strokes". */
  readonly path: string;
  readonly items: readonly Item[];
  /** Most items that it may hold, and what they are called. */
  readonly most: number;
  readonly noun: string;
}

/** Every list of a recipe whose items are known by ids, outer ones first. */
export function listsIn(recipe: Recipe): FoundList[] {
  const found: FoundList[] = [];
  const visit = (schema: AnySchema, value: unknown, path: string) => {
    const item = itemSchema(schema);
    if (item && Array.isArray(value)) {
      const { maxItems: most = Infinity, noun = "items" } = schema;
      found.push({ path, items: value as Item[], most, noun });
      for (const one of value as Item[]) visit(item, one, `${path}/${one.id}`);
      return;
    }
    const fields = fieldsOf(schema, value);
    if (!fields) return;
    for (const [name, field] of Object.entries(fields))
      visit(field, (value as Record<string, unknown>)[name], path === "" ? name : `${path}/${name}`);
  };
  visit(RECIPE_SCHEMA, recipe, "");
  return found;
}

/** A sentence when a recipe holds more of something than it may; null when all is well. */
export function tooMany(recipe: Recipe): string | null {
  const full = listsIn(recipe).find(({ items, most }) => items.length > most);
  return full ? `There is room for ${full.most} ${full.noun}, and they are all in use. Take one away first.` : null;
}
