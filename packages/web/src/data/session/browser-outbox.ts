import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import type { OutboxPort } from "./ports.ts";
import type { OutboxItem } from "./state.ts";

/** Unsent acts by print and window: [printId, windowId] → oldest first. */
interface OutboxSchema extends DBSchema {
  outboxes: { key: [printId: string, windowId: string]; value: readonly OutboxItem[] };
}

const open = () => openDB<OutboxSchema>("yelm-outboxes", 1, { upgrade: (db) => void db.createObjectStore("outboxes") });
let database: ReturnType<typeof open> | undefined;

/** The browser's database, opened anew after it failed. */
function openDatabase(): Promise<IDBPDatabase<OutboxSchema>> {
  database ??= open().catch((error: unknown) => {
    database = undefined;
    throw error;
  });
  return database;
}

const WINDOW_KEY = "yelm-window";
let owned: Promise<string> | undefined;

/**
 * The name of this window, the same after a reload. A lock is held on it for as long as the window lives; a copy of the
 * tab, which begins with its session storage, finds the lock taken and gets a name of its own.
 */
function windowId(): Promise<string> {
  owned ??= (async () => {
    const known = sessionStorage.getItem(WINDOW_KEY);
    if (known && (await holdLock(known))) return known;
    const fresh = crypto.randomUUID();
    await holdLock(fresh);
    sessionStorage.setItem(WINDOW_KEY, fresh);
    return fresh;
  })();
  return owned;
}

/** Takes a window's lock until this one ends; false when its owner lives. */
function holdLock(id: string): Promise<boolean> {
  return new Promise((answer) => {
    void navigator.locks.request(lockOf(id), { ifAvailable: true }, (lock) => {
      answer(lock !== null);
      return lock ? new Promise(() => undefined) : undefined;
    });
  });
}

/** Does something as the owner of another window's outboxes, unless that window lives. */
async function asOwner(id: string, work: () => Promise<void>): Promise<void> {
  await navigator.locks.request(lockOf(id), { ifAvailable: true }, async (lock) => {
    if (lock) await work();
  });
}

const lockOf = (id: string) => `yelm-window-${id}`;

/** Where this window's unsent acts of a print wait. */
export function browserOutbox(printId: string): OutboxPort {
  return {
    async open() {
      const [db, mine] = await Promise.all([openDatabase(), windowId()]);
      for (const [print, owner] of await db.getAllKeys("outboxes"))
        if (print === printId && owner !== mine) await asOwner(owner, () => takeOver(db, printId, owner, mine));
      return (await db.get("outboxes", [printId, mine])) ?? [];
    },
    async write(items) {
      const [db, mine] = await Promise.all([openDatabase(), windowId()]);
      if (items.length === 0) await db.delete("outboxes", [printId, mine]);
      else await db.put("outboxes", [...items], [printId, mine]);
    },
  };
}

/** Prints with unsent acts of windows that are gone, or of this one. */
export async function printsWaiting(): Promise<string[]> {
  const db = await openDatabase();
  return [...new Set((await db.getAllKeys("outboxes")).map(([printId]) => printId))];
}

/** Moves what a window that is gone had left, in one step: it is in one outbox or the other, never in none. */
async function takeOver(db: IDBPDatabase<OutboxSchema>, printId: string, owner: string, mine: string): Promise<void> {
  const work = db.transaction("outboxes", "readwrite");
  const left = (await work.store.get([printId, owner])) ?? [];
  const own = (await work.store.get([printId, mine])) ?? [];
  await work.store.put([...left, ...own], [printId, mine]);
  await work.store.delete([printId, owner]);
  await work.done;
}
