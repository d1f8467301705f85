import {
  copyParts,
  differingParts,
  refitWish,
  type Negative,
  type PasteAnswer,
  type PastedParts,
  type Print,
  type Refitted,
  type RefitWish,
} from "@yelm/core";
import { tilesPath } from "../files/data-folder.ts";
import { changeMany } from "./change-many.ts";
import type { Context } from "./context.ts";
import { findNegative } from "./negatives.ts";
import { findPrint } from "./prints.ts";

/**
 * Copies groups of a recipe to prints, a revision each: all of them or, when one fails, none. Moves and areas that go to another
 * negative are fitted to its picture.
 * @throws {AppError} not_found for a print that there is not; bad_recipe when one would no longer be sound; stale_revision when one was
 *   worked on while its picture was looked at.
 */
export async function pasteParts(context: Context, pasted: PastedParts): Promise<PasteAnswer> {
  const { recipe, groups, to, label } = pasted;
  const prints = await Promise.all([...new Set(to)].map((id) => findPrint(context, id)));
  const fitted = new Map<string, Refitted>();
  await Promise.all(
    prints.map(async (print) => {
      const made = await fittedTo(context, print, pasted);
      if (made) fitted.set(print.id, made);
    }),
  );
  const answer = await changeMany(
    context,
    to,
    label,
    (print) => {
      const different = differingParts(recipe, print.recipe, groups);
      if (different.length === 0) return null;
      return {
        recipe: fitted.get(print.id)?.recipe ?? copyParts(recipe, print.recipe, groups),
        station: different[0].station,
        groups: different.map((group) => group.id),
      };
    },
    fitted.size > 0 ? new Map(prints.map(({ id, head }) => [id, head])) : undefined,
  );
  const changed = answer.changed.flatMap(({ id }) => fitted.get(id) ?? []);
  const sum = (of: "found" | "placed") => changed.reduce((all, one) => all + one[of], 0);
  const regions = { found: sum("found"), placed: sum("placed") };
  return regions.found + regions.placed > 0 ? { ...answer, regions } : answer;
}

/** The print with the parts, its shapes fitted; null where they are to stay as they are. */
async function fittedTo(
  context: Context,
  print: Print,
  { recipe, groups, from }: PastedParts,
): Promise<Refitted | null> {
  if (!from || print.negativeId === from.negativeId) return null;
  if (differingParts(recipe, print.recipe, groups).length === 0) return null;
  const wish = refitWish(copyParts(recipe, print.recipe, groups), groups, recipe, from);
  if (!wish) return null;
  return refittedTo(context, await findNegative(context, print.negativeId), wish);
}

/** Moves and areas of another negative's print, fitted to this one. */
export async function refittedTo(context: Context, negative: Negative, wish: RefitWish): Promise<Refitted> {
  const tiles = tilesPath(context.folder, negative.hash);
  return context.shelf.use(negative, () =>
    context.pool.run("background", "refitted", { info: negative.capture, tiles, wish }),
  );
}
