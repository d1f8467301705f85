import { type PasteAnswer, type Print, type Recipe, type Station } from "@yelm/core";
import { AppError } from "../errors.ts";
import { checkRecipe } from "../validate.ts";
import type { Context } from "./context.ts";
import { advance, findPrint } from "./prints.ts";

/** What becomes of one of many prints: null leaves it as it is. */
type Change = (
  print: Print,
) => { readonly recipe: Recipe; readonly station: Station; readonly groups: readonly string[] } | null;

/**
 * Changes many prints at once, a revision each: all of them or, when one fails, none.
 * @throws {AppError} not_found for a print that there is not; bad_recipe when one would no longer be sound; stale_revision when one
 *   has been worked on since it was looked at.
 */
export async function changeMany(
  context: Context,
  ids: readonly string[],
  label: string,
  change: Change,
  heads?: ReadonlyMap<string, string>,
): Promise<PasteAnswer> {
  const unique = new Set(ids);
  const answer = await context.db.transaction(async (trx) => {
    const inner = { ...context, db: trx as unknown as Context["db"] };
    const changed: PasteAnswer["changed"][number][] = [];
    for (const id of unique) {
      const print = await findPrint(inner, id);
      if (heads && heads.get(id) !== print.head)
        throw new AppError(
          "stale_revision",
          `Expected “${print.name}” as it was looked at, but it has been worked on since.`,
          {
            hint: "Try it again: nothing was changed.",
          },
        );
      const made = change(print);
      if (!made) continue;
      const { head: after } = await advance(trx, print, checkRecipe(made.recipe), { label, station: made.station });
      if (after !== print.head) changed.push({ id, before: print.head, after, groups: made.groups });
    }
    return { changed, unchanged: unique.size - changed.length };
  });
  for (const { id, after } of answer.changed) {
    const { name } = await findPrint(context, id);
    context.broadcast.send({ kind: "print", id, head: after, name });
  }
  return answer;
}
