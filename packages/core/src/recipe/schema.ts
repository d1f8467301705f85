import { Type } from "@sinclair/typebox";
import { closed } from "../schema/fields.ts";
import { PARTS, type PartValues } from "./parts.ts";

/** Version of the recipe's shape; raised when an older recipe has to be migrated. */
export const RECIPE_VERSION = 15;

/** Everything a print is. */
export type Recipe = { version: typeof RECIPE_VERSION } & PartValues;

export const recipeSchema = Type.Unsafe<Recipe>(
  Type.Object(
    {
      version: Type.Literal(RECIPE_VERSION, { default: RECIPE_VERSION, description: "Version of this document." }),
      ...Object.fromEntries(PARTS.map(({ name, schema }) => [name, schema])),
    },
    { ...closed, $id: "yelm-recipe", title: "Yelm recipe", description: "Everything a print is." },
  ),
);
