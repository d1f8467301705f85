import { existsSync, readdirSync } from "node:fs";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import type { CaptureInfo, Negative } from "@yelm/core";
import { pino, type Logger } from "pino";
import { createApp } from "./app.ts";
import { AppError } from "./errors.ts";
import { clearLeftovers, openDataFolder, type DataFolder } from "./files/data-folder.ts";
import { WorkPool } from "./jobs/pool.ts";
import { fileURLToPath } from "node:url";
import { CardReader } from "./services/card.ts";
import { ImportQueue } from "./services/imports.ts";
import { purgeDeleted } from "./services/purge.ts";
import { Broadcast } from "./services/broadcast.ts";
import type { Context } from "./services/context.ts";
import { ExportQueue } from "./services/exports.ts";
import { TileShelf } from "./services/tile-shelf.ts";
import { openDatabase } from "./store/database.ts";
import { lockFolder } from "./store/folder-lock.ts";
import { findNegative, mendNegatives } from "./services/negatives.ts";

/** Scenes for the simulated camera, beside the demo's negatives. */
const SCENES = fileURLToPath(new URL("../../../demo/scenes", import.meta.url));
const KEEP_ALIVE_MS = 120_000;
const PURGE_MS = 24 * 3600 * 1000;
const STANDARD_TILE_GIB = 40;

/** A running Yelm. */
export interface Service {
  readonly context: Context;
  readonly url: string;
  close(): Promise<void>;
}

/**
 * Opens the data folder with everything that works on it, without listening. What was opened before something fails is closed.
 * @throws {AppError} in_use when another process has it; damaged_file when its database cannot be used.
 */
export async function openContext(data: string, log: Logger = pino({ level: "silent" })): Promise<Context> {
  const folder = await openDataFolder(data, process.env.YELM_CARD);
  const lock = await lockFolder(folder.root);
  try {
    const db = await openDatabase(folder.database, hasCaptures(folder));
    const pool = new WorkPool();
    const broadcast = new Broadcast();
    const onMade = async ({ id, rollId }: Negative, capture: CaptureInfo) => {
      await db("negatives")
        .where({ id })
        .update({ capture: JSON.stringify(capture) });
      broadcast.send({ kind: "negatives", rollId });
    };
    const current = (id: string) => findNegative({ db }, id);
    const shelf = new TileShelf({ folder, pool, log, limitBytes: tileLimit(), onMade, current });
    return { folder, lock, db, pool, shelf, broadcast, log };
  } catch (error) {
    await lock.release();
    throw error;
  }
}

/** Releases what {@link openContext} opened. */
export async function closeContext({ pool, shelf, db, lock }: Context): Promise<void> {
  await pool.close();
  shelf.close();
  await db.destroy();
  await lock.release();
}

/**
 * Serves a data folder on the loopback address; port 0 takes any free one. It listens once everything has been taken up
 * where it was.
 * @throws {AppError} with what to do; whatever was opened is closed by then.
 */
export async function serve({ data, port, log }: { data: string; port: number; log?: Logger }): Promise<Service> {
  if (!(port >= 0 && port <= 65535))
    throw new AppError("bad_request", `Expected a port from 0 to 65535 but received ${port}.`);
  const context = await openContext(data, log);
  const exports = new ExportQueue(context);
  const imports = new ImportQueue(context);
  const card = new CardReader(context, imports, SCENES);
  const server = createServer(createApp(context, { exports, imports, card }));
  // A page that rests for a while finds its connection still there, not one that closes as it asks.
  server.keepAliveTimeout = KEEP_ALIVE_MS;
  let purging: NodeJS.Timeout | undefined;
  const close = async () => {
    clearInterval(purging);
    const closed = server.listening ? new Promise((resolve) => server.close(resolve)) : Promise.resolve();
    server.closeAllConnections();
    await closed;
    await card.close();
    // The pool goes first: what it was doing is taken up again at the next start.
    const stopped = Promise.all([exports.close(), imports.close()]);
    await context.pool.close();
    await stopped;
    await closeContext(context);
  };
  try {
    await clearLeftovers(context.folder);
    await mendNegatives(context);
    await exports.resume();
    await imports.resume();
    await card.resume();
    await context.shelf.trim();
    await purgeDeleted(context);
    await listen(server, port);
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    await context.lock.tell(url);
    purging = setInterval(() => {
      purgeDeleted(context).catch((error: unknown) => context.log.error({ err: error }, "old negatives stayed"));
    }, PURGE_MS).unref();
    return { context, url, close };
  } catch (error) {
    await close().catch(() => undefined);
    throw error;
  }
}

function listen(server: Server, port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once("listening", resolve).once("error", (error: NodeJS.ErrnoException) => {
      if (error.code !== "EADDRINUSE" && error.code !== "EACCES") return reject(error);
      const why = error.code === "EACCES" ? "may not be used by you" : "is in use";
      return reject(
        new AppError("conflict", `Expected port ${port} to be free but it ${why}.`, {
          hint: "Choose another with --port, or stop what uses it.",
        }),
      );
    });
    server.listen(port, "127.0.0.1");
  });
}

/** Bytes of tiles to keep on disk, from the environment. */
function tileLimit(): number {
  const said = Number(process.env.YELM_TILE_GIB);
  return (said > 0 && Number.isFinite(said) ? said : STANDARD_TILE_GIB) * 2 ** 30;
}

/** Whether captures lie in a data folder: then there has been a database too. */
function hasCaptures({ captures }: DataFolder): boolean {
  return existsSync(captures) && readdirSync(captures).length > 0;
}
