import { copyParts, differingParts, type PasteAnswer, type PastedParts } from "@yelm/core";
import { changeMany } from "./change-many.ts";
import type { Context } from "./context.ts";

/**
 * Copies groups of a recipe to prints, a revision each: all of them or, when one fails, none.
 * @throws {AppError} not_found for a print that there is not; bad_recipe when one would no longer be sound.
 */
export async function pasteParts(context: Context, { recipe, groups, to, label }: PastedParts): Promise<PasteAnswer> {
  return changeMany(context, to, label, (print) => {
    const different = differingParts(recipe, print.recipe, groups);
    if (different.length === 0) return null;
    return {
      recipe: copyParts(recipe, print.recipe, groups),
      station: different[0].station,
      groups: different.map((group) => group.id),
    };
  });
}
