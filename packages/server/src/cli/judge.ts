import { readFile } from "node:fs/promises";
import { defaultNotes, planSchema, secondLook, type Plan } from "@yelm/core";
import { AppError } from "../errors.ts";
import { check } from "../validate.ts";
import { openEngine } from "./open-engine.ts";
import { readRecipe } from "./read-recipe.ts";

export interface JudgeOptions {
  readonly recipe: string;
  readonly plan?: string;
  readonly json?: boolean;
}

/** Looks a second time at a print: the same findings as the bench tells. */
export async function judge(file: string, options: JudgeOptions): Promise<void> {
  const recipe = await readRecipe(options.recipe);
  const plan = options.plan === undefined ? defaultNotes().plan : await readPlan(options.plan);
  const { engine, info, size } = await openEngine(file);
  const reader = { engine, size, capture: info, fetch: () => Promise.resolve() };
  const findings = await secondLook(reader, { recipe, plan });
  if (options.json) {
    console.log(JSON.stringify(findings.map(({ mend, ...one }) => ({ ...one, mend: mend?.label ?? null }))));
    return;
  }
  if (findings.length === 0) console.log("nothing found");
  for (const { kind, text, mend } of findings) console.log(`${kind}: ${text}${mend ? ` ${mend.label}.` : ""}`);
}

async function readPlan(path: string): Promise<Plan> {
  const text = await readFile(path, "utf8").catch((cause: unknown) => {
    throw new AppError("bad_request", `Expected a plan but ${path} cannot be read.`, {}, { cause });
  });
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch (cause) {
    throw new AppError("bad_request", `Expected JSON in ${path} but it could not be read.`, {}, { cause });
  }
  return check(planSchema, parsed, "the plan");
}
