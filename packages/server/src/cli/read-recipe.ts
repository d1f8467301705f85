import { readFile } from "node:fs/promises";
import { defaultRecipe, type Recipe } from "@yelm/core";
import { AppError } from "../errors.ts";
import { isPrintFile, readPrintFile } from "../services/print-file.ts";
import { checkRecipe } from "../validate.ts";

/** Reads and checks a recipe, or that of a print's file; "-" is the default one. */
export async function readRecipe(path: string): Promise<Recipe> {
  if (path === "-") return defaultRecipe();
  const text = await readFile(path, "utf8").catch((cause: unknown) => {
    throw new AppError("bad_request", `Expected a recipe but ${path} cannot be read.`, {}, { cause });
  });
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch (cause) {
    throw new AppError("bad_recipe", `Expected JSON in ${path} but it could not be read.`, {}, { cause });
  }
  return isPrintFile(parsed) ? readPrintFile(parsed).recipe : checkRecipe(parsed);
}
