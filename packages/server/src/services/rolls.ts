import { randomUUID } from "node:crypto";
import type { Roll } from "@yelm/core";
import { AppError } from "../errors.ts";
import { now, type Context } from "./context.ts";

export type RollText = Partial<Pick<Roll, "title" | "place" | "note">>;

const COVERS = 4;

export async function listRolls({ db }: Context): Promise<Roll[]> {
  const rolls = (await db("rolls").orderBy("createdAt", "desc")) as Roll[];
  return Promise.all(rolls.map((roll) => describeRoll(db, roll)));
}

export async function findRoll({ db }: Context, id: string): Promise<Roll> {
  const roll = (await db("rolls").where({ id }).first()) as Roll | undefined;
  if (!roll) throw new AppError("not_found", `Expected a roll but there is none called ${id}.`);
  return describeRoll(db, roll);
}

export async function createRoll(context: Context, { title = "", place = "", note = "" }: RollText): Promise<Roll> {
  const id = randomUUID();
  await context.db("rolls").insert({ id, title: title.trim() || "Untitled roll", place, note, createdAt: now() });
  return findRoll(context, id);
}

export async function changeRoll(context: Context, id: string, text: RollText): Promise<Roll> {
  await findRoll(context, id);
  if (Object.keys(text).length > 0) await context.db("rolls").where({ id }).update(text);
  return findRoll(context, id);
}

async function describeRoll(db: Context["db"], roll: Roll): Promise<Roll> {
  const [{ count }] = (await db("negatives").where({ rollId: roll.id }).count({ count: "*" })) as [{ count: number }];
  const covers = (await db("prints")
    .join("negatives", "negatives.id", "prints.negativeId")
    .where({ rollId: roll.id })
    .whereNull("deletedAt")
    .orderBy([
      { column: "prints.position", order: "desc" },
      { column: "negatives.fileName", order: "asc" },
    ])
    .limit(COVERS)
    .pluck("prints.id")) as string[];
  return { ...roll, negativeCount: count, coverPrintIds: covers };
}
