import { randomUUID } from "node:crypto";
import { chmod, copyFile, link, mkdir, rename, rm, stat } from "node:fs/promises";
import { basename, dirname, extname } from "node:path";
import type { CaptureInfo, ImportResult, Negative, Rating, SheetEntry } from "@yelm/core";
import { AppError } from "../errors.ts";
import { capturePath, hashFile, partialTiles, tilesPath } from "../files/data-folder.ts";
import { now, type Context } from "./context.ts";
import { shortName } from "../files/file-name.ts";
import { syncFile, syncFolder } from "../files/whole-file.ts";
import { createPrint, insertPrint } from "./prints.ts";

const IMPORT_TIMEOUT_MS = 120_000;
/** The print that a negative gets when it comes in. */
export const FIRST_PRINT = "First print";
/** Imports under way by hash, so that the same file sent twice at once is recognised. */
const underWay = new Map<string, Promise<ImportResult>>();

export async function listNegatives({ db }: Context, rollId?: string): Promise<Negative[]> {
  const rows = (await db("negatives")
    .whereNull("deletedAt")
    .modify((q) => (rollId ? q.where({ rollId }) : q))
    .orderBy([{ column: "takenAt" }, { column: "fileName" }])) as unknown[];
  return rows.map(readNegative);
}

export async function findNegative({ db }: Pick<Context, "db">, id: string): Promise<Negative> {
  const row: unknown = await db("negatives").where({ id }).first();
  if (!row) throw new AppError("not_found", `Expected a negative but there is none called ${id}.`);
  return readNegative(row);
}

export async function nameNegative(context: Context, id: string, title: string): Promise<Negative> {
  await findNegative(context, id);
  await context.db("negatives").where({ id }).update({ title });
  return findNegative(context, id);
}

/** Whether a file holds finished colours, whose noise is smoothed or kept. */
export const canSmooth = ({ capture }: Negative): boolean => capture.demosaic !== "directional" && !capture.grey;

/**
 * Smooths the colour noise of a file that has finished colours, or has it as the file does: its tiles are made again, and all its prints follow.
 * @throws {AppError} bad_request for what has a mosaic or no colour: a sensor's noise is always smoothed.
 */
export async function smoothNegative(context: Context, id: string, smoothed: boolean): Promise<Negative> {
  const negative = await findNegative(context, id);
  const { capture } = negative;
  if (!canSmooth(negative))
    throw new AppError("bad_request", `Expected a file of finished colours but ${negative.fileName} has none.`);
  // Those that are being made already may be made as before.
  for (let turn = 0; turn < 2 && (await findNegative(context, id)).capture.smoothed !== smoothed; turn++)
    await context.shelf.make({ ...negative, capture: { ...capture, smoothed } });
  return findNegative(context, id);
}

/** A roll's negatives (or those put away) with what a contact sheet shows, in one query however many there are. */
export async function sheetOf({ db }: Context, rollId: string, away = false): Promise<SheetEntry[]> {
  const ranked = db("prints")
    .select("id", "head", "negativeId")
    .select(db.raw("row_number() over (partition by ?? order by position desc, ?? desc) as place", ["negativeId", "updatedAt"]))
    .select(db.raw("count(*) over (partition by ??) as printCount", ["negativeId"]))
    .whereNull("deletedAt")
    .as("ranked"); // prettier-ignore
  const rows: StoredEntry[] = await db("negatives as n")
    .leftJoin(ranked, (on) => on.on("ranked.negativeId", "n.id").andOnVal("ranked.place", 1))
    .where("n.rollId", rollId)
    .modify((q) => void (away ? q.whereNotNull("n.deletedAt") : q.whereNull("n.deletedAt")))
    .orderBy(["n.takenAt", "n.fileName", "n.id"])
    .select("n.id", "n.fileName", "n.title", "n.rating", "n.takenAt", "n.createdAt", "ranked.printCount")
    .select("ranked.id as printId", "ranked.head")
    .select(db.raw("json_extract(n.capture, '$.iso') as iso"));
  return rows.map(({ printId, head, printCount, ...entry }) => ({
    ...entry,
    printCount: printCount ?? 0,
    best: printId ? { id: printId, head } : null,
  }));
}

