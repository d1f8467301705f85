/** What a schema stands for when nothing is said: its default, or an object of its properties' defaults. */
export function defaultOf(schema: object): unknown {
  const {
    default: value,
    properties,
    const: only,
  } = schema as {
    default?: unknown;
    properties?: Record<string, object>;
    const?: unknown;
  };
  // Most are numbers and words, which nobody can change; copying costs as much for them as for lists.
  if (value !== undefined) return typeof value === "object" ? structuredClone(value) : value;
  if (only !== undefined) return only;
  return Object.fromEntries(Object.entries(properties ?? {}).map(([name, field]) => [name, defaultOf(field)]));
}

/** Limits and default of a numeric field, read from the schema, for controls and validation messages. */
export interface NumberRange {
  readonly minimum: number;
  readonly maximum: number;
  readonly default: number;
  readonly unit: string;
  readonly description: string;
}

/**
 * The range of a numeric field of one of the recipe's schemas.
 * @throws {RangeError} when the field is not a number of that schema.
 */
export function rangeOf(schema: { properties: Record<string, unknown> }, field: string): NumberRange {
  const found = schema.properties[field] as (NumberRange & { type?: string }) | undefined;
  if (found?.type !== "number") throw new RangeError(`Expected a numeric field but received "${field}".`);
  return found;
}
