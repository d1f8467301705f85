import type { Fault } from "../parts/part.ts";
import { listsIn } from "./lists.ts";
import { PARTS } from "./parts.ts";
import type { Recipe } from "./schema.ts";

/**
 * What a recipe's schema cannot say: what rises, what needs something else, and that the items of a list have ids of their
 * own.
 * @param recipe - one that fits the schema.
 */
export function recipeFault(recipe: Recipe): Fault | null {
  for (const part of PARTS) {
    const fault = part.check(recipe[part.name]);
    if (fault) return { ...fault, field: `${part.name}.${fault.field}` };
  }
  for (const { path, items } of listsIn(recipe)) {
    const ids = new Set<string>();
    for (const { id } of items) {
      if (ids.has(id))
        return {
          field: path.replaceAll("/", "."),
          expected: "a different id for each item",
          received: `"${id}" twice`,
        };
      ids.add(id);
    }
  }
  return null;
}
