import { defaultOf } from "../schema/defaults.ts";
import { PARTS } from "./parts.ts";
import { RECIPE_VERSION } from "./schema.ts";
import { isOfKind, isRecord, itemSchema, RECIPE_SCHEMA, type AnySchema, type Item } from "./walk.ts";

/**
 * Brings a recipe of an older version to the present one: whatever came since is filled in as it is in a fresh recipe, in
 * lists and in each kind of shape too, so that the print looks as it did. Items that had no ids get them by their place.
 * Anything else (present, newer, or no recipe) comes back as it is, to be checked.
 */
export function upgradeRecipe(input: unknown): unknown {
  if (!isRecord(input) || typeof input.version !== "number" || input.version >= RECIPE_VERSION) return input;
  const whole: Record<string, unknown> = { ...input, version: RECIPE_VERSION };
  for (const part of PARTS) {
    const value = input[part.name];
    if (part.earlier && isRecord(value)) whole[part.name] = { ...part.earlier(value), ...value };
  }
  return filled(RECIPE_SCHEMA, whole);
}

function filled(schema: AnySchema, value: unknown): unknown {
  if (Array.isArray(value)) {
    const { items } = schema;
    if (!items || Array.isArray(items)) return value;
    const named = itemSchema(schema) ? withIds(value) : value;
    return named.map((one: unknown) => filled(items as AnySchema, one));
  }
  if (!isRecord(value)) return value;
  if (schema.anyOf) {
    const fits = schema.anyOf.find(({ properties }) => properties && isOfKind(properties, value));
    return fits ? filled(fits, value) : value;
  }
  if (!schema.properties) return value;
  const out: Record<string, unknown> = { ...value };
  for (const [name, field] of Object.entries(schema.properties))
    out[name] = Object.hasOwn(value, name) ? filled(field, value[name]) : defaultOf(field);
  return out;
}

/** Gives an id that no other has to every item without one. */
function withIds(items: readonly unknown[]): readonly unknown[] {
  const taken = new Set(items.map((one) => (isRecord(one) ? (one as Partial<Item>).id : undefined)));
  let number = 0;
  const free = () => {
    do number++;
    while (taken.has(`s${number}`));
    return `s${number}`;
  };
  return items.map((one) => (isRecord(one) && !Object.hasOwn(one, "id") ? { id: free(), ...one } : one));
}
