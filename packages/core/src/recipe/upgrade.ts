import { defaultOf } from "./defaults.ts";
import { RECIPE_VERSION, recipeSchema } from "./schema.ts";

/**
 * Brings a recipe of an older version to the present one: whatever came since is filled in as it is in a fresh recipe,
 * so that the print looks as it did. Anything else (present, newer, or no recipe) comes back as it is, to be checked.
 */
export function upgradeRecipe(input: unknown): unknown {
  if (!isRecord(input) || typeof input.version !== "number" || input.version >= RECIPE_VERSION) return input;
  return { ...(filled(recipeSchema, input) as object), version: RECIPE_VERSION };
}

function filled(schema: object, value: unknown): unknown {
  const { properties } = schema as { properties?: Record<string, object> };
  if (!properties || !isRecord(value)) return value;
  const out: Record<string, unknown> = { ...value };
  for (const [name, field] of Object.entries(properties))
    out[name] = name in value ? filled(field, value[name]) : defaultOf(field);
  return out;
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
