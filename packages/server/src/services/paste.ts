import { randomUUID } from "node:crypto";
import {
  changesBetween,
  copyParts,
  differingParts,
  RECIPE_VERSION,
  type PasteAnswer,
  type PastedParts,
} from "@yelm/core";
import { checkRecipe } from "../validate.ts";
import { now, type Context } from "./context.ts";
import { findPrint } from "./prints.ts";

/**
 * Copies groups of a recipe to prints, a revision each: all of them or, when one fails, none.
 * @throws {AppError} not_found for a print that there is not; bad_recipe when one would no longer be sound.
 */
export async function pasteParts(context: Context, { recipe, groups, to, label }: PastedParts): Promise<PasteAnswer> {
  const answer = await context.db.transaction(async (trx) => {
    const inner = { ...context, db: trx as unknown as Context["db"] };
    const changed: PasteAnswer["changed"][number][] = [];
    for (const id of new Set(to)) {
      const print = await findPrint(inner, id);
      const different = differingParts(recipe, print.recipe, groups);
      if (different.length === 0) continue;
      const next = checkRecipe(copyParts(recipe, print.recipe, groups));
      const after = randomUUID();
      const at = now();
      await trx("revisions").insert({
        id: after, printId: id, parent: print.head, version: RECIPE_VERSION,
        patch: JSON.stringify(changesBetween(print.recipe, next)), inverse: JSON.stringify(changesBetween(next, print.recipe)),
        label, station: different[0].station, at,
      }); // prettier-ignore
      await trx("prints")
        .where({ id })
        .update({ recipe: JSON.stringify(next), head: after, updatedAt: at });
      changed.push({ id, before: print.head, after, groups: different.map((group) => group.id) });
    }
    return { changed, unchanged: new Set(to).size - changed.length };
  });
  for (const { id, after } of answer.changed) {
    const { name } = await findPrint(context, id);
    context.broadcast.send({ kind: "print", id, head: after, name });
  }
  return answer;
}
