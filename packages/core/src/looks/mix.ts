import { fieldsOf, RECIPE_SCHEMA, type AnySchema } from "../recipe/walk.ts";
import type { Recipe } from "../recipe/schema.ts";

/** From this share of a look on, what has no halfway is as the look has it. */
const HALFWAY = 0.5;

/**
 * A print on its way to another one: numbers by their share of the way (beyond 1 past it, as far as they may go), hues and
 * what has no halfway as the other has them from half the way on. At 0 it is the one to the letter, at 1 the other.
 */
export function mixRecipes(from: Recipe, to: Recipe, share: number): Recipe {
  if (share === 0) return from;
  if (share === 1) return to;
  return mixed(RECIPE_SCHEMA, from, to, share) as Recipe;
}

type NumberSchema = AnySchema & {
  readonly minimum?: number;
  readonly maximum?: number;
  readonly unit?: string;
  readonly type?: string;
};

function mixed(schema: AnySchema, a: unknown, b: unknown, share: number): unknown {
  if (a === b || JSON.stringify(a) === JSON.stringify(b)) return b;
  if (typeof a === "number" && typeof b === "number") {
    const { minimum = -Infinity, maximum = Infinity, unit, type } = schema as NumberSchema;
    if (type !== "number") return share >= HALFWAY ? b : a;
    // Half way between two hues is a third one.
    if (unit === "degrees" && maximum === 360 && minimum === 0) return b;
    return Number(Math.min(maximum, Math.max(minimum, a + (b - a) * share)).toPrecision(7));
  }
  if (Array.isArray(a) && Array.isArray(b)) return mixedLists(schema, a, b, share);
  const fields = isRecord(a) && isRecord(b) ? fieldsOf(schema, b) : null;
  if (!fields) return share >= HALFWAY ? b : a;
  return Object.fromEntries(
    Object.entries(b as Record<string, unknown>).map(([name, value]) => [
      name,
      fields[name] ? mixed(fields[name], (a as Record<string, unknown>)[name], value, share) : value,
    ]),
  );
}

/** Lists of the same items meet item by item, curves of as many points point by point. */
function mixedLists(schema: AnySchema, a: readonly unknown[], b: readonly unknown[], share: number): unknown {
  const { items } = schema;
  const single = items && !Array.isArray(items) ? (items as AnySchema) : null;
  if (single && a.every(isNamed) && b.every(isNamed)) {
    const before = new Map(a.map((one) => [one.id, one]));
    return b.map((one) => (before.has(one.id) ? mixed(single, before.get(one.id), one, share) : one));
  }
  const areCurves = a.length === b.length && [...a, ...b].every((one) => Array.isArray(one) && one.length === 2);
  if (!areCurves || share > 1) return share >= HALFWAY ? b : a;
  return (b as [number, number][]).map(([x, y], i) => {
    const [ax, ay] = a[i] as [number, number];
    return [ax + (x - ax) * share, ay + (y - ay) * share];
  });
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);
const isNamed = (value: unknown): value is { readonly id: string } => isRecord(value) && typeof value.id === "string";
