import { randomUUID } from "node:crypto";
import { upgradeRecipe, type Look, type Recipe } from "@yelm/core";
import { AppError } from "../errors.ts";
import { now, type Context } from "./context.ts";

/** A look that is kept, without the id that it gets here. */
export type NewLook = Omit<Look, "id">;

interface StoredLook {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly parts: string;
  readonly recipe: string;
  readonly fit: string;
}

/** The user's own looks, newest first. */
export async function listLooks({ db }: Context): Promise<Look[]> {
  const rows = (await db("looks").whereNull("deletedAt").orderBy("createdAt", "desc")) as StoredLook[];
  return rows.map(fromRow);
}

export async function findLook({ db }: Context, id: string): Promise<Look> {
  const row = (await db("looks").where({ id }).whereNull("deletedAt").first()) as StoredLook | undefined;
  if (!row) throw new AppError("not_found", `Expected a look but there is none called ${id}.`);
  return fromRow(row);
}

export async function keepLook(context: Context, { name, note, parts, recipe, fit }: NewLook): Promise<Look> {
  const id = randomUUID();
  await context.db("looks").insert({
    id,
    name,
    note,
    parts: JSON.stringify(parts),
    recipe: JSON.stringify(recipe),
    fit: JSON.stringify(fit),
    createdAt: now(),
  });
  return findLook(context, id);
}

export async function nameLook(
  context: Context,
  id: string,
  change: Partial<Pick<Look, "name" | "note">>,
): Promise<Look> {
  await findLook(context, id);
  if (Object.keys(change).length > 0) await context.db("looks").where({ id }).update(change);
  return findLook(context, id);
}

/** Puts a look away; {@link restoreLook} brings it back. */
export async function deleteLook(context: Context, id: string): Promise<void> {
  await findLook(context, id);
  await context.db("looks").where({ id }).update({ deletedAt: now() });
}

export async function restoreLook(context: Context, id: string): Promise<Look> {
  await context.db("looks").where({ id }).update({ deletedAt: null });
  return findLook(context, id);
}

/** Looks outlive versions of the recipe. */
function fromRow({ id, name, note, parts, recipe, fit }: StoredLook): Look {
  return {
    id,
    name,
    note,
    parts: JSON.parse(parts) as string[],
    recipe: upgradeRecipe(JSON.parse(recipe)) as Recipe,
    fit: JSON.parse(fit) as Look["fit"],
  };
}
