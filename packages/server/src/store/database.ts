import knex, { type Knex } from "knex";
import { migrations } from "./migrations.ts";

export type Database = Knex;

/** Opens (and where needed creates or updates) the database file. */
export async function openDatabase(file: string): Promise<Database> {
  const db = knex({
    client: "better-sqlite3",
    connection: { filename: file },
    useNullAsDefault: true,
    pool: { min: 1, max: 1 },
  });
  await db.raw("PRAGMA journal_mode = WAL");
  await db.raw("PRAGMA synchronous = FULL");
  await db.raw("PRAGMA foreign_keys = ON");
  await db.migrate.latest({
    migrationSource: {
      getMigrations: () => Promise.resolve(Object.keys(migrations)),
      getMigrationName: (name: string) => name,
      getMigration: (name: string) => Promise.resolve(migrations[name]),
    },
  });
  return db;
}
