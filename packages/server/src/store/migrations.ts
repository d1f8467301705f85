import type { Knex } from "knex";

/** Every change of the database's shape, oldest first. Never edit one that has been released; add another. */
export const migrations: Record<string, Knex.Migration> = {
  "001-rolls-negatives-prints": {
    async up(db) {
      await db.schema.createTable("rolls", (t) => {
        t.string("id").primary();
        t.string("title").notNullable();
        t.string("place").notNullable().defaultTo("");
        t.text("note").notNullable().defaultTo("");
        t.string("createdAt").notNullable();
      });
      await db.schema.createTable("negatives", (t) => {
        t.string("id").primary();
        t.string("rollId").notNullable().references("rolls.id");
        t.string("fileName").notNullable();
        t.string("title").notNullable().defaultTo("");
        t.string("hash").notNullable().unique();
        t.integer("bytes").notNullable();
        t.integer("width").notNullable();
        t.integer("height").notNullable();
        t.string("takenAt");
        t.json("capture").notNullable();
        t.string("createdAt").notNullable();
        t.index("rollId");
      });
      await db.schema.createTable("prints", (t) => {
        t.string("id").primary();
        t.string("negativeId").notNullable().references("negatives.id");
        t.string("name").notNullable();
        t.json("recipe").notNullable();
        t.string("head").notNullable();
        t.integer("position").notNullable().defaultTo(0);
        t.string("createdAt").notNullable();
        t.string("updatedAt").notNullable();
        t.string("deletedAt");
        t.index("negativeId");
      });
      await db.schema.createTable("revisions", (t) => {
        t.increments("sequence");
        t.string("id").notNullable().unique();
        t.string("printId").notNullable().references("prints.id");
        t.string("parent");
        t.json("patch").notNullable();
        t.json("inverse").notNullable();
        t.string("label").notNullable();
        t.string("station").notNullable();
        t.string("at").notNullable();
        t.index("printId");
      });
      await db.schema.createTable("exports", (t) => {
        t.string("id").primary();
        t.string("printId").notNullable().references("prints.id");
        t.json("recipe").notNullable();
        t.json("options").notNullable();
        t.string("state").notNullable();
        t.float("progress").notNullable().defaultTo(0);
        t.string("fileName");
        t.integer("bytes");
        t.text("error");
        t.string("createdAt").notNullable();
        t.index("state");
      });
    },
    async down(db) {
      for (const table of ["exports", "revisions", "prints", "negatives", "rolls"]) await db.schema.dropTable(table);
    },
  },
  "002-imports-ratings-archive": {
    async up(db) {
      await db.schema.alterTable("rolls", (t) => {
        t.string("date").notNullable().defaultTo("");
        t.string("light").notNullable().defaultTo("");
        t.string("archivedAt");
        t.string("deletedAt");
      });
      await db.schema.alterTable("negatives", (t) => {
        t.string("rating");
        t.string("deletedAt");
      });
      await db.schema.createTable("imports", (t) => {
        t.increments("sequence");
        t.string("id").notNullable().unique();
        t.string("rollId").notNullable().references("rolls.id");
        t.string("fileName").notNullable();
        t.string("title").notNullable().defaultTo("");
        t.integer("bytes").notNullable();
        t.string("origin").notNullable();
        t.string("state").notNullable();
        t.string("negativeId");
        t.text("error");
        t.text("hint");
        t.boolean("told").notNullable().defaultTo(false);
        t.string("createdAt").notNullable();
        t.index("state");
      });
      await db.schema.createTable("cardFiles", (t) => {
        t.string("file").primary();
      });
      await db.schema.createTable("settings", (t) => {
        t.string("name").primary();
        t.json("value").notNullable();
      });
    },
    async down(db) {
      for (const table of ["settings", "cardFiles", "imports"]) await db.schema.dropTable(table);
      await db.schema.alterTable("negatives", (t) => t.dropColumns("rating", "deletedAt"));
      await db.schema.alterTable("rolls", (t) => t.dropColumns("date", "light", "archivedAt", "deletedAt"));
    },
  },
  "003-changes-by-item": {
    async up(db) {
      // Revisions made until now hold JSON patches with places by number, of recipes up to version 5.
      await db.schema.alterTable("revisions", (t) => t.integer("version").notNullable().defaultTo(5));
      await db.schema.createTable("acts", (t) => {
        t.string("id").primary();
        t.string("printId").notNullable().references("prints.id");
        t.string("at").notNullable();
        t.index("printId");
      });
    },
    async down(db) {
      await db.schema.dropTable("acts");
      await db.schema.alterTable("revisions", (t) => t.dropColumns("version"));
    },
  },
  "004-looks": {
    async up(db) {
      await db.schema.createTable("looks", (t) => {
        t.string("id").primary();
        t.string("name").notNullable();
        t.text("note").notNullable().defaultTo("");
        t.json("parts").notNullable();
        t.json("recipe").notNullable();
        t.json("fit").notNullable();
        t.string("createdAt").notNullable();
        t.string("deletedAt");
      });
    },
    async down(db) {
      await db.schema.dropTable("looks");
    },
  },
  "005-notes": {
    async up(db) {
      await db.schema.createTable("noteStates", (t) => {
        t.increments("sequence").primary();
        t.string("id").notNullable().unique();
        t.string("printId").notNullable().references("prints.id");
        t.string("parent");
        t.json("notes").notNullable();
        t.string("label").notNullable();
        t.string("at").notNullable();
        t.index("printId");
      });
      // Notes without a row are fresh ones.
      await db.schema.createTable("noteHeads", (t) => {
        t.string("printId").primary().references("prints.id");
        t.string("head").notNullable().references("noteStates.id");
      });
    },
    async down(db) {
      for (const table of ["noteHeads", "noteStates"]) await db.schema.dropTable(table);
    },
  },
};
