import { randomUUID } from "node:crypto";
import { defaultNotes, type NewNotes, type Notes, type PrintNotes } from "@yelm/core";
import type { Knex } from "knex";
import { AppError } from "../errors.ts";
import { now, type Context } from "./context.ts";

/** The state of notes that nobody has written yet. */
export const UNWRITTEN = "fresh";

interface State {
  readonly id: string;
  readonly parent: string;
  readonly notes: Notes;
  readonly at: string;
}

/** What stands beside a print. */
export async function findNotes({ db }: Pick<Context, "db">, printId: string): Promise<PrintNotes> {
  const state = await headOf(db, printId);
  const next: unknown = await db("noteStates").where({ printId, parent: state.id }).first();
  return {
    notes: state.notes,
    head: state.id,
    at: state.at,
    canUndo: state.id !== UNWRITTEN,
    canRedo: next !== undefined,
  };
}

/**
 * Keeps new notes on top of the present ones. Sending the same again is harmless.
 * @throws {AppError} stale_revision with the present ones, when they are not those that the change was made from; not_found.
 */
export async function changeNotes(context: Context, printId: string, change: NewNotes): Promise<PrintNotes> {
  return within(context, printId, async (trx) => {
    const known: unknown = await trx("noteStates").where({ id: change.id }).first();
    if (known) return;
    await requireBase(trx, printId, change.base);
    await trx("noteStates").insert({
      id: change.id, printId, parent: change.base, notes: JSON.stringify(change.notes), label: change.label, at: now(),
    }); // prettier-ignore
    await setHead(trx, printId, change.id);
  });
}

/** Goes one change of the notes back, or forward to the newest that was made from here. */
export async function stepNotes(
  context: Context,
  printId: string,
  { base, to }: { readonly base: string; readonly to: "back" | "forth" },
): Promise<PrintNotes> {
  return within(context, printId, async (trx) => {
    await requireBase(trx, printId, base);
    const { parent } = await headOf(trx, printId);
    if (to === "back") {
      if (base !== UNWRITTEN) await setHead(trx, printId, parent);
      return;
    }
    const next = (await trx("noteStates").where({ printId, parent: base }).orderBy("sequence", "desc").first()) as
      State | undefined;
    if (next) await setHead(trx, printId, next.id);
  });
}

/** Gives a new print the plan of another, within the caller's transaction. */
export async function copyPlan({ db }: Pick<Context, "db">, from: string, to: string): Promise<void> {
  const { plan } = (await headOf(db, from)).notes;
  await insertNotes({ db }, to, { ...defaultNotes(), plan }, "Plan of the print it was made from");
}

/** Gives a new print its first notes, within the caller's transaction. */
export async function insertNotes(
  { db }: Pick<Context, "db">,
  printId: string,
  notes: Notes,
  label: string,
): Promise<void> {
  if (JSON.stringify(notes) === JSON.stringify(defaultNotes())) return;
  const id = randomUUID();
  await db("noteStates").insert({ id, printId, parent: UNWRITTEN, notes: JSON.stringify(notes), label, at: now() });
  await setHead(db, printId, id);
}

async function headOf(db: Knex, printId: string): Promise<State> {
  const row = await db("noteHeads")
    .join("noteStates", "noteStates.id", "noteHeads.head")
    .where("noteHeads.printId", printId)
    .first<(Omit<State, "notes"> & { notes: string }) | undefined>("noteStates.*");
  if (!row) return { id: UNWRITTEN, parent: UNWRITTEN, notes: defaultNotes(), at: "" };
  return { ...row, notes: { ...defaultNotes(), ...(JSON.parse(row.notes) as Notes) } };
}

async function setHead(db: Knex, printId: string, head: string): Promise<void> {
  if (head === UNWRITTEN) await db("noteHeads").where({ printId }).delete();
  else await db("noteHeads").insert({ printId, head }).onConflict("printId").merge();
}

async function requireBase(db: Knex, printId: string, base: string): Promise<void> {
  const { id, notes } = await headOf(db, printId);
  if (id === base) return;
  throw new AppError("stale_revision", `Expected notes made from ${id} but received some made from ${base}.`, {
    hint: "Take the present notes, make the change on them, and send it again.",
    current: { head: id, notes },
  });
}

async function within(context: Context, printId: string, work: (trx: Knex) => Promise<void>): Promise<PrintNotes> {
  const found = await context.db.transaction(async (trx) => {
    await work(trx);
    return findNotes({ db: trx }, printId);
  });
  context.broadcast.send({ kind: "notes", id: printId, head: found.head });
  return found;
}
