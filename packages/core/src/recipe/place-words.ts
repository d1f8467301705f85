import type { Recipe } from "./schema.ts";
import { fieldsOf, itemSchema, RECIPE_SCHEMA, type AnySchema, type Item } from "./walk.ts";

const UNITS = /(Ev|Stops|Degrees|Percent|Um|Mm)$/;

/** A place of a recipe in words: "stops of Tower", "exposure". @param place - as changes state it. */
export function placeWords(recipe: Recipe, place: string): string {
  let schema: AnySchema | undefined = RECIPE_SCHEMA;
  let value: unknown = recipe;
  let owner = "";
  let field = "";
  for (const key of place.split("/")) {
    const item: AnySchema | null = schema ? itemSchema(schema) : null;
    if (item && Array.isArray(value)) {
      value = (value as Item[]).find(({ id }) => id === key);
      schema = item;
      owner = (value as { name?: string } | undefined)?.name ?? owner;
      field = "";
    } else {
      schema = schema && fieldsOf(schema, value)?.[key];
      value = (value as Record<string, unknown> | undefined)?.[key];
      field = key;
    }
  }
  const words =
    field === ""
      ? ""
      : field
          .replace(UNITS, "")
          .replace(/([A-Z])/g, " $1")
          .toLowerCase();
  if (owner === "") return words || "an item";
  return words === "" ? owner : `${words} of ${owner}`;
}

/** The outermost list item on the way to a place, with where it lies; null when there is none. */
export function itemAt(
  recipe: Recipe,
  place: string,
): { readonly list: string; readonly item: Item; readonly after: string | null } | null {
  let schema: AnySchema | undefined = RECIPE_SCHEMA;
  let value: unknown = recipe;
  const keys = place.split("/");
  for (const [i, key] of keys.entries()) {
    const item: AnySchema | null = schema ? itemSchema(schema) : null;
    if (item && Array.isArray(value)) {
      const items = value as Item[];
      const at = items.findIndex(({ id }) => id === key);
      if (at === -1) return null;
      return { list: keys.slice(0, i).join("/"), item: items[at], after: items[at - 1]?.id ?? null };
    }
    schema = schema && fieldsOf(schema, value)?.[key];
    value = (value as Record<string, unknown> | undefined)?.[key];
  }
  return null;
}
