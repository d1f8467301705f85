import type { Database } from "./database.ts";

/** A setting by name, or null when it was never made. */
export async function readSetting<T>(db: Database, name: string): Promise<T | null> {
  const row = (await db("settings").where({ name }).first()) as { value: string } | undefined;
  return row ? (JSON.parse(row.value) as T) : null;
}

export async function writeSetting(db: Database, name: string, value: unknown): Promise<void> {
  await db("settings")
    .insert({ name, value: JSON.stringify(value) })
    .onConflict("name")
    .merge();
}
