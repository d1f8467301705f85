import { randomUUID } from "node:crypto";
import { copyFile, readdir, rename, rm, stat } from "node:fs/promises";
import { join } from "node:path";
import type { ImportJob, ImportResult } from "@yelm/core";
import { AppError } from "../errors.ts";
import { shortName } from "../files/file-name.ts";
import { diskFull, syncFile, syncFolder } from "../files/whole-file.ts";
import { THREADS_BEHIND } from "../step-back.ts";
import { now, type Context } from "./context.ts";
import { importCapture } from "./negatives.ts";

const LISTED = 1000;
/** Pause before a queue whose database failed is tried again. */
const AGAIN_MS = 5000;
const OPEN_STATES = ["waiting", "running"];

/** A file that is to be brought in. */
export interface NewImport {
  /** Chosen by the sender, so that the same file sent again after a failure is known; made when it is not given. */
  readonly id?: string;
  readonly rollId: string;
  readonly fileName: string;
  readonly title?: string;
  readonly origin: ImportJob["origin"];
}

/**
 * Brings files in, a few at a time, from the `incoming` folder. Each is entered in the database before anything is done
 * with it, so a server that is killed at any point goes on where it was when it starts again.
 */
export class ImportQueue {
  readonly #context: Context;
  readonly #waiting = new Map<string, (outcome: ImportResult | AppError) => void>();
  readonly #loops = new Set<Promise<void>>();
  readonly #adding = new Map<string, Promise<ImportJob>>();
  readonly #running = new Set<string>();
  #again: NodeJS.Timeout | null = null;
  /** Something came since a loop last looked. */
  #more = false;
  #closed = false;

  constructor(context: Context) {
    this.#context = context;
  }

  /** Takes up what was waiting or running when the server stopped, and clears what belongs to nothing. */
  async resume(): Promise<void> {
    const { db, folder } = this.#context;
    const open = (await db("imports").whereIn("state", OPEN_STATES).pluck("id")) as string[];
    const there = new Set(await readdir(folder.incoming));
    for (const name of there) if (!open.includes(name)) await rm(join(folder.incoming, name), { force: true });
    const lost = open.filter((id) => !there.has(id));
    await db("imports").whereIn("id", lost).update({
      state: "failed", error: "Expected the file to be there but it was lost when the server stopped.", hint: "Bring it in again.",
    }); // prettier-ignore
    await db("imports").where({ state: "running" }).update({ state: "waiting" });
    this.#pump();
  }

  /** Takes a file over: moves it (or copies it, when it is to stay) into the queue. Answers at once. */
  async add(path: string, wanted: NewImport, { keep = false } = {}): Promise<ImportJob> {
    const { id = randomUUID() } = wanted;
    // The same file sent several times at once is taken over once.
    const before = this.#adding.get(id);
    const adding = (async () => {
      await before?.catch(() => undefined);
      const known: unknown = await this.#context.db("imports").where({ id }).first();
      if (!known) return this.#enter(path, { ...wanted, id }, keep);
      if (!keep) await rm(path, { force: true });
      return readJob(known);
    })();
    this.#adding.set(id, adding);
    return adding.finally(() => {
      if (this.#adding.get(id) === adding) this.#adding.delete(id);
    });
  }

  async #enter(path: string, wanted: NewImport & { readonly id: string }, keep: boolean): Promise<ImportJob> {
    const { db, folder } = this.#context;
    const { id, rollId, origin, title = "" } = wanted;
    const place = join(folder.incoming, id);
    try {
      if (keep) await copyFile(path, place);
      else await rename(path, place);
      await syncFile(place);
      await syncFolder(folder.incoming);
      const { size: bytes } = await stat(place);
      const fileName = shortName(wanted.fileName);
      await db("imports").insert({ id, rollId, fileName, title, bytes, origin, state: "waiting", createdAt: now() });
    } catch (error) {
      // What could not be entered does not stay: it would be known by nobody.
      await rm(place, { force: true });
      if (!keep) await rm(path, { force: true });
      throw (await diskFull(error, place)) ?? error;
    }
    this.#tell();
    this.#pump();
    return this.find(id);
  }