type StoredEntry = Omit<SheetEntry, "best" | "printCount"> & {
  readonly printId: string | null;
  readonly printCount: number | null;
  readonly head: string;
};

/** What can be done to many negatives at once. */
export interface NegativeChange {
  readonly rating?: Rating | null;
  /** Puts them away, or brings them back. */
  readonly deleted?: boolean;
}

/** Rates negatives, puts them away or brings them back; those that are not there are passed over. */
export async function changeNegatives(
  { db, broadcast }: Context,
  ids: readonly string[],
  { rating, deleted }: NegativeChange,
): Promise<number> {
  const change = {
    ...(rating === undefined ? {} : { rating }),
    ...(deleted === undefined ? {} : { deletedAt: deleted ? now() : null }),
  };
  if (Object.keys(change).length === 0) return 0;
  const found: { id: string; rollId: string }[] = await db("negatives").whereIn("id", ids).select("id", "rollId");
  await db("negatives").whereIn("id", ids).update(change);
  for (const rollId of new Set(found.map((one) => one.rollId))) broadcast.send({ kind: "negatives", rollId });
  return found.length;
}

/**
 * Brings one file in: hash, known already?, open it, keep it read-only under its hash, then enter it with a first
 * print. A failure leaves nothing behind.
 * @param path - a file inside the incoming folder; it stays until the caller removes it, so that an import that was
 *   stopped halfway can be made again.
 * @param name - as the user knows it; only its last part is used, and only for showing.
 */
export async function importCapture(
  context: Context,
  rollId: string,
  path: string,
  name: string,
  title = "",
): Promise<ImportResult> {
  const fileName = shortName(name);
  const hash = await hashFile(path);
  // One after the other for one file, however many bring it in at once.
  const before = underWay.get(hash);
  const entering = (async () => {
    await before?.catch(() => undefined);
    return takeIn(context, { rollId, path, hash, fileName, title });
  })();
  underWay.set(hash, entering);
  return await entering.finally(() => {
    if (underWay.get(hash) === entering) underWay.delete(hash);
  });
}

/** New, known already, put away, or known with a capture that is damaged. */
async function takeIn(context: Context, entering: Entering): Promise<ImportResult> {
  const { rollId, path, hash } = entering;
  const known: { id: string; deletedAt: string | null; rollDeletedAt: string | null } | undefined = await context
    .db("negatives")
    .join("rolls", "rolls.id", "negatives.rollId")
    .where({ hash })
    .first("negatives.id", "negatives.deletedAt", { rollDeletedAt: "rolls.deletedAt" });
  if (!known) return enter(context, entering);
  const repaired = await repairCapture(context, path, hash);
  if (known.deletedAt || known.rollDeletedAt) return bringBack(context, known.id, rollId);
  return { status: repaired ? "repaired" : "duplicate", negative: await findNegative(context, known.id) };
}

/** Puts the file where its stored capture is no longer what came in. @returns whether it was. */
async function repairCapture({ folder, log }: Context, path: string, hash: string): Promise<boolean> {
  const kept = capturePath(folder, hash);
  if ((await hashFile(kept).catch(() => null)) === hash) return false;
  await (await holdCapture(path, kept, hash)).keep();
  await rm(tilesPath(folder, hash), { recursive: true, force: true });
  log.warn({ hash }, "a damaged or lost capture was repaired");
  return true;
}

/** A file whose negative, or whose roll, was put away comes back with its prints, into the roll it is now brought to. */
async function bringBack(context: Context, id: string, rollId: string): Promise<ImportResult> {
  await context.db("negatives").where({ id }).update({ deletedAt: null, rollId });
  context.broadcast.send({ kind: "negatives", rollId });
  return { status: "imported", negative: await findNegative(context, id) };
}

interface Entering {
  readonly rollId: string;
  readonly path: string;
  readonly hash: string;
  readonly fileName: string;
  readonly title: string;
}

