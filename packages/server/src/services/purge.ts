import { rm } from "node:fs/promises";
import { tilesPath } from "../files/data-folder.ts";
import { readSetting, writeSetting } from "../store/settings.ts";
import type { Context } from "./context.ts";

/** For how many days of use what was put away can be brought back. */
export const KEPT_DAYS = 30;
const SETTING = "daysOfUse";
/** Days that are remembered; older ones no longer matter. */
const REMEMBERED = 4 * KEPT_DAYS;

/**
 * Forgets negatives and rolls that were put away more than {@link KEPT_DAYS} days of use ago, with their prints and tiles.
 * Days on which Yelm ran are counted, not what the clock says has passed: a clock that is wrong for once adds one day. The
 * captures themselves stay in the data folder: nothing here ever removes one.
 */
export async function purgeDeleted({ db, folder, log }: Context, today = new Date()): Promise<number> {
  const days = await daysOfUse(db, today.toISOString().slice(0, 10));
  // Put away before the thirtieth last of these days: at least thirty have come since.
  const before = days.at(-KEPT_DAYS);
  if (before === undefined) return 0;
  const oldRolls = (await db("rolls").where("deletedAt", "<", before).pluck("id")) as string[];
  const old: { id: string; hash: string }[] = await db("negatives")
    .where("deletedAt", "<", before)
    .orWhereIn("rollId", oldRolls)
    .select("id", "hash");
  const ids = old.map(({ id }) => id);
  await db.transaction(async (trx) => {
    const prints = (await trx("prints").whereIn("negativeId", ids).pluck("id")) as string[];
    await trx("exports").whereIn("printId", prints).delete();
    for (const table of ["noteHeads", "noteStates", "acts", "revisions"])
      await trx(table).whereIn("printId", prints).delete();
    await trx("prints").whereIn("id", prints).delete();
    await trx("negatives").whereIn("id", ids).delete();
    await trx("imports").whereIn("rollId", oldRolls).delete();
    await trx("rolls").whereIn("id", oldRolls).delete();
  });
  for (const { hash } of old) await rm(tilesPath(folder, hash), { recursive: true, force: true });
  if (ids.length > 0) log.info({ negatives: ids.length }, "forgotten after thirty days");
  return ids.length;
}

/** Days on which Yelm ran, in the order in which they came, with this one. */
async function daysOfUse(db: Context["db"], today: string): Promise<readonly string[]> {
  const days = (await readSetting<string[]>(db, SETTING)) ?? [];
  // A day ahead of the clock, from a start when it was wrong, is no day that has been.
  const been = days.filter((day) => day < today);
  const now = [...been, today].slice(-REMEMBERED);
  if (days.at(-1) !== today || been.length !== days.length - 1) await writeSetting(db, SETTING, now);
  return now;
}
