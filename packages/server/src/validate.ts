import { Ajv, type ErrorObject, type ValidateFunction } from "ajv";
import type { Static, TSchema } from "@sinclair/typebox";
import { recipeSchema, upgradeRecipe, type FilmChoice, type Recipe } from "@yelm/core";
import { AppError } from "./errors.ts";

const ajv = new Ajv({ allErrors: false, strict: true, strictTuples: false, discriminator: false });
ajv.addVocabulary(["unit"]);
const compiled = new WeakMap<TSchema, ValidateFunction>();

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
    const recipe = check(recipeSchema, upgradeRecipe(input), "the recipe");
    checkBeyondSchema(recipe);
    return recipe;
  } catch (error) {
    if (!(error instanceof AppError)) throw error;
    throw new AppError("bad_recipe", error.message, {
      ...error.detail,
      hint: "docs/recipe.md lists every field with its range.",
    });
  }
}

/** What a schema cannot say: what rises, what needs a name of its own, what needs something else. */
function checkBeyondSchema({ ground, weigh, shape, light }: Recipe): void {
  checkRising(shape.curve, "shape.curve", "x");
  checkFilm(weigh.film, "weigh.film");
  weigh.areas.forEach(({ film }, i) => checkFilm(film, `weigh.areas.${i}.film`));
  checkNamedApart(ground.clean, "ground.clean");
  checkNamedApart(weigh.families, "weigh.families");
  checkNamedApart(weigh.areas, "weigh.areas");
  checkNamedApart(light.moves, "light.moves");
}

/** A film or filter of the user's own has a curve, whose wavelengths rise. */
function checkFilm({ film, filter, ownFilm, ownFilter }: FilmChoice, field: string): void {
  for (const [chosen, own, name] of [
    [film, ownFilm, "ownFilm"],
    [filter, ownFilter, "ownFilter"],
  ] as const) {
    if (chosen === "own" && !own)
      throw new AppError("bad_recipe", `Expected a curve for ${field}.${name} but received null.`, {
        field: `${field}.${name}`,
      });
    if (own) checkRising(own.points, `${field}.${name}.points`, "wavelengths");
  }
}

function checkRising(points: readonly (readonly [number, number])[], field: string, what: string): void {
  points.forEach(([x], i) => {
    if (i > 0 && !(x > points[i - 1][0]))
      throw new AppError("bad_recipe", `Expected rising ${what} for ${field} but received ${points[i - 1][0]}, ${x}.`, {
        field: `${field}.${i}`,
      });
  });
}

function checkNamedApart(items: readonly { readonly id: string }[], field: string): void {
  if (new Set(items.map(({ id }) => id)).size !== items.length)
    throw new AppError("bad_recipe", `Expected a different id for each of ${field} but received one twice.`, { field });
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
