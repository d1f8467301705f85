import { recipeSchema } from "./schema.ts";

/** As much of a JSON schema as walking a recipe needs. */
export interface AnySchema {
  readonly type?: string;
  readonly properties?: Readonly<Record<string, AnySchema>>;
  readonly items?: AnySchema | readonly AnySchema[];
  readonly anyOf?: readonly AnySchema[];
  readonly const?: unknown;
  readonly maxItems?: number;
  /** What the items of a list are called, in the plural. */
  readonly noun?: string;
}

/** Something in a list that is known by its id. */
export interface Item {
  readonly id: string;
}

export const RECIPE_SCHEMA = recipeSchema as AnySchema;

/** The schema of a list's items when they are known by ids; null for anything else. */
export function itemSchema({ items }: AnySchema): AnySchema | null {
  const one = items && !Array.isArray(items) ? (items as AnySchema) : null;
  return one?.properties && Object.hasOwn(one.properties, "id") ? one : null;
}

/**
 * The schema whose fields a value has: itself, or the kind of a union that it is. Null for what is taken as one value:
 * numbers, words, plain arrays, and what may be absent.
 */
export function fieldsOf(schema: AnySchema, value: unknown): Readonly<Record<string, AnySchema>> | null {
  if (!isRecord(value)) return null;
  if (schema.properties) return schema.properties;
  if (!schema.anyOf || schema.anyOf.some(({ type }) => type === "null")) return null;
  return schema.anyOf.find((kind) => kind.properties && isOfKind(kind.properties, value))?.properties ?? null;
}

/** Whether a value has what a schema's constants say. */
export function isOfKind(fields: Readonly<Record<string, AnySchema>>, value: Record<string, unknown>): boolean {
  return Object.entries(fields).every(([name, field]) => field.const === undefined || value[name] === field.const);
}

export function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
