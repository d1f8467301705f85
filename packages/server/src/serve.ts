import type { AddressInfo } from "node:net";
import { pino, type Logger } from "pino";
import { createApp } from "./app.ts";
import { openDataFolder } from "./files/data-folder.ts";
import { WorkPool } from "./jobs/pool.ts";
import { Broadcast } from "./services/broadcast.ts";
import type { Context } from "./services/context.ts";
import { ExportQueue } from "./services/exports.ts";
import { TileShelf } from "./services/tile-shelf.ts";
import { openDatabase } from "./store/database.ts";

const STANDARD_TILE_GIB = 40;

/** A running Yelm. */
export interface Service {
  readonly context: Context;
  readonly url: string;
  close(): Promise<void>;
}

/** Opens the data folder with everything that works on it, without listening. */
export async function openContext(data: string, log: Logger = pino({ level: "silent" })): Promise<Context> {
  const folder = await openDataFolder(data);
  const pool = new WorkPool();
  const shelf = new TileShelf({ folder, pool, log, limitBytes: tileLimit() });
  return { folder, db: await openDatabase(folder.database), pool, shelf, broadcast: new Broadcast(), log };
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
  const queue = new ExportQueue(context);
  const server = createApp(context, queue).listen(port, "127.0.0.1");
  await new Promise<void>((resolve, reject) => server.once("listening", resolve).once("error", reject));
  await queue.resume();
  await context.shelf.trim();
  return {
    context,
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    async close() {
      const closed = new Promise((resolve) => server.close(resolve));
      server.closeAllConnections();
      await closed;
      await queue.close();
      await closeContext(context);
    },
  };
}

/** Bytes of tiles to keep on disk, from the environment. */
function tileLimit(): number {
  const said = Number(process.env.YELM_TILE_GIB);
  return (said > 0 && Number.isFinite(said) ? said : STANDARD_TILE_GIB) * 2 ** 30;
}
