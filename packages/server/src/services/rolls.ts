import { randomUUID } from "node:crypto";
import type { Roll } from "@yelm/core";
import { AppError } from "../errors.ts";
import { now, type Context } from "./context.ts";

export type RollText = Partial<Pick<Roll, "title" | "place" | "date" | "light" | "note">>;

const COVERS = 4;

/** Every roll, newest first; or those put away. */
export async function listRolls({ db }: Context, away = false): Promise<Roll[]> {
  const rolls = (await db("rolls")
    .modify((q) => void (away ? q.whereNotNull("deletedAt") : q.whereNull("deletedAt")))
    .orderBy("createdAt", "desc")) as StoredRoll[];
  return Promise.all(rolls.map((roll) => describeRoll(db, roll)));
}

export async function findRoll({ db }: Context, id: string): Promise<Roll> {
  const roll = (await db("rolls").where({ id }).whereNull("deletedAt").first()) as StoredRoll | undefined;
  if (!roll) throw new AppError("not_found", `Expected a roll but there is none called ${id}.`);
  return describeRoll(db, roll);
}

export async function createRoll(
  context: Context,
  { title = "", ...text }: RollText,
  id: string = randomUUID(),
): Promise<Roll> {
  await context.db("rolls").insert({ id, title: title.trim() || "Untitled roll", ...text, createdAt: now() });
  return findRoll(context, id);
}

/** Changes a roll's words, or puts it into the archive and back. */
export async function changeRoll(
  context: Context,
  id: string,
  { archived, ...text }: RollText & { readonly archived?: boolean },
): Promise<Roll> {
  await findRoll(context, id);
  const archivedAt = archived === undefined ? {} : { archivedAt: archived ? now() : null };
  const change = { ...text, ...archivedAt };
  if (Object.keys(change).length > 0) await context.db("rolls").where({ id }).update(change);
  return findRoll(context, id);
}

/** Puts a roll away with all it holds; {@link restoreRoll} brings it back. */
export async function deleteRoll(context: Context, id: string): Promise<void> {
  await findRoll(context, id);
  await context.db("rolls").where({ id }).update({ deletedAt: now() });
}

export async function restoreRoll(context: Context, id: string): Promise<Roll> {
  await context.db("rolls").where({ id }).update({ deletedAt: null });
  return findRoll(context, id);
}

type StoredRoll = Roll & { readonly deletedAt: string | null };

async function describeRoll(db: Context["db"], { deletedAt, ...roll }: StoredRoll): Promise<Roll> {
  void deletedAt;
  const here = db("negatives").where({ rollId: roll.id }).whereNull("deletedAt");
  const [{ count }] = (await here.count({ count: "*" })) as [{ count: number }];
  const covers = (await db("prints")
    .join("negatives", "negatives.id", "prints.negativeId")
    .where({ rollId: roll.id })
    .whereNull("prints.deletedAt")
    .whereNull("negatives.deletedAt")
    .orderBy([
      { column: "prints.position", order: "desc" },
      { column: "negatives.fileName", order: "asc" },
    ])
    .limit(COVERS)
    .pluck("prints.id")) as string[];
  return { ...roll, negativeCount: count, coverPrintIds: covers };
}
