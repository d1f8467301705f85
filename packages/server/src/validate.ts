import { Ajv, type ErrorObject, type ValidateFunction } from "ajv";
import type { Static, TSchema } from "@sinclair/typebox";
import { recipeFault, recipeSchema, upgradeRecipe, type Recipe } from "@yelm/core";
import { AppError } from "./errors.ts";

const ajv = new Ajv({ allErrors: false, strict: true, strictTuples: false, discriminator: false });
ajv.addVocabulary(["unit", "noun"]);
const compiled = new WeakMap<TSchema, ValidateFunction>();

/** Levels of objects and arrays within each other; a recipe has nine. */
const DEEPEST = 32;
/** Values in one recipe: a painter's whole day, and some tenths of a second to check. */
const MOST_VALUES = 200_000;

/**
 * Makes sure that input from outside is not nested so deeply, nor so large, that looking at it would take the server's breath.
 * @throws {AppError} bad_request or too_large.
 */
export function checkBounds(input: unknown, what: string, most = Infinity): void {
  const waiting: [value: unknown, depth: number][] = [[input, 0]];
  let count = 0;
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const [value, depth] = next;
    if (++count > most)
      throw new AppError("too_large", `Expected at most ${most.toLocaleString("en")} values in ${what}.`, {
        hint: "Painted strokes take up the most: use fewer or shorter ones, or go on in another print.",
      });
    if (typeof value !== "object" || value === null) continue;
    if (depth >= DEEPEST)
      throw new AppError("bad_request", `Expected at most ${DEEPEST} levels within each other in ${what}.`);
    for (const inner of Object.values(value)) waiting.push([inner, depth + 1]);
  }
}

/**
 * Checks outside input against a schema.
 * @throws {AppError} bad_request that names the field, what was expected and what came.
 */
export function check<T extends TSchema>(schema: T, input: unknown, what: string): Static<T> {
  let validate = compiled.get(schema);
  if (!validate) compiled.set(schema, (validate = ajv.compile(schema)));
  if (validate(input)) return input;
  const error = mostTelling(validate.errors ?? []);
  const field = error.instancePath.slice(1).replaceAll("/", ".") || undefined;
  throw new AppError("bad_request", `Expected ${expectation(error)} for ${field ?? what}${received(input, error)}.`, {
    field,
  });
}

/**
 * Checks a recipe from outside.
 * @throws {AppError} bad_recipe.
 */
export function checkRecipe(input: unknown): Recipe {
  try {
    checkBounds(input, "the recipe", MOST_VALUES);
    const recipe = check(recipeSchema, upgradeRecipe(input), "the recipe");
    const fault = recipeFault(recipe);
    if (fault)
      throw new AppError(
        "bad_recipe",
        `Expected ${fault.expected} for ${fault.field} but received ${fault.received}.`,
        { field: fault.field },
      );
    return recipe;
  } catch (error) {
    if (!(error instanceof AppError)) throw error;
    if (error.code === "too_large") throw error;
    throw new AppError("bad_recipe", error.message, {
      ...error.detail,
      hint: "docs/recipe.md lists every field with its range.",
    });
  }
}

function mostTelling(errors: ErrorObject[]): ErrorObject {
  return errors.find((e) => !["anyOf", "const"].includes(e.keyword)) ?? errors[0];
}

function expectation({ keyword, params, message }: ErrorObject): string {
  const p = params as Record<string, unknown>;
  switch (keyword) {
    case "type":
      return `${String(p.type)}`;
    case "minimum":
      return `at least ${String(p.limit)}`;
    case "maximum":
      return `at most ${String(p.limit)}`;
    case "enum":
      return `one of ${(p.allowedValues as unknown[]).join(", ")}`;
    case "required":
      return `a value called "${String(p.missingProperty)}"`;
    case "additionalProperties":
      return `nothing called "${String(p.additionalProperty)}"`;
    default:
      return message ?? keyword;
  }
}

function received(input: unknown, { instancePath, keyword }: ErrorObject): string {
  if (keyword === "required" || keyword === "additionalProperties") return "";
  let value: unknown = input;
  for (const key of instancePath.split("/").slice(1)) value = (value as Record<string, unknown> | undefined)?.[key];
  return ` but received ${(JSON.stringify(value) ?? "nothing").slice(0, 80)}`;
}
