import type { Stats } from "node:fs";
import { lstat, readdir, readFile } from "node:fs/promises";
import { basename, extname, join, relative } from "node:path";
import type { Card, CardScene, CardShot } from "@yelm/core";
import { watch, type FSWatcher } from "chokidar";
import { AppError } from "../errors.ts";
import { readSetting, writeSetting } from "../store/settings.ts";
import type { Context } from "./context.ts";
import type { ImportQueue } from "./imports.ts";
import { findRoll } from "./rolls.ts";
import { MAXIMUM_FILE_BYTES } from "../files/file-name.ts";

const SETTING = "cardRoll";
/** A file that has not grown for this long is whole. */
const STABLE_MS = 800;
const SHOOT_TIMEOUT_MS = 300_000;
const DEPTH = 8;
/** What lies on cards beside pictures: films, sound, notes of cameras and programs. Not brought in, and nothing failed. */
const NO_PICTURES = new Set(
  ".avi .bdm .cpi .ctg .dat .db .htm .html .ini .log .lrv .m2ts .m4v .mov .mp3 .mp4 .mpl .mts .srt .thm .txt .wav .xml .xmp".split(
    " ",
  ),
);

/**
 * The watched folder that stands in for a camera's card. While a roll takes what arrives, every file that comes to lie in
 * the folder (or lies there already) is copied into the roll once; the file on the card stays as it is.
 */
export class CardReader {
  readonly #context: Context;
  readonly #queue: ImportQueue;
  readonly #scenes: string;
  #watcher: FSWatcher | null = null;
  #shots = 0;
  readonly #taking = new Set<string>();
  #assigning: Promise<void> = Promise.resolve();

  /** @param scenes - folder of scenes for the simulated camera. */
  constructor(context: Context, queue: ImportQueue, scenes: string) {
    this.#context = context;
    this.#queue = queue;
    this.#scenes = scenes;
  }

