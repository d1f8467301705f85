import { randomUUID } from "node:crypto";
import { access, readdir, rm, stat } from "node:fs/promises";
import { basename, extname, join } from "node:path";
import { frameOf, upgradeRecipe, type ExportJob, type ExportOptions, type Recipe } from "@yelm/core";
import { AppError } from "../errors.ts";
import { isPartial, tilesPath } from "../files/data-folder.ts";
import { fileNameFor } from "../files/file-name.ts";
import { now, type Context } from "./context.ts";
import { findNegative } from "./negatives.ts";
import { findPrint } from "./prints.ts";
import { findRoll } from "./rolls.ts";

const EXPORT_TIMEOUT_MS = 600_000;
const PROGRESS_INTERVAL_MS = 120;
/** Pause before a queue whose database failed is tried again. */
const AGAIN_MS = 5000;

/** Runs exports one after the other; what was waiting or running when the server stopped starts again. */
export class ExportQueue {
  readonly #context: Context;
  readonly #stops = new Map<string, AbortController>();
  readonly #progress = new Map<string, number>();
  #pumping: Promise<void> | null = null;
  #closed = false;
  #again: NodeJS.Timeout | undefined;

  constructor(context: Context) {
    this.#context = context;
  }

  async resume(): Promise<void> {
    await clearPartial(this.#context.folder.exports);
    await this.#takeUp();
    this.#pump();
  }

  async list(): Promise<ExportJob[]> {
    const rows = await this.#context.db("exports").orderBy("createdAt", "desc").limit(200);
    return rows.map((row) => this.#read(row));
  }

  async find(id: string): Promise<ExportJob> {
    const row: unknown = await this.#context.db("exports").where({ id }).first();
    if (!row) throw new AppError("not_found", `Expected an export but there is none called ${id}.`);
    return this.#read(row);
  }

  /** Queues prints as they are now, all of them or none; later edits do not change the files. */
  async add(printIds: readonly string[], options: ExportOptions): Promise<ExportJob[]> {
    const prints = [];
    for (const printId of printIds) prints.push(await findPrint(this.#context, printId));
    const rows = prints.map(({ id: printId, recipe }) => ({
      id: randomUUID(), printId, recipe: JSON.stringify(recipe), options: JSON.stringify(options), state: "waiting",
      createdAt: now(),
    })); // prettier-ignore
    await this.#context.db.transaction(async (trx) => {
      for (const row of rows) await trx("exports").insert(row);
    });
    for (const { id } of rows) this.#tell(id);
    this.#pump();
    return Promise.all(rows.map(({ id }) => this.find(id)));
  }

  /** Stops an export; a finished one keeps its file. */
  async cancel(id: string): Promise<ExportJob> {
    await this.find(id);
    const changed = await this.#context
      .db("exports")
      .where({ id })
      .whereIn("state", ["waiting", "running"])
      .update({ state: "cancelled" });
    if (changed > 0) this.#stops.get(id)?.abort();
    this.#tell(id);
    return this.find(id);
  }

  /** Path of a finished file. */
  async file(id: string): Promise<{ path: string; fileName: string }> {
    const { fileName, state } = await this.find(id);
    if (state !== "done" || !fileName)
      throw new AppError("not_found", `Expected a finished export but it is ${state}.`);
    const path = join(this.#context.folder.exports, fileName);
    const there = await access(path).then(
      () => true,
      () => false,
    );
    if (!there) throw new AppError("not_found", `Expected ${fileName} but it is no longer in the exports folder.`);
    return { path, fileName };
  }

  async close(): Promise<void> {
    this.#closed = true;
    clearTimeout(this.#again);
    for (const stop of this.#stops.values()) stop.abort();
    await this.#pumping;
  }

  #pump(): void {
    this.#pumping ??= this.#work()
      .catch((error: unknown) => this.#tryAgain(error))
      .finally(() => (this.#pumping = null));
  }

  /** The database itself failed, on a full disk perhaps: later, from where things stand then. */
  #tryAgain(error: unknown): void {
    this.#context.log.error({ err: error }, "exports stopped; they are tried again");
    if (this.#closed) return;
    clearTimeout(this.#again);
    this.#again = setTimeout(() => {
      this.#takeUp().then(
        () => this.#pump(),
        (again: unknown) => this.#tryAgain(again),
      );
    }, AGAIN_MS).unref();
  }

  /** What was running is done when its file is there, which it is only whole; else it waits again. */
  async #takeUp(): Promise<void> {
    const { db, folder } = this.#context;
    const running: { id: string; fileName: string | null }[] = await db("exports")
      .where({ state: "running" })
      .select("id", "fileName");
    for (const { id, fileName } of running) {
      const written = fileName && (await stat(join(folder.exports, fileName)).catch(() => null));
      await db("exports")
        .where({ id })
        .update(
          written
            ? { state: "done", progress: 1, bytes: written.size }
            : { state: "waiting", progress: 0, fileName: null },
        );
    }
  }

  async #work(): Promise<void> {
    while (!this.#closed) {
      const next: unknown = await this.#context.db("exports").where({ state: "waiting" }).orderBy("createdAt").first();
      if (!next) return;
      await this.#run(this.#read(next));
    }
  }

  async #run(job: ExportJob): Promise<void> {
    const { db, folder, pool, log } = this.#context;
    const stop = new AbortController();
    this.#stops.set(job.id, stop);
    const settle = (change: object) =>
      db("exports").where({ id: job.id }).whereNot({ state: "cancelled" }).update(change);
    try {
      if (!(await settle({ state: "running" }))) return;
      const print = await findPrint(this.#context, job.printId);
      const negative = await findNegative(this.#context, print.negativeId);
      const roll = await findRoll(this.#context, negative.rollId);
      const frame = frameOf(negative, job.recipe.ground);
      const wanted = fileNameFor(job.options, {
        negative: basename(negative.fileName, extname(negative.fileName)),
        print: print.name,
        roll: roll.title,
        date: (negative.takenAt ?? job.createdAt).slice(0, 10),
        "long-edge": String(Math.min(job.options.longEdge ?? Infinity, Math.max(frame.width, frame.height))),
      });
      const fileName = await freeName(folder.exports, wanted);
      const out = join(folder.exports, fileName);
      // Its name first: should the server stop right after the file is there, it is known to be this one.
      if (!(await settle({ fileName }))) return;
      let told = 0;
      const write = () =>
        pool.run(
          "background",
          "export",
          {
            tiles: tilesPath(folder, negative.hash),
            recipe: job.recipe,
            options: job.options,
            info: negative.capture,
            out,
          },
          {
            signal: stop.signal,
            timeoutMs: EXPORT_TIMEOUT_MS,
            onProgress: (share) => {
              this.#progress.set(job.id, share);
              if (performance.now() - told < PROGRESS_INTERVAL_MS) return;
              told = performance.now();
              this.#tell(job.id);
            },
          },
        );
      const { bytes } = await this.#context.shelf.use(negative, write);
      if (!(await settle({ state: "done", progress: 1, fileName, bytes }))) await rm(out, { force: true });
      log.info({ fileName, bytes }, "exported");
    } catch (error) {
      // The thread may have been stopped in the middle of writing, so what it left is cleared here.
      await clearPartial(folder.exports);
      const ended = this.#closed ? { state: "waiting" } : { state: "failed", error: reasonOf(error) };
      if (!(error instanceof AppError) || error.code === "internal")
        log.error({ err: error, export: job.id }, "export failed");
      await settle({ ...ended, progress: 0, fileName: null });
    } finally {
      this.#stops.delete(job.id);
      this.#progress.delete(job.id);
      this.#tell(job.id);
    }
  }

  #tell(id: string): void {
    this.#context.broadcast.send({ kind: "export", id });
  }

  #read(row: unknown): ExportJob {
    const stored = row as Omit<ExportJob, "recipe" | "options"> & { recipe: string; options: string };
    return {
      ...stored,
      recipe: upgradeRecipe(JSON.parse(stored.recipe)) as Recipe,
      options: JSON.parse(stored.options) as ExportOptions,
      progress: this.#progress.get(stored.id) ?? stored.progress,
    };
  }
}

/** Why an export failed, without saying where anything lies on this machine. */
function reasonOf(error: unknown): string {
  return error instanceof AppError ? error.message : "It could not be written; the log says why.";
}

/** Removes files that were begun and never finished; exports are written one after the other. */
async function clearPartial(folder: string): Promise<void> {
  const names = await readdir(folder).catch(() => []);
  for (const name of names) if (isPartial(name)) await rm(join(folder, name), { force: true });
}

/** A name that no file has yet: "a.tif", "a-2.tif", … */
async function freeName(folder: string, wanted: string): Promise<string> {
  const extension = extname(wanted);
  const stem = basename(wanted, extension);
  for (let i = 1; ; i++) {
    const name = i === 1 ? wanted : `${stem}-${i}${extension}`;
    const taken = await access(join(folder, name)).then(
      () => true,
      () => false,
    );
    if (!taken) return name;
  }
}