async function enter(context: Context, { rollId, path, hash, fileName, title }: Entering): Promise<ImportResult> {
  const { db, folder, pool, shelf, broadcast, log } = context;
  const { size } = await stat(path);
  const task = { capture: path, fileName, tiles: tilesPath(folder, hash), helping: pool.spareCores, smooth: true };
  const developing = pool.run("background", "develop", task, { timeoutMs: IMPORT_TIMEOUT_MS });
  // Looked through while it is unpacked, and there under its name once it is developed.
  const holding = holdCapture(path, capturePath(folder, hash), hash);
  holding.catch(() => undefined);
  const capture = await developing.catch(async (error: unknown) => {
    // A thread that was stopped could not clear its own half-written tiles.
    await rm(partialTiles(task.tiles), { recursive: true, force: true });
    await holding.then(
      (held) => held.drop(),
      () => undefined,
    );
    throw error;
  });
  await (await holding).keep();
  const id = randomUUID();
  const shown = title || basename(fileName, extname(fileName));
  // Both or neither: a negative without a print could not be opened, and would be a duplicate for ever.
  const negative = await db.transaction(async (trx) => {
    const inner = { ...context, db: trx as unknown as Context["db"] };
    await trx("negatives").insert({
      id, rollId, fileName, title: shown, hash, bytes: size, width: capture.width, height: capture.height,
      takenAt: capture.takenAt, capture: JSON.stringify(capture), createdAt: now(),
    }); // prettier-ignore
    await insertPrint(inner, { negativeId: id, name: FIRST_PRINT });
    return findNegative(inner, id);
  });
  broadcast.send({ kind: "negatives", rollId });
  log.info({ fileName, width: capture.width, height: capture.height }, "imported");
  shelf.trimSoon();
  return { status: "imported", negative };
}

/** A file that lies ready beside the place where it is to be kept. */
interface HeldCapture {
  /** Puts it there. */
  keep(): Promise<void>;
  drop(): Promise<void>;
}

/**
 * Has a file lie ready, read-only and on the disk, to be kept under its hash. What is kept there already and is the same file stays.
 * @throws {AppError} damaged_file when it is no longer what its hash was taken of.
 */
async function holdCapture(path: string, kept: string, hash: string): Promise<HeldCapture> {
  await mkdir(dirname(kept), { recursive: true });
  const nothing = () => Promise.resolve();
  if ((await hashFile(kept).catch(() => null)) === hash) return { keep: nothing, drop: nothing };
  const temporary = `${kept}.${process.pid}.part`;
  const drop = () => rm(temporary, { force: true });
  await drop();
  // The same disk in most cases; a copy where it is another one.
  await link(path, temporary).catch(() => copyFile(path, temporary));
  try {
    if ((await hashFile(temporary)) !== hash)
      throw new AppError("damaged_file", "The file changed while it was brought in. Bring it in again.");
    await chmod(temporary, 0o444);
    await syncFile(temporary);
  } catch (error) {
    await drop();
    throw error;
  }
  const keep = async () => {
    try {
      await rename(temporary, kept);
      await syncFolder(dirname(kept));
    } catch (error) {
      await drop();
      throw error;
    }
  };
  return { keep, drop };
}

/** Gives a first print to negatives that have none at all: an older Yelm could be stopped between the two. */
export async function mendNegatives(context: Context): Promise<void> {
  const bare = (await context
    .db("negatives")
    .whereNotExists(context.db("prints").whereRaw("prints.negativeId = negatives.id"))
    .pluck("id")) as string[];
  for (const negativeId of bare) await createPrint(context, { negativeId, name: FIRST_PRINT });
}

/** Brings in a file that stays where it is: a copy is imported. */
export async function importCopy(context: Context, rollId: string, path: string, title?: string) {
  const copy = `${context.folder.incoming}/${randomUUID()}`;
  try {
    await copyFile(path, copy);
    return await importCapture(context, rollId, copy, path, title);
  } finally {
    await rm(copy, { force: true });
  }
}

/** Whether the stored capture is still, bit by bit, the file that came. */
export async function verifyNegative(
  context: Context,
  id: string,
): Promise<{ intact: boolean; hash: string; expected: string }> {
  const negative = await findNegative(context, id);
  const hash = await hashFile(capturePath(context.folder, negative.hash)).catch(() => "missing");
  return { intact: hash === negative.hash, hash, expected: negative.hash };
}

function readNegative(row: unknown): Negative {
  const { deletedAt, ...stored } = row as Omit<Negative, "capture"> & { capture: string; deletedAt: unknown };
  void deletedAt;
  return { ...stored, capture: JSON.parse(stored.capture) as CaptureInfo };
}
