import { readFile } from "node:fs/promises";
import { lookQuestions, mixRecipes, OWN_LOOKS, type Look, type Recipe } from "@yelm/core";
import { AppError } from "../errors.ts";
import { writeWholeBytes } from "../files/whole-file.ts";
import { readLookFile } from "../services/look-file.ts";
import { openEngine } from "./open-engine.ts";
import { readRecipe } from "./read-recipe.ts";

export interface LookOptions {
  readonly recipe: string;
  readonly look?: string;
  readonly amount: number;
  readonly out?: string;
  readonly json?: boolean;
}

/** Lists the looks, or lays one on a capture's recipe, fitted to the picture. */
export async function look(file: string | undefined, options: LookOptions): Promise<void> {
  if (file === undefined || options.look === undefined) {
    const told = OWN_LOOKS.map(({ id, name, note }) => ({ id, name, note }));
    console.log(
      options.json ? JSON.stringify(told) : told.map(({ id, note }) => `${id.padEnd(14)} ${note}`).join("\n"),
    );
    return;
  }
  const recipe: Recipe = await readRecipe(options.recipe);
  const wanted = await findLook(options.look);
  const { engine, info, size } = await openEngine(file);
  const reader = { engine, size, capture: info, fetch: () => Promise.resolve() };
  const { recipe: looked, adapted } = await lookQuestions.looked(reader, { recipe, look: wanted });
  const mixed = mixRecipes(recipe, looked, options.amount / 100);
  if (options.out) await writeWholeBytes(options.out, Buffer.from(`${JSON.stringify(mixed, null, 2)}\n`));
  const told = { look: wanted.name, amountPercent: options.amount, adapted };
  if (options.json) console.log(JSON.stringify(options.out ? told : { ...told, recipe: mixed }));
  else
    console.log(`${wanted.name} at ${options.amount} %${adapted.length > 0 ? `; fitted: ${adapted.join(", ")}` : ""}`);
}

/** One of ours by its id, or one from a file. */
async function findLook(name: string): Promise<Look> {
  const own = OWN_LOOKS.find(({ id }) => id === name);
  if (own) return own;
  if (!name.endsWith(".json"))
    throw new AppError(
      "bad_request",
      `Expected --look to be a look's file or one of ${OWN_LOOKS.map(({ id }) => id).join(", ")}.`,
    );
  let text: string;
  try {
    text = await readFile(name, "utf8");
  } catch {
    throw new AppError("not_found", `Expected a look's file but there is none at ${name}.`);
  }
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch {
    throw new AppError("bad_request", `Expected JSON in ${name} but it is broken or cut short.`);
  }
  return { id: name, ...readLookFile(parsed) };
}
