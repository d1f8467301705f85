import { RECIPE_VERSION, type Recipe } from "./schema.ts";
import { fieldsOf, isRecord, itemSchema, RECIPE_SCHEMA, type AnySchema, type Item } from "./walk.ts";

/**
 * One step of a change. Places are paths of field names and item ids ("light/moves/ID/stops"), so that they mean the same
 * whatever else was added or taken away. `after` is the id of the item before, null for the first place.
 */
export type RecipeChange =
  | { readonly op: "set"; readonly path: string; readonly value: unknown }
  /** Puts an item in: in its place when it is there, else after another. */
  | { readonly op: "put"; readonly list: string; readonly item: Item; readonly after: string | null }
  | { readonly op: "move"; readonly list: string; readonly id: string; readonly after: string | null }
  | { readonly op: "remove"; readonly list: string; readonly id: string };

/** A change that does not fit the recipe it is to be made to. */
export class ChangeError extends Error {
  override readonly name = "ChangeError";
}

/** The smallest changes that lead from one recipe to another: fields, and items by id. */
export function changesBetween(before: Recipe, after: Recipe): RecipeChange[] {
  const changes: RecipeChange[] = [];
  compare(RECIPE_SCHEMA, "", before, after, changes);
  return changes;
}

/**
 * Makes changes to a recipe; what does not change is shared with it.
 * @throws {ChangeError} when a place is no field of a recipe or its item is not there.
 */
export function applyChanges(recipe: Recipe, changes: readonly RecipeChange[]): Recipe {
  return changes.reduce<unknown>((at, change) => applyChange(at, change), recipe) as Recipe;
}

/** The place that a change is about: of a field, or of an item. */
export function placeOf(change: RecipeChange): string {
  if (change.op === "set") return change.path;
  return `${change.list}/${change.op === "put" ? change.item.id : change.id}`;
}

/** Two changes that cannot both be had: the same field, or an item changed here and taken away there. */
export function isConflict(one: RecipeChange, other: RecipeChange): boolean {
  const [p, q] = [placeOf(one), placeOf(other)];
  if (p === q) return one.op !== "move" || other.op !== "put";
  const outer = p.startsWith(`${q}/`) ? other : q.startsWith(`${p}/`) ? one : null;
  return outer !== null && outer.op !== "move";
}

function compare(schema: AnySchema, path: string, before: unknown, after: unknown, out: RecipeChange[]): void {
  if (before === after) return;
  const item = itemSchema(schema);
  if (item && Array.isArray(before) && Array.isArray(after)) {
    compareLists(item, path, before as Item[], after as Item[], out);
    return;
  }
  const [p, q] = [fieldsOf(schema, before), fieldsOf(schema, after)];
  if (p && p === q) {
    for (const [name, field] of Object.entries(p)) {
      const inside = path === "" ? name : `${path}/${name}`;
      compare(field, inside, (before as Record<string, unknown>)[name], (after as Record<string, unknown>)[name], out);
    }
    return;
  }
  if (JSON.stringify(before) !== JSON.stringify(after)) out.push({ op: "set", path, value: after });
}

function compareLists(
  item: AnySchema,
  list: string,
  before: readonly Item[],
  after: readonly Item[],
  out: RecipeChange[],
) {
  const old = new Map(before.map((one) => [one.id, one]));
  const wanted = new Set(after.map(({ id }) => id));
  for (const { id } of before) if (!wanted.has(id)) out.push({ op: "remove", list, id });
  const stay = new Set(
    longestRising(
      after.filter(({ id }) => old.has(id)),
      before,
    ),
  );
  after.forEach((one, i) => {
    const previous = i > 0 ? after[i - 1].id : null;
    const known = old.get(one.id);
    if (!known) {
      out.push({ op: "put", list, item: one, after: previous });
      return;
    }
    if (!stay.has(one.id)) out.push({ op: "move", list, id: one.id, after: previous });
    if (fieldsOf(item, known) !== fieldsOf(item, one)) out.push({ op: "put", list, item: one, after: previous });
    else compare(item, `${list}/${one.id}`, known, one, out);
  });
}

/** Ids of the longest run of items whose order did not change. */
function longestRising(items: readonly Item[], before: readonly Item[]): string[] {
  const place = new Map(before.map(({ id }, i) => [id, i]));
  const places = items.map(({ id }) => place.get(id)!);
  const best = places.map(() => 1);
  const from = places.map(() => -1);
  let end = -1;
  places.forEach((at, i) => {
    for (let k = 0; k < i; k++)
      if (places[k] < at && best[k] + 1 > best[i]) {
        best[i] = best[k] + 1;
        from[i] = k;
      }
    if (end === -1 || best[i] > best[end]) end = i;
  });
  const run: string[] = [];
  for (let i = end; i >= 0; i = from[i]) run.push(items[i].id);
  return run;
}

function applyChange(recipe: unknown, change: RecipeChange): unknown {
  if (change.op === "set") {
    if (change.path === "version") throw new ChangeError(`Expected version ${RECIPE_VERSION} to stay as it is.`);
    return within(RECIPE_SCHEMA, recipe, change.path.split("/"), change.path, () => change.value);
  }
  return within(RECIPE_SCHEMA, recipe, change.list.split("/"), change.list, (value, schema) => {
    if (!itemSchema(schema) || !Array.isArray(value))
      throw new ChangeError(`Expected a list with items of their own ids but received "${change.list}".`);
    return changeList(value as Item[], change);
  });
}

function changeList(items: readonly Item[], change: Exclude<RecipeChange, { op: "set" }>): Item[] {
  if (change.op === "put") {
    const { item } = change;
    if (!isRecord(item) || typeof item.id !== "string") throw new ChangeError("Expected an item with an id.");
    const there = items.findIndex(({ id }) => id === item.id);
    return there === -1 ? inserted(items, item, change.after) : items.map((one, i) => (i === there ? item : one));
  }
  const found = items.find(({ id }) => id === change.id);
  if (!found) throw new ChangeError(`Expected an item "${change.id}" in ${change.list} but there is none.`);
  const others = items.filter((one) => one !== found);
  return change.op === "remove" ? others : inserted(others, found, change.after);
}

/** An item after another one; at the end when that one is gone. */
function inserted(items: readonly Item[], item: Item, after: string | null): Item[] {
  const before = after === null ? 0 : items.findIndex(({ id }) => id === after) + 1;
  const at = after !== null && before === 0 ? items.length : before;
  return [...items.slice(0, at), item, ...items.slice(at)];
}

function within(
  schema: AnySchema,
  value: unknown,
  keys: readonly string[],
  path: string,
  change: (value: unknown, schema: AnySchema) => unknown,
): unknown {
  const [key, ...rest] = keys;
  if (key === undefined) return change(value, schema);
  const item = itemSchema(schema);
  if (item && Array.isArray(value)) {
    const at = (value as Item[]).findIndex(({ id }) => id === key);
    if (at === -1) throw new ChangeError(`Expected an item "${key}" on the way to ${path} but there is none.`);
    return value.map((one: unknown, i) => (i === at ? within(item, one, rest, path, change) : one));
  }
  const fields = fieldsOf(schema, value);
  if (!fields || !Object.hasOwn(fields, key))
    throw new ChangeError(`Expected a field of the recipe but received "${path}".`);
  const old = value as Record<string, unknown>;
  return { ...old, [key]: within(fields[key], old[key], rest, path, change) };
}
