import { readdir, rm, stat, utimes } from "node:fs/promises";
import { join } from "node:path";
import type { CaptureInfo, Negative } from "@yelm/core";
import type { Logger } from "pino";
import { AppError } from "../errors.ts";
import { capturePath, tilesPath, type DataFolder } from "../files/data-folder.ts";
import { PYRAMID_FILE, TileReader } from "../files/tile-files.ts";
import type { WorkPool } from "../jobs/pool.ts";

/** Pyramids kept open at a time. */
const OPEN_AT_ONCE = 24;
/** Looking at every pyramid on disk takes a while when there are thousands. */
const TRIM_MS = 15_000;

/** What the shelf works with. */
export interface ShelfOptions {
  readonly folder: DataFolder;
  readonly pool: WorkPool;
  readonly log: Logger;
  /** Bytes of tiles kept on disk; what was used longest ago goes first and is made again when it is wanted. */
  readonly limitBytes: number;
  /** Told what a capture was found to be when its tiles were made again; a newer Yelm may see more in it. */
  readonly onMade?: (negative: Negative, capture: CaptureInfo) => Promise<void>;
  /** The negative as it is entered now; who asks may have read it before its tiles were made otherwise. */
  readonly current?: (id: string) => Promise<Negative>;
}

/** An open pyramid and how many are using it; it is closed when it is no longer wanted and nobody is. */
interface Shelved {
  readonly reader: Promise<TileReader>;
  users: number;
  unwanted: boolean;
}

/** The tiles of all negatives on disk: opened, made again when missing or damaged, and thrown out when they are too many. */
export class TileShelf {
  readonly #options: ShelfOptions;
  /** By hash, used longest ago first. */
  readonly #open = new Map<string, Shelved>();
  readonly #making = new Map<string, Promise<void>>();
  #trimming: Promise<void> | null = null;
  #timer: NodeJS.Timeout | null = null;

  constructor(options: ShelfOptions) {
    this.#options = options;
  }

  /**
   * Uses a negative's tiles; missing or damaged ones are made again from the capture first, also when that shows only while
   * they are read. They stay open, and on the disk, until `work` is done.
   */
  async use<T>(negative: Negative, work: (reader: TileReader) => T | Promise<T>): Promise<T> {
    try {
      return await this.#useOnce(negative, work);
    } catch (error) {
      if (!(error instanceof AppError) || error.code !== "damaged_file") throw error;
      const now = (await this.#options.current?.(negative.id)) ?? negative;
      if (isSmoothed(now) !== isSmoothed(negative))
        throw new AppError("not_found", "Expected the negative's tiles but they were made anew meanwhile.");
      await this.make(negative);
      return this.#useOnce(negative, work);
    }
  }

  /** Makes a negative's tiles anew; several who ask at once wait for the same work. */
  async make(negative: Negative): Promise<void> {
    const { hash, fileName, id } = negative;
    const { folder, pool, log, onMade } = this.#options;
    let making = this.#making.get(hash);
    if (!making) {
      log.warn({ negative: id }, "tiles are made again");
      const smooth = isSmoothed(negative);
      this.#putAway(hash);
      const tiles = tilesPath(folder, hash);
      const task = { capture: capturePath(folder, hash), fileName, tiles, hash, helping: pool.spareCores, smooth };
      making = pool
        .run("interactive", "develop", task)
        .then((capture) => onMade?.(negative, capture))
        .finally(() => this.#making.delete(hash));
      this.#making.set(hash, making);
    }
    await making;
  }

  /** Throws out what was used longest ago until the rest fits; what is open or being made stays. */
  trim(): Promise<void> {
    this.#trimming ??= this.#trim().finally(() => (this.#trimming = null));
    return this.#trimming;
  }

  /** Trims in a while: during a large import once for many captures. */
  trimSoon(): void {
    this.#timer ??= setTimeout(() => {
      this.#timer = null;
      this.trim().catch((error: unknown) =>
        this.#options.log.error({ err: error }, "old tiles could not be thrown out"),
      );
    }, TRIM_MS).unref();
  }

  close(): void {
    if (this.#timer) clearTimeout(this.#timer);
    for (const hash of [...this.#open.keys()]) this.#putAway(hash);
  }

  async #trim(): Promise<void> {
    const { folder, limitBytes, log } = this.#options;
    const kept = await Promise.all((await readdir(folder.tiles)).map((name) => measure(folder.tiles, name)));
    let total = kept.reduce((sum, { bytes }) => sum + bytes, 0);
    for (const { name, bytes } of kept.sort((a, b) => a.usedAt - b.usedAt)) {
      if (total <= limitBytes) return;
      if (this.#open.has(name) || this.#making.has(name)) continue;
      await rm(join(folder.tiles, name), { recursive: true, force: true });
      log.info({ hash: name, bytes }, "tiles thrown out to make room");
      total -= bytes;
    }
  }

  async #useOnce<T>(negative: Negative, work: (reader: TileReader) => T | Promise<T>): Promise<T> {
    const { hash } = negative;
    await this.#making.get(hash);
    const shelved = this.#take(hash);
    try {
      const reader = await shelved.reader;
      // A stop between making them otherwise and entering that leaves such ones.
      if (reader.smoothed !== isSmoothed(negative))
        throw new AppError("damaged_file", "Expected the negative's tiles but they are of other colours.");
      return await work(reader);
    } catch (error) {
      if (this.#open.get(hash) === shelved) this.#putAway(hash);
      throw error;
    } finally {
      shelved.users--;
      this.#closeIfDone(shelved);
    }
  }

  /** A pyramid for one more user; several who open it at once share one reader. */
  #take(hash: string): Shelved {
    const path = tilesPath(this.#options.folder, hash);
    const known = this.#open.get(hash);
    const shelved = known ?? { reader: openPyramid(path), users: 0, unwanted: false };
    this.#open.delete(hash);
    this.#open.set(hash, shelved);
    shelved.users++;
    if (!known) {
      const now = new Date();
      void utimes(join(path, PYRAMID_FILE), now, now).catch(() => undefined);
    }
    for (const [oldest, { users }] of this.#open) {
      if (this.#open.size <= OPEN_AT_ONCE) break;
      if (users === 0) this.#putAway(oldest);
    }
    return shelved;
  }

  /** Takes a pyramid off the shelf; it is closed when the last of its users is done. */
  #putAway(hash: string): void {
    const shelved = this.#open.get(hash);
    if (!shelved) return;
    this.#open.delete(hash);
    shelved.unwanted = true;
    this.#closeIfDone(shelved);
  }

  #closeIfDone({ reader, users, unwanted }: Shelved): void {
    if (!unwanted || users > 0) return;
    reader.then(
      (open) => open.close(),
      () => undefined,
    );
  }
}

const isSmoothed = ({ capture }: Negative): boolean => capture.smoothed ?? false;

async function openPyramid(path: string): Promise<TileReader> {
  await Promise.resolve();
  return new TileReader(path);
}

async function measure(folder: string, name: string): Promise<{ name: string; bytes: number; usedAt: number }> {
  const path = join(folder, name);
  const files = await readdir(path).catch(() => []);
  const sizes = await Promise.all(
    files.map((file) =>
      stat(join(path, file)).then(
        ({ size }) => size,
        () => 0,
      ),
    ),
  );
  const described = await stat(join(path, PYRAMID_FILE)).catch(() => null);
  return { name, bytes: sizes.reduce((a, b) => a + b, 0), usedAt: described?.mtimeMs ?? 0 };
}
