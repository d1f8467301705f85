import type { AddressInfo } from "node:net";
import { pino, type Logger } from "pino";
import { createApp } from "./app.ts";
import { openDataFolder } from "./files/data-folder.ts";
import { WorkPool } from "./jobs/pool.ts";
import { Broadcast } from "./services/broadcast.ts";
import type { Context } from "./services/context.ts";
import { ExportQueue } from "./services/exports.ts";
import { closeTiles } from "./services/negatives.ts";
import { openDatabase } from "./store/database.ts";

/** A running Yelm. */
export interface Service {
  readonly context: Context;
  readonly url: string;
  close(): Promise<void>;
}

/** Opens the data folder with everything that works on it, without listening. */
export async function openContext(data: string, log: Logger = pino({ level: "silent" })): Promise<Context> {
  const folder = await openDataFolder(data);
  return { folder, db: await openDatabase(folder.database), pool: new WorkPool(), broadcast: new Broadcast(), log };
}

/** Releases what {@link openContext} opened. */
export async function closeContext({ pool, db }: Context): Promise<void> {
  await pool.close();
  closeTiles();
  await db.destroy();
}

/** Serves a data folder on the loopback address. Port 0 takes any free one. */
export async function serve({ data, port, log }: { data: string; port: number; log?: Logger }): Promise<Service> {
  const context = await openContext(data, log);
  const queue = new ExportQueue(context);
  const server = createApp(context, queue).listen(port, "127.0.0.1");
  await new Promise<void>((resolve, reject) => server.once("listening", resolve).once("error", reject));
  await queue.resume();
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
