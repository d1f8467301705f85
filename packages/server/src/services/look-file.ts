import { COPIED_PARTS, type Look } from "@yelm/core";
import { Type } from "@sinclair/typebox";
import { AppError } from "../errors.ts";
import { check, checkRecipe } from "../validate.ts";
import type { NewLook } from "./looks.ts";

/** What a look's file calls itself, and its version. */
const KIND = "yelm look";
const VERSION = 1;

const closed = { additionalProperties: false };
const share = Type.Number({ minimum: 0, maximum: 0.5 });

/** What is kept of a look, as it comes from outside. */
export const lookFields = {
  name: Type.String({ minLength: 1, maxLength: 80 }),
  note: Type.String({ maxLength: 400 }),
  parts: Type.Array(Type.Union(COPIED_PARTS.map((group) => Type.Literal(group.id))), { minItems: 1, maxItems: 64 }),
  recipe: Type.Unknown(),
  fit: Type.Union([
    Type.Object(
      {
        beyond: Type.Tuple([share, share]),
        middle: Type.Union([Type.Number({ minimum: 0, maximum: 10 }), Type.Null()]),
      },
      closed,
    ),
    Type.Null(),
  ]),
};
const newLook = Type.Object(lookFields, closed);
const lookFile = Type.Object(
  { kind: Type.Literal(KIND), version: Type.Integer({ minimum: 1 }), ...lookFields },
  closed,
);

/**
 * Checks a look from outside.
 * @throws {AppError} bad_request or bad_recipe.
 */
export function checkLook(input: unknown): NewLook {
  const { recipe, ...rest } = check(newLook, input, "the look");
  return { ...rest, recipe: checkRecipe(recipe) };
}

/**
 * Reads a look's file.
 * @throws {AppError} bad_request when it is none, is of a later version, or is damaged.
 */
export function readLookFile(input: unknown): NewLook {
  const { kind, version, ...look } = check(lookFile, input, "the file of a look");
  void kind;
  if (version > VERSION)
    throw new AppError("bad_request", `Expected a look's file of version ${VERSION} but received ${version}.`, {
      field: "version",
      hint: "It was written by a later Yelm; bring this one up to date.",
    });
  return checkLook(look);
}

/** A look as a file that opens elsewhere. */
export function lookFileOf({ name, note, parts, recipe, fit }: Look): object {
  return { kind: KIND, version: VERSION, name, note, parts, recipe, fit };
}