  async resume(): Promise<void> {
    const rollId = await readSetting<string>(this.#context.db, SETTING);
    if (rollId) await this.#watch(rollId);
  }

  async describe(): Promise<Card> {
    const rollId = await readSetting<string>(this.#context.db, SETTING);
    return { folder: this.#context.folder.card, rollId, scenes: await this.#listScenes() };
  }

  /** Lets a roll take what arrives; null stops it. */
  async assign(rollId: string | null): Promise<Card> {
    if (rollId) await findRoll(this.#context, rollId);
    // One after the other: a watcher that is closed before it is ready never says so.
    const assigning = this.#assigning
      .catch(() => undefined)
      .then(async () => {
        await writeSetting(this.#context.db, SETTING, rollId);
        await this.#watcher?.close();
        this.#watcher = null;
        if (rollId) await this.#watch(rollId);
      });
    this.#assigning = assigning;
    await assigning;
    return this.describe();
  }

  /**
   * Has the simulated camera shoot onto the card, one frame or a bracket about the exposure.
   * @returns the files' names.
   */
  async shoot({ scene, iso, exposureStops, frames, stepStops }: CardShot): Promise<string[]> {
    const known = (await this.#listScenes()).find(({ name }) => name === scene);
    if (!known) throw new AppError("not_found", `Expected a scene of the camera's but there is none called ${scene}.`);
    const files: string[] = [];
    for (let frame = 0; frame < frames; frame++) {
      const offset = (frame - (frames - 1) / 2) * stepStops;
      const number = String(Date.now() % 1e8).padStart(8, "0");
      const file = `halden-${number}-${frame + 1}.dng`;
      await this.#context.pool.run(
        "background",
        "shoot",
        {
          scene: join(this.#scenes, `${known.name}.json`),
          out: join(this.#context.folder.card, file),
          iso,
          stops: known.exposureStops + exposureStops + offset,
          seed: (Date.now() + ++this.#shots) % 2147483647,
        },
        { timeoutMs: SHOOT_TIMEOUT_MS },
      );
      files.push(file);
    }
    return files;
  }

  async close(): Promise<void> {
    await this.#assigning.catch(() => undefined);
    await this.#watcher?.close();
  }

  async #watch(rollId: string): Promise<void> {
    const { folder, log } = this.#context;
    const watcher = watch(folder.card, {
      ignored: (path) => path !== folder.card && basename(path).startsWith("."),
      awaitWriteFinish: { stabilityThreshold: STABLE_MS, pollInterval: 100 },
      depth: DEPTH,
      followSymlinks: false,
    });
    // Changed too: a file that was taken while it was still being written is taken again once it has rested.
    for (const event of ["add", "change"] as const)
      watcher.on(event, (path) => {
        this.#take(path, rollId).catch((error: unknown) =>
          log.error({ err: error, path }, "the card could not be read"),
        );
      });
    // A folder that is called a picture is told like whatever else is none.
    watcher.on("addDir", (path) => {
      if (!isPictureName(path)) return;
      this.#take(path, rollId).catch((error: unknown) => log.error({ err: error, path }, "a folder could not be told"));
    });
    watcher.on("error", (error) => log.error({ err: error }, "the card's folder could not be watched"));
    this.#watcher = watcher;
    await new Promise<void>((resolve) => watcher.once("ready", () => resolve()));
  }

  /** Queues a file of the card, unless it was taken before. */
  async #take(path: string, rollId: string): Promise<void> {
    const { db, folder } = this.#context;
    const found = await lstat(path);
    const file = `${relative(folder.card, path)} ${found.size} ${Math.round(found.mtimeMs)}`;
    // A roll that was put away takes nothing more; the file is taken when another roll reads the card.
    await findRoll(this.#context, rollId);
    // Two watchers in a row may both tell a file while it is being taken. What was taken is written down last: a kill
    // between the two costs a second look, never a file.
    if (this.#taking.has(file)) return;
    this.#taking.add(file);
    try {
      const known: unknown = await db("cardFiles").where({ file }).first();
      if (known) return;
      await this.#takeFresh(path, found, rollId);
      await db("cardFiles").insert({ file }).onConflict("file").ignore();
    } finally {
      this.#taking.delete(file);
    }
  }

  async #takeFresh(path: string, found: Stats, rollId: string): Promise<void> {
    const wanted = { rollId, fileName: basename(path), origin: "card" } as const;
    const { log } = this.#context;
    if (NO_PICTURES.has(extname(path).toLowerCase())) log.debug({ path }, "no picture, left on the card");
    else if (!found.isFile())
      await this.#queue.refuse(wanted, `Expected a plain file but it is ${kindOf(found)}.`, "Copy the picture itself.");
    else if (found.size > MAXIMUM_FILE_BYTES)
      await this.#queue.refuse(
        wanted,
        `Expected at most ${MAXIMUM_FILE_BYTES / 2 ** 20} MiB but it has ${Math.ceil(found.size / 2 ** 20)}.`,
        "Larger captures cannot be brought in.",
      );
    else await this.#queue.add(path, wanted, { keep: true });
  }

  async #listScenes(): Promise<CardScene[]> {
    const names = await readdir(this.#scenes).catch(() => []);
    const read = async (name: string): Promise<CardScene> => {
      const stored = JSON.parse(await readFile(join(this.#scenes, name), "utf8")) as CardScene;
      const { title, width, height, exposureStops } = stored;
      return { name: name.replace(/\.json$/, ""), title, width, height, exposureStops };
    };
    return Promise.all(names.filter((name) => name.endsWith(".json")).map(read));
  }
}

const isPictureName = (path: string) => /\.(dng|tiff?|jpe?g|png)$/i.test(path);

function kindOf(found: Stats): string {
  if (found.isSymbolicLink()) return "a link to another place";
  if (found.isFIFO()) return "a pipe";
  if (found.isSocket()) return "a socket";
  if (found.isDirectory()) return "a folder";
  return "a device";
}
