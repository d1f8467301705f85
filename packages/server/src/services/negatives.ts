import { randomUUID } from "node:crypto";
import { chmod, copyFile, mkdir, rename, rm, stat } from "node:fs/promises";
import { basename, dirname, extname } from "node:path";
import type { CaptureInfo, ImportResult, Negative } from "@yelm/core";
import { AppError } from "../errors.ts";
import { capturePath, hashFile, partialTiles, tilesPath } from "../files/data-folder.ts";
import { now, type Context } from "./context.ts";
import { createPrint } from "./prints.ts";

const IMPORT_TIMEOUT_MS = 120_000;
/** Imports under way by hash, so that the same file sent twice at once is recognised. */
const underWay = new Map<string, Promise<ImportResult>>();

export async function listNegatives({ db }: Context, rollId?: string): Promise<Negative[]> {
  const rows = (await db("negatives")
    .modify((q) => (rollId ? q.where({ rollId }) : q))
    .orderBy([{ column: "takenAt" }, { column: "fileName" }])) as unknown[];
  return rows.map(readNegative);
}

export async function findNegative({ db }: Context, id: string): Promise<Negative> {
  const row: unknown = await db("negatives").where({ id }).first();
  if (!row) throw new AppError("not_found", `Expected a negative but there is none called ${id}.`);
  return readNegative(row);
}

export async function nameNegative(context: Context, id: string, title: string): Promise<Negative> {
  await findNegative(context, id);
  await context.db("negatives").where({ id }).update({ title });
  return findNegative(context, id);
}

/**
 * Brings one file in: hash, known already?, open it, keep it read-only under its hash, then enter it with a first
 * print. A failure leaves nothing behind.
 * @param path - a file inside the incoming folder; it is moved or removed.
 * @param name - as the user knows it; only its last part is used, and only for showing.
 */
export async function importCapture(
  context: Context,
  rollId: string,
  path: string,
  name: string,
  title = "",
): Promise<ImportResult> {
  const fileName = basename(name.replaceAll("\\", "/")).slice(0, 200) || "unnamed";
  try {
    const hash = await hashFile(path);
    await underWay.get(hash)?.catch(() => undefined);
    const known: unknown = await context.db("negatives").where({ hash }).first();
    if (known) return { status: "duplicate", negative: readNegative(known) };
    const entering = enter(context, { rollId, path, hash, fileName, title });
    underWay.set(hash, entering);
    return await entering.finally(() => underWay.delete(hash));
  } finally {
    await rm(path, { force: true });
  }
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
  const task = { capture: path, fileName, tiles: tilesPath(folder, hash) };
  const developing = pool.run("background", "develop", task, { timeoutMs: IMPORT_TIMEOUT_MS });
  // A thread that was stopped could not clear its own half-written tiles.
  const capture = await developing.catch(async (error: unknown) => {
    await rm(partialTiles(task.tiles), { recursive: true, force: true });
    throw error;
  });
  const kept = capturePath(folder, hash);
  await mkdir(dirname(kept), { recursive: true });
  await rename(path, kept);
  await chmod(kept, 0o444);
  const id = randomUUID();
  const shown = title || basename(fileName, extname(fileName));
  await db("negatives").insert({
    id, rollId, fileName, title: shown, hash, bytes: size, width: capture.width, height: capture.height,
    takenAt: capture.takenAt, capture: JSON.stringify(capture), createdAt: now(),
  }); // prettier-ignore
  const negative = await findNegative(context, id);
  await createPrint(context, { negativeId: id, name: "First print" });
  broadcast.send({ kind: "negatives", rollId });
  log.info({ fileName, width: capture.width, height: capture.height }, "imported");
  shelf.trim().catch((error: unknown) => log.error({ err: error }, "old tiles could not be thrown out"));
  return { status: "imported", negative };
}

/** Brings in a file that stays where it is: a copy is imported. */
export async function importCopy(context: Context, rollId: string, path: string, title?: string) {
  const copy = `${context.folder.incoming}/${randomUUID()}`;
  await copyFile(path, copy);
  return importCapture(context, rollId, copy, path, title);
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
  const stored = row as Omit<Negative, "capture"> & { capture: string };
  return { ...stored, capture: JSON.parse(stored.capture) as CaptureInfo };
}