  /** Tells of a file that is not brought in, and why, like one that failed. */
  async refuse({ rollId, fileName, origin }: NewImport, error: string, hint: string): Promise<void> {
    await this.#context.db("imports").insert({
      id: randomUUID(), rollId, fileName: shortName(fileName), title: "", bytes: 0, origin, state: "failed", error, hint,
      createdAt: now(),
    }); // prettier-ignore
    this.#tell();
  }

  /** Like {@link add}, but waits for what comes of it. @throws {AppError} with the reason when it failed. */
  async bringIn(path: string, wanted: NewImport, options?: { keep?: boolean }): Promise<ImportResult> {
    const id = wanted.id ?? randomUUID();
    const outcome = new Promise<ImportResult | AppError>((resolve) => this.#waiting.set(id, resolve));
    try {
      await this.add(path, { ...wanted, id }, options);
      const came = await outcome;
      if (came instanceof AppError) throw came;
      return came;
    } finally {
      this.#waiting.delete(id);
    }
  }

  async find(id: string): Promise<ImportJob> {
    const row: unknown = await this.#context.db("imports").where({ id }).first();
    if (!row) throw new AppError("not_found", `Expected an import but there is none called ${id}.`);
    return readJob(row);
  }

  /** What is under way, and what came of the rest until it was told. */
  async list(): Promise<ImportJob[]> {
    const rows: unknown[] = await this.#context
      .db("imports")
      .where({ told: false })
      .orderBy("sequence", "desc")
      .limit(LISTED);
    return rows.map(readJob).reverse();
  }

  /** Takes out of the queue what has not begun. */
  async cancelWaiting(): Promise<void> {
    const { db, folder } = this.#context;
    const ids = (await db("imports").where({ state: "waiting" }).pluck("id")) as string[];
    await db("imports").whereIn("id", ids).where({ state: "waiting" }).update({ state: "cancelled" });
    // What was begun in between goes on, and keeps its file.
    const stopped = (await db("imports").whereIn("id", ids).where({ state: "cancelled" }).pluck("id")) as string[];
    for (const id of stopped) {
      await rm(join(folder.incoming, id), { force: true });
      this.#waiting.get(id)?.(new AppError("conflict", "Stopped on request."));
    }
    this.#tell();
  }

  /** Lists what is finished no longer. */
  async clear(): Promise<void> {
    await this.#context.db("imports").whereNotIn("state", OPEN_STATES).update({ told: true });
    this.#tell();
  }

  /** Stops taking up files. What is under way is taken up again at the next start. */
  async close(): Promise<void> {
    this.#closed = true;
    if (this.#again) clearTimeout(this.#again);
    await Promise.allSettled(this.#loops);
  }

  #pump(): void {
    this.#more = true;
    while (!this.#closed && this.#loops.size < THREADS_BEHIND) {
      const loop = this.#loop().catch((error: unknown) => this.#tryAgain(error));
      this.#loops.add(loop);
      void loop.finally(() => this.#loops.delete(loop));
    }
  }

  /** The database itself failed, on a full disk perhaps: what was under way waits, and all is tried again later. */
  #tryAgain(error: unknown): void {
    const { db, log } = this.#context;
    log.error({ err: error }, "imports stopped; they are tried again");
    if (this.#closed || this.#again) return;
    this.#again = setTimeout(() => {
      this.#again = null;
      db("imports")
        .where({ state: "running" })
        .whereNotIn("id", [...this.#running])
        .update({ state: "waiting" })
        .then(
          () => this.#pump(),
          (again: unknown) => this.#tryAgain(again),
        );
    }, AGAIN_MS).unref();
  }

  async #loop(): Promise<void> {
    while (!this.#closed) {
      this.#more = false;
      const job = await this.#take();
      if (job) await this.#work(job);
      else if (!this.#more) return;
    }
  }

  /** The oldest that waits, now running; null when none does. */
  async #take(): Promise<StoredJob | null> {
    const { db } = this.#context;
    const row = (await db("imports").where({ state: "waiting" }).orderBy("sequence").first()) as StoredJob | undefined;
    if (!row) return null;
    const taken = await db("imports").where({ id: row.id, state: "waiting" }).update({ state: "running" });
    return taken > 0 ? row : this.#take();
  }

  async #work({ id, rollId, fileName, title }: StoredJob): Promise<void> {
    const { db, folder, log } = this.#context;
    const path = join(folder.incoming, id);
    this.#tell();
    this.#running.add(id);
    try {
      const result = await importCapture(this.#context, rollId, path, fileName, title);
      await db("imports").where({ id }).update({ state: result.status, negativeId: result.negative.id });
      this.#waiting.get(id)?.(result);
    } catch (error) {
      // A server that is closing takes the file up again when it starts.
      if (this.#closed) return;
      const reason =
        (await diskFull(error, path)) ??
        (error instanceof AppError ? error : new AppError("internal", "It could not be brought in; the log says why."));
      if (reason.code === "internal") log.error({ err: error, fileName }, "import failed");
      await db("imports").where({ id }).update({ state: "failed", error: reason.message, hint: reason.detail.hint });
      this.#waiting.get(id)?.(reason);
    } finally {
      this.#running.delete(id);
    }
    await rm(path, { force: true });
    this.#tell();
  }

  #tell(): void {
    this.#context.broadcast.send({ kind: "import" });
  }
}

type StoredJob = ImportJob & { readonly title: string };

function readJob(row: unknown): ImportJob {
  const { id, rollId, fileName, bytes, origin, state, negativeId, error, hint, createdAt } = row as StoredJob;
  return { id, rollId, fileName, bytes, origin, state, negativeId, error, hint, createdAt };
}
