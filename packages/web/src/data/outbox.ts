import type { NewRevision } from "@yelm/core";
import { openDB, type DBSchema } from "idb";

/** One thing the server has not confirmed yet. */
export type OutboxItem =
  | { readonly kind: "revision"; readonly revision: NewRevision }
  | { readonly kind: "head"; readonly base: string; readonly target: string };

interface OutboxSchema extends DBSchema {
  outbox: { key: string; value: OutboxItem[] };
}

const open = () =>
  openDB<OutboxSchema>("yelm", 1, {
    upgrade: (db) => void db.createObjectStore("outbox"),
  });
let database: ReturnType<typeof open> | undefined;

/** Unsent edits of a print, oldest first; they survive a reload and a server that is away. */
export async function readOutbox(printId: string): Promise<OutboxItem[]> {
  return (await (await (database ??= open())).get("outbox", printId)) ?? [];
}

export async function writeOutbox(printId: string, items: readonly OutboxItem[]): Promise<void> {
  const db = await (database ??= open());
  if (items.length === 0) await db.delete("outbox", printId);
  else await db.put("outbox", [...items], printId);
}
