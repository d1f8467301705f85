import { stat } from "node:fs/promises";
import { basename } from "node:path";
import knex, { type Knex } from "knex";
import { AppError } from "../errors.ts";
import { migrations } from "./migrations.ts";

export type Database = Knex;

/**
 * Opens (and where needed creates or updates) the database file.
 * @param expected - true when there must be one already: then an empty or missing file is not silently a new library.
 * @throws {AppError} damaged_file, with what to do.
 */
export async function openDatabase(file: string, expected = false): Promise<Database> {
  const found = await stat(file).catch(() => null);
  if (found?.size === 0 || (!found && expected))
    throw new AppError(
      "damaged_file",
      `Expected the library's database ${basename(file)} but it is ${found ? "empty" : "missing"}.`,
      {
        hint: "Put it back from a copy. To begin a new library, choose another data folder, or move this one's captures away.",
      },
    );
  const db = knex({
    client: "better-sqlite3",
    connection: { filename: file },
    useNullAsDefault: true,
    pool: { min: 1, max: 1 },
  });
  try {
    await db.raw("PRAGMA journal_mode = WAL");
    await db.raw("PRAGMA synchronous = FULL");
    await db.raw("PRAGMA foreign_keys = ON");
    const [{ quick_check: health }] = (await db.raw("PRAGMA quick_check(1)")) as [{ quick_check: string }];
    if (health !== "ok") throw Object.assign(new Error(health), { code: "SQLITE_CORRUPT" });
    await db.migrate.latest({
      migrationSource: {
        getMigrations: () => Promise.resolve(Object.keys(migrations)),
        getMigrationName: (name: string) => name,
        getMigration: (name: string) => Promise.resolve(migrations[name]),
      },
    });
    return db;
  } catch (cause) {
    await db.destroy();
    throw explained(cause, basename(file)) ?? cause;
  }
}

/** What to do about a database that cannot be used; null for other failures. */
function explained(cause: unknown, name: string): AppError | null {
  switch (String((cause as { code?: unknown }).code)) {
    case "SQLITE_CORRUPT":
    case "SQLITE_NOTADB":
      return new AppError(
        "damaged_file",
        `Expected the library's database but ${name} is damaged.`,
        { hint: "Put it back from a copy; the captures beside it are untouched." },
        { cause },
      );
    case "SQLITE_READONLY":
    case "SQLITE_CANTOPEN":
    case "SQLITE_READONLY_DIRECTORY":
      return new AppError(
        "forbidden",
        `Expected to write to ${name} but that is not allowed.`,
        { hint: "Give yourself the right to write to the data folder, or choose another with --data." },
        { cause },
      );
    case "SQLITE_FULL":
      return new AppError(
        "disk_full",
        "The disk is full: the library's database cannot be opened.",
        { hint: "Make room and start again." },
        { cause },
      );
    default:
      return null;
  }
}
