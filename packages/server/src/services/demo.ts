import { randomUUID } from "node:crypto";
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { defaultNotes, defaultRecipe, planSchema, upgradeRecipe } from "@yelm/core";
import { check, checkRecipe } from "../validate.ts";
import type { Context } from "./context.ts";
import { importCopy } from "./negatives.ts";
import { changeNotes, findNotes } from "./notes.ts";
import { createPrint, placePrint } from "./prints.ts";
import { createRoll, listRolls } from "./rolls.ts";

interface DemoRoll {
  readonly title: string;
  readonly place: string;
  readonly date: string;
  readonly light: string;
  readonly note: string;
  readonly negatives: readonly {
    readonly file: string;
    readonly title: string;
    readonly prints: readonly {
      readonly name: string;
      readonly cover?: number;
      readonly recipe: Record<string, object>;
      readonly plan?: unknown;
    }[];
  }[];
}

/**
 * Imports the demo roll through the ordinary import, with a few finished prints. Does nothing when there is a roll
 * already, so that nobody's own rolls are touched.
 */
export async function importDemo(context: Context, folder: string, say: (line: string) => void): Promise<void> {
  if ((await listRolls(context)).length > 0) return;
  const demo = JSON.parse(await readFile(join(folder, "roll.json"), "utf8")) as DemoRoll;
  const { title, place, date, light, note } = demo;
  const roll = await createRoll(context, { title, place, date, light, note });
  for (const { file, title: name, prints } of demo.negatives) {
    const { negative } = await importCopy(context, roll.id, join(folder, "negatives", file), name);
    say(`imported ${file}, ${name}`);
    for (const print of prints) {
      const recipe = checkRecipe(wholeRecipe(print.recipe));
      const { id } = await createPrint(context, { negativeId: negative.id, name: print.name, recipe });
      if (print.plan) {
        const notes = { ...defaultNotes(), plan: check(planSchema, print.plan, "the plan") };
        const { head: base } = await findNotes(context, id);
        await changeNotes(context, id, { id: randomUUID(), base, notes, label: "Plan" });
      }
      if (print.cover) await placePrint(context, id, print.cover);
    }
  }
}

/** A recipe of which only some fields are said, in its lists too: the rest is as in a fresh one. */
export function wholeRecipe(part: object): unknown {
  // Older than any: whatever is not there is filled in.
  return upgradeRecipe({ ...mergeRecipe(defaultRecipe(), part), version: 0 });
}

/** Fills the gaps of a partial recipe from a whole one; lists are taken as they are. */
function mergeRecipe(base: object, part: object): object {
  const out: Record<string, unknown> = { ...base };
  for (const [key, value] of Object.entries(part)) {
    const below = out[key];
    const nested = isRecord(value) && isRecord(below);
    out[key] = nested ? mergeRecipe(below, value) : value;
  }
  return out;
}

function isRecord(value: unknown): value is object {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
