import { randomUUID } from "node:crypto";
import { access, readdir, rm } from "node:fs/promises";
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

/** Runs exports one after the other; what was waiting or running when the server stopped starts again. */
export class ExportQueue {
  readonly #context: Context;
  readonly #stops = new Map<string, AbortController>();
  readonly #progress = new Map<string, number>();
  #pumping: Promise<void> | null = null;
  #closed = false;

  constructor(context: Context) {
    this.#context = context;
  }

  async resume(): Promise<void> {
    await clearPartial(this.#context.folder.exports);
    await this.#context.db("exports").where({ state: "running" }).update({ state: "waiting", progress: 0 });
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

  /** Queues a print as it is now; later edits do not change the file. */
  async add(printId: string, options: ExportOptions): Promise<ExportJob> {
    const { recipe } = await findPrint(this.#context, printId);
    const id = randomUUID();
    await this.#context.db("exports").insert({
      id, printId, recipe: JSON.stringify(recipe), options: JSON.stringify(options), state: "waiting", createdAt: now(),
    }); // prettier-ignore
    this.#tell(id);
    this.#pump();
    return this.find(id);
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
    return { path: join(this.#context.folder.exports, fileName), fileName };
  }

  async close(): Promise<void> {
    this.#closed = true;
    for (const stop of this.#stops.values()) stop.abort();
    await this.#pumping;
  }

  #pump(): void {
    this.#pumping ??= this.#work().finally(() => (this.#pumping = null));
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
      await this.#context.shelf.open(negative);
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
      let told = 0;
      const { bytes } = await pool.run(
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
      if (!(await settle({ state: "done", progress: 1, fileName, bytes }))) await rm(out, { force: true });
      log.info({ fileName, bytes }, "exported");
    } catch (error) {
      // The thread may have been stopped in the middle of writing, so what it left is cleared here.
      await clearPartial(folder.exports);
      if (this.#closed) await settle({ state: "waiting", progress: 0 });
      else await settle({ state: "failed", error: error instanceof Error ? error.message : String(error) });
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

/** Removes files that were begun and never finished; exports are written one after the other. */
async function clearPartial(folder: string): Promise<void> {
  for (const name of await readdir(folder)) if (isPartial(name)) await rm(join(folder, name), { force: true });
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
