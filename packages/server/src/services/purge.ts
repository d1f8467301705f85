import { rm } from "node:fs/promises";
import { subDays } from "date-fns";
import { tilesPath } from "../files/data-folder.ts";
import type { Context } from "./context.ts";

/** How long what was put away can be brought back. */
export const KEPT_DAYS = 30;

/**
 * Forgets negatives and rolls that were put away longer ago than {@link KEPT_DAYS}, with their prints and tiles. The
 * captures themselves stay in the data folder: nothing here ever removes one.
 */
export async function purgeDeleted({ db, folder, log }: Context, today = new Date()): Promise<number> {
  const before = subDays(today, KEPT_DAYS).toISOString();
  const oldRolls = (await db("rolls").where("deletedAt", "<", before).pluck("id")) as string[];
  const old: { id: string; hash: string }[] = await db("negatives")
    .where("deletedAt", "<", before)
    .orWhereIn("rollId", oldRolls)
    .select("id", "hash");
  const ids = old.map(({ id }) => id);
  await db.transaction(async (trx) => {
    const prints = (await trx("prints").whereIn("negativeId", ids).pluck("id")) as string[];
    await trx("exports").whereIn("printId", prints).delete();
    await trx("revisions").whereIn("printId", prints).delete();
    await trx("prints").whereIn("id", prints).delete();
    await trx("negatives").whereIn("id", ids).delete();
    await trx("imports").whereIn("rollId", oldRolls).delete();
    await trx("rolls").whereIn("id", oldRolls).delete();
  });
  for (const { hash } of old) await rm(tilesPath(folder, hash), { recursive: true, force: true });
  if (ids.length > 0) log.info({ negatives: ids.length }, "forgotten after thirty days");
  return ids.length;
}
