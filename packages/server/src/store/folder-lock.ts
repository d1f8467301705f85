import { readFile, rm } from "node:fs/promises";
import { join } from "node:path";
import Database from "better-sqlite3";
import { AppError } from "../errors.ts";
import { writeWholeBytes } from "../files/whole-file.ts";

/** Who works on a data folder. */
interface Owner {
  readonly pid: number;
  readonly since: string;
  /** Where it can be asked; null for a command that serves nothing. */
  readonly url: string | null;
}

/** The sole right to work on a data folder, for as long as this process lives. */
export interface FolderLock {
  /** Says where this process can be asked. */
  tell(url: string): Promise<void>;
  release(): Promise<void>;
}

const LOCK_FILE = "yelm.lock";
const OWNER_FILE = "yelm.owner.json";

/**
 * Locks a data folder: the operating system's own lock on a file, which goes with the process however it ends.
 * @throws {AppError} in_use, with what to do.
 */
export async function lockFolder(root: string): Promise<FolderLock> {
  const lock = new Database(join(root, LOCK_FILE), { timeout: 0 });
  try {
    lock.pragma("journal_mode = DELETE");
    lock.pragma("locking_mode = EXCLUSIVE");
    lock.exec("BEGIN EXCLUSIVE");
  } catch (cause) {
    lock.close();
    if (!isBusy(cause)) throw cause;
    throw new AppError("in_use", await inUse(root), { current: await readOwner(root) }, { cause });
  }
  const since = new Date().toISOString();
  const tell = (url: string | null) =>
    writeWholeBytes(
      join(root, OWNER_FILE),
      Buffer.from(JSON.stringify({ pid: process.pid, since, url } satisfies Owner)),
    );
  try {
    await tell(null);
  } catch (error) {
    lock.close();
    throw error;
  }
  return {
    tell,
    async release() {
      await rm(join(root, OWNER_FILE), { force: true });
      lock.close();
    },
  };
}

/** Where the process that owns a folder can be asked; null when there is none that serves. */
export function ownerUrl(error: unknown): string | null {
  if (!(error instanceof AppError) || error.code !== "in_use") return null;
  return (error.detail.current as Owner | null)?.url ?? null;
}

function isBusy(error: unknown): boolean {
  return ["SQLITE_BUSY", "SQLITE_LOCKED"].includes(String((error as { code?: unknown }).code));
}

async function readOwner(root: string): Promise<Owner | null> {
  try {
    return JSON.parse(await readFile(join(root, OWNER_FILE), "utf8")) as Owner;
  } catch {
    return null;
  }
}

async function inUse(root: string): Promise<string> {
  const owner = await readOwner(root);
  const who = owner ? `another Yelm (process ${owner.pid}${owner.url ? `, at ${owner.url}` : ""})` : "another Yelm";
  return `Expected a data folder of its own, but ${who} works on this one. Stop it first, or choose another folder with --data.`;
}
