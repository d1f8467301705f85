import type { AddressInfo } from "node:net";
import type { CaptureInfo, Negative } from "@yelm/core";
import { pino, type Logger } from "pino";
import { createApp } from "./app.ts";
import { openDataFolder } from "./files/data-folder.ts";
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

/** Scenes for the simulated camera, beside the demo's negatives. */
const SCENES = fileURLToPath(new URL("../../../demo/scenes", import.meta.url));
const PURGE_MS = 24 * 3600 * 1000;
const STANDARD_TILE_GIB = 40;

/** A running Yelm. */
export interface Service {
  readonly context: Context;
  readonly url: string;
  close(): Promise<void>;
}

/** Opens the data folder with everything that works on it, without listening. */
export async function openContext(data: string, log: Logger = pino({ level: "silent" })): Promise<Context> {
  const folder = await openDataFolder(data, process.env.YELM_CARD);
  const pool = new WorkPool();
  const db = await openDatabase(folder.database);
  const broadcast = new Broadcast();
  const onMade = async ({ id, rollId }: Negative, capture: CaptureInfo) => {
    await db("negatives")
      .where({ id })
      .update({ capture: JSON.stringify(capture) });
    broadcast.send({ kind: "negatives", rollId });
  };
  const shelf = new TileShelf({ folder, pool, log, limitBytes: tileLimit(), onMade });
  return { folder, db, pool, shelf, broadcast, log };
}

/** Releases what {@link openContext} opened. */
export async function closeContext({ pool, shelf, db }: Context): Promise<void> {
  await pool.close();
  shelf.close();
  await db.destroy();
}

/** Serves a data folder on the loopback address. Port 0 takes any free one. */
export async function serve({ data, port, log }: { data: string; port: number; log?: Logger }): Promise<Service> {
  const context = await openContext(data, log);
  const exports = new ExportQueue(context);
  const imports = new ImportQueue(context);
  const card = new CardReader(context, imports, SCENES);
  const server = createApp(context, { exports, imports, card }).listen(port, "127.0.0.1");
  await new Promise<void>((resolve, reject) => server.once("listening", resolve).once("error", reject));
  await exports.resume();
  await imports.resume();
  await card.resume();
  await context.shelf.trim();
  await purgeDeleted(context);
  const purging = setInterval(() => {
    purgeDeleted(context).catch((error: unknown) => context.log.error({ err: error }, "old negatives stayed"));
  }, PURGE_MS).unref();
  return {
    context,
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    async close() {
      const closed = new Promise((resolve) => server.close(resolve));
      server.closeAllConnections();
      await closed;
      clearInterval(purging);
      await card.close();
      // The pool goes first: what it was doing is taken up again at the next start.
      const stopped = Promise.all([exports.close(), imports.close()]);
      await context.pool.close();
      await stopped;
      await closeContext(context);
    },
  };
}

/** Bytes of tiles to keep on disk, from the environment. */
function tileLimit(): number {
  const said = Number(process.env.YELM_TILE_GIB);
  return (said > 0 && Number.isFinite(said) ? said : STANDARD_TILE_GIB) * 2 ** 30;
}
