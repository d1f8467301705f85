import { randomUUID } from "node:crypto";
import { createWriteStream } from "node:fs";
import { access, rm } from "node:fs/promises";
import { join } from "node:path";
import type { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { Type, type Static } from "@sinclair/typebox";
import { ZipArchive } from "archiver";
import { defaultRecipe, RATINGS, type ArchiveAnswer, type Rating, type Roll } from "@yelm/core";
import * as yauzl from "yauzl";
import { AppError } from "../errors.ts";
import { capturePath, hashFile } from "../files/data-folder.ts";
import { MAXIMUM_FILE_BYTES, shortName } from "../files/file-name.ts";
import { diskFull } from "../files/whole-file.ts";
import { check, checkBounds } from "../validate.ts";
import type { Context } from "./context.ts";
import type { ImportQueue } from "./imports.ts";
import {
  canSmooth,
  changeNegatives,
  findNegative,
  FIRST_PRINT,
  listNegatives,
  nameNegative,
  smoothNegative,
} from "./negatives.ts";
import { MOST_PRINT_FILE_BYTES, printFileOf, printFromFile, readPrintFile, type PrintFile } from "./print-file.ts";
import { findNotes, UNWRITTEN } from "./notes.ts";
import { deletePrint, listPrints, listRevisions } from "./prints.ts";
import { createRoll, findRoll } from "./rolls.ts";

const KIND = "yelm roll";
const VERSION = 2;
const INDEX = "roll.json";
const MOST_ENTRIES = 60_000;
const MOST_PRINTS_BYTES = 2 ** 30;

const closed = { additionalProperties: false };
const entryName = Type.String({ minLength: 1, maxLength: 300 });
const rollFile = Type.Object(
  {
    kind: Type.Literal(KIND),
    version: Type.Integer({ minimum: 1 }),
    id: Type.String({ minLength: 1, maxLength: 64, pattern: "^[A-Za-z0-9-]+$" }),
    title: Type.String({ maxLength: 120 }),
    place: Type.String({ maxLength: 120 }),
    date: Type.String({ maxLength: 60 }),
    light: Type.String({ maxLength: 120 }),
    note: Type.String({ maxLength: 2000 }),
    negatives: Type.Array(
      Type.Object(
        {
          capture: entryName,
          fileName: Type.String({ minLength: 1, maxLength: 300 }),
          title: Type.String({ maxLength: 120 }),
          hash: Type.String({ pattern: "^[0-9a-f]{64}$" }),
          rating: Type.Unsafe<Rating | null>({ enum: [...RATINGS, null] }),
          smoothed: Type.Optional(Type.Boolean()),
          prints: Type.Array(entryName, { maxItems: 2000 }),
        },
        closed,
      ),
      { maxItems: 20_000 },
    ),
  },
  closed,
);
type RollFile = Static<typeof rollFile>;

interface Rated {
  readonly id: string;
  readonly rating: Rating | null;
}

/**
 * A roll with its captures, as they came in, and a file for each print: an archive that any program opens. What it holds is looked up
 * before the first byte is written.
 * @throws {AppError} not_found when a capture is no longer there.
 */
export async function rollArchive(context: Context, roll: Roll): Promise<Readable> {
  const negatives = await listNegatives(context, roll.id);
  const rated = await context.db("negatives").where({ rollId: roll.id }).select<Rated[]>("id", "rating");
  const ratings = new Map(rated.map(({ id, rating }) => [id, rating]));
  const prints = await listPrints(context, { rollId: roll.id });
  const archive = new ZipArchive({ store: true });
  const { id, title, place, date, light, note } = roll;
  const index: RollFile = { kind: KIND, version: VERSION, id, title, place, date, light, note, negatives: [] };
  const captures: { readonly path: string; readonly name: string }[] = [];
  const files: { readonly name: string; readonly file: PrintFile }[] = [];
  for (const [i, negative] of negatives.entries()) {
    const path = capturePath(context.folder, negative.hash);
    await access(path).catch(() => {
      throw new AppError(
        "not_found",
        `Expected the capture ${negative.fileName} but it is no longer in the data folder.`,
        {
          hint: "Bring it in again from your own copy, then write the archive.",
        },
      );
    });
    const number = String(i + 1).padStart(4, "0");
    const capture = `captures/${number}-${safe(negative.fileName)}`;
    captures.push({ path, name: capture });
    const own = prints.filter((print) => print.negativeId === negative.id);
    const names = own.map((print, k) => `prints/${number}-${k + 1}-${safe(print.name)}.json`);
    for (const [k, print] of own.entries())
      files.push({ name: names[k], file: await printFileOf(context, print, negative) });
    index.negatives.push({
      capture, fileName: negative.fileName, title: negative.title, hash: negative.hash,
      rating: ratings.get(negative.id) ?? null, smoothed: negative.capture.smoothed ?? false, prints: names,
    }); // prettier-ignore
  }
  archive.append(JSON.stringify(index, null, 2), { name: INDEX });
  for (const { name, file } of files) archive.append(JSON.stringify(file, null, 2), { name });
  for (const { name, path } of captures) archive.file(path, { name });
  // A capture that went away since is no matter of a warning: the archive breaks off.
  archive.on("warning", (error) => archive.destroy(error));
  void archive.finalize();
  return archive;
}

/** A name as part of an entry's name. */
const safe = (name: string) => shortName(name).replace(/[\\/:*?"<>|\s]+/g, "-");

/**
 * Brings a roll in from an archive. Everything that is written in it is checked first; a capture that is damaged is told and the rest
 * goes on. What is here already, by its capture's bytes or its print's id, stays as it is, so an archive can be opened again after it
 * was interrupted.
 * @throws {AppError} bad_request when it is none, is of a later version, or is damaged.
 */
export async function openArchive(context: Context, imports: ImportQueue, path: string): Promise<ArchiveAnswer> {
  const zip = await openZip(path);
  try {
    const entries = await entriesOf(zip);
    const index = check(rollFile, await readJson(zip, entries, INDEX), "the archive's roll.json");
    if (index.version > VERSION)
      throw new AppError("bad_request", `Expected an archive of version ${VERSION} but received ${index.version}.`, {
        hint: "It was written by a later Yelm; bring this one up to date.",
      });
    // All are checked before anything is made, and read again one by one: a roll's prints together may be larger than memory.
    const names = index.negatives.flatMap((negative) => negative.prints);
    const printOf = async (name: string) => readPrintFile(await readJson(zip, entries, name));
    const bytes = names.reduce((sum, name) => sum + (entries.get(name)?.uncompressedSize ?? 0), 0);
    if (bytes > MOST_PRINTS_BYTES)
      throw new AppError("too_large", `Expected at most ${MOST_PRINTS_BYTES / 2 ** 30} GB of prints in an archive.`);
    for (const name of names) await printOf(name);
    const roll = await rollOf(context, index);
    const answer = { negatives: 0, prints: 0, failed: [] as { fileName: string; reason: string }[] };
    for (const one of index.negatives) {
      try {
        const id = await captureOf(context, imports, roll.id, zip, entries, one);
        answer.negatives++;
        const ids = new Set<string>();
        for (const name of one.prints) {
          const file = await printOf(name);
          ids.add(file.id);
          if (await bringPrint(context, id, file)) answer.prints++;
        }
        if (ids.size > 0) await clearUntouched(context, roll.id, id, ids);
      } catch (error) {
        if (!(error instanceof AppError) || error.code === "disk_full") throw error;
        answer.failed.push({ fileName: one.fileName, reason: error.message });
      }
    }
    return { roll: await findRoll(context, roll.id), ...answer };
  } finally {
    zip.close();
  }
}

/** The archive's roll as it is here, or made anew. */
async function rollOf(context: Context, { id, title, place, date, light, note }: RollFile): Promise<Roll> {
  const known = await context.db("rolls").where({ id }).first<{ deletedAt: string | null } | undefined>("deletedAt");
  if (known?.deletedAt === null) return findRoll(context, id);
  // One that was put away stays away.
  return createRoll(context, { title, place, date, light, note }, known ? undefined : id);
}

/** A capture of the archive in the library, whole and by its own bytes. @returns the negative's id. */
async function captureOf(
  context: Context,
  imports: ImportQueue,
  rollId: string,
  zip: yauzl.ZipFile,
  entries: ReadonlyMap<string, yauzl.Entry>,
  { capture, fileName, title, hash, rating, smoothed = false }: RollFile["negatives"][number],
): Promise<string> {
  const known = await context
    .db("negatives")
    .where({ hash })
    .whereNull("deletedAt")
    .first<{ id: string } | undefined>("id");
  if (known) return known.id;
  const entry = entries.get(capture);
  if (!entry) throw new AppError("bad_request", `Expected ${capture} in the archive but it is not there.`);
  if (entry.uncompressedSize > MAXIMUM_FILE_BYTES)
    throw new AppError("too_large", `Expected at most ${MAXIMUM_FILE_BYTES / 2 ** 20} MB for ${fileName}.`);
  const place = join(context.folder.incoming, `.${randomUUID()}.part`);
  try {
    await pipeline(await streamOf(zip, entry), createWriteStream(place)).catch(async (cause: unknown) => {
      throw (
        (await diskFull(cause, place, entry.uncompressedSize)) ??
        new AppError("damaged_file", `Expected ${fileName} whole but the archive is damaged there.`, {}, { cause })
      );
    });
    if ((await hashFile(place)) !== hash)
      throw new AppError("damaged_file", `Expected ${fileName} as it was written but its bytes are others.`);
    const { negative } = await imports.bringIn(place, {
      rollId,
      fileName: shortName(fileName),
      title,
      origin: "upload",
    });
    if (title !== "" && negative.title !== title) await nameNegative(context, negative.id, title);
    if (rating) await changeNegatives(context, [negative.id], { rating });
    // Prints that were made of colours as they are in the file go on being that.
    if (canSmooth(negative) && !smoothed) await smoothNegative(context, negative.id, false);
    return negative.id;
  } finally {
    await rm(place, { force: true });
  }
}

/** A print of the archive, unless it is here already. */
async function bringPrint(context: Context, negativeId: string, file: PrintFile): Promise<boolean> {
  const known: unknown = await context.db("prints").where({ id: file.id }).first();
  if (known) return false;
  const { hash } = await findNegative(context, negativeId);
  if (file.negative.hash !== hash)
    throw new AppError("bad_request", `Expected “${file.name}” to be of this capture but it names another.`);
  await printFromFile(context, negativeId, file, file.id);
  return true;
}

/** The print that every new negative gets makes room for those of the archive, as long as nothing was done to it. */
async function clearUntouched(
  context: Context,
  rollId: string,
  negativeId: string,
  ids: ReadonlySet<string>,
): Promise<void> {
  const { rollId: own } = await findNegative(context, negativeId);
  if (own !== rollId) return;
  const fresh = JSON.stringify(defaultRecipe());
  for (const { id, name, recipe } of await listPrints(context, { negativeId })) {
    if (name !== FIRST_PRINT || JSON.stringify(recipe) !== fresh || ids.has(id)) continue;
    const [revisions, { head }] = [await listRevisions(context, id), await findNotes(context, id)];
    if (revisions.length === 1 && head === UNWRITTEN) await deletePrint(context, id);
  }
}

function openZip(path: string): Promise<yauzl.ZipFile> {
  return new Promise((done, fail) =>
    yauzl.open(path, { lazyEntries: true, autoClose: false, validateEntrySizes: true }, (error, zip) =>
      error ? fail(noArchive(error)) : done(zip),
    ),
  );
}

const noArchive = (cause: Error) =>
  new AppError(
    "bad_request",
    "Expected an archive of a roll but the file is none, or is damaged.",
    { hint: "An archive is written from a roll's contact sheet; take that file, whole." },
    { cause },
  );

/** What the archive holds, by name. */
function entriesOf(zip: yauzl.ZipFile): Promise<Map<string, yauzl.Entry>> {
  if (zip.entryCount > MOST_ENTRIES)
    throw new AppError("too_large", `Expected at most ${MOST_ENTRIES} files in an archive.`);
  return new Promise((done, fail) => {
    const found = new Map<string, yauzl.Entry>();
    zip.on("entry", (entry: yauzl.Entry) => {
      found.set(entry.fileName, entry);
      zip.readEntry();
    });
    zip.on("end", () => done(found));
    zip.on("error", (error: Error) => fail(noArchive(error)));
    zip.readEntry();
  });
}

function streamOf(zip: yauzl.ZipFile, entry: yauzl.Entry): Promise<Readable> {
  return new Promise((done, fail) =>
    zip.openReadStream(entry, (error, stream) => (error ? fail(noArchive(error)) : done(stream))),
  );
}

/** A JSON file of the archive, within bounds. */
async function readJson(zip: yauzl.ZipFile, entries: ReadonlyMap<string, yauzl.Entry>, name: string): Promise<unknown> {
  const entry = entries.get(name);
  if (!entry) throw new AppError("bad_request", `Expected ${name} in the archive but it is not there.`);
  const most = MOST_PRINT_FILE_BYTES;
  if (entry.uncompressedSize > most)
    throw new AppError("too_large", `Expected at most ${most / 2 ** 20} MB for ${name} in the archive.`);
  const chunks: Buffer[] = [];
  try {
    for await (const chunk of await streamOf(zip, entry)) chunks.push(chunk as Buffer);
    const parsed: unknown = JSON.parse(Buffer.concat(chunks).toString("utf8"));
    checkBounds(parsed, name);
    return parsed;
  } catch (cause) {
    if (cause instanceof AppError) throw cause;
    throw new AppError(
      "bad_request",
      `Expected JSON in ${name} of the archive but it could not be read.`,
      {},
      { cause },
    );
  }
}
