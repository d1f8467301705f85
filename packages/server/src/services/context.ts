import type { Logger } from "pino";
import type { DataFolder } from "../files/data-folder.ts";
import type { WorkPool } from "../jobs/pool.ts";
import type { Database } from "../store/database.ts";
import type { FolderLock } from "../store/folder-lock.ts";
import type { Broadcast } from "./broadcast.ts";
import type { TileShelf } from "./tile-shelf.ts";

/** What every service works with. */
export interface Context {
  readonly db: Database;
  readonly folder: DataFolder;
  readonly lock: FolderLock;
  readonly pool: WorkPool;
  readonly shelf: TileShelf;
  readonly broadcast: Broadcast;
  readonly log: Logger;
}

/** Time as it is stored: ISO 8601, UTC. */
export const now = (): string => new Date().toISOString();
