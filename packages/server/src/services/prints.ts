import { randomUUID } from "node:crypto";
import {
  applyChanges,
  ChangeError,
  changesBetween,
  defaultRecipe,
  RECIPE_VERSION,
  upgradeRecipe,
  walkRevisions,
  type HeadMove,
  type Naming,
  type NewRevision,
  type Print,
  type PrintHistory,
  type Recipe,
  type Revision,
} from "@yelm/core";
import type { Knex } from "knex";
import { AppError } from "../errors.ts";
import { checkRecipe } from "../validate.ts";
import { now, type Context } from "./context.ts";
import { copyPlan } from "./notes.ts";

export async function listPrints(
  { db }: Context,
  filter: { negativeId?: string; rollId?: string } = {},
): Promise<Print[]> {
  const rows = (await db("prints")
    .select("prints.*")
    .whereNull("prints.deletedAt")
    .modify((q) => {
      if (filter.negativeId) void q.where({ negativeId: filter.negativeId });
      if (filter.rollId)
        void q.join("negatives", "negatives.id", "prints.negativeId").where("negatives.rollId", filter.rollId);
    })
    .orderBy([{ column: "prints.createdAt" }, { column: "prints.id" }])) as unknown[];
  return rows.map(readPrint);
}

export async function findPrint({ db }: Context, id: string): Promise<Print> {
  const row: unknown = await db("prints").where({ id }).whereNull("deletedAt").first();
  if (!row) throw new AppError("not_found", `Expected a print but there is none called ${id}.`);
  return readPrint(row);
}

/** Makes a print: fresh, or with the recipe and the plan of another one. */
export async function createPrint(
  context: Context,
  {
    negativeId,
    name,
    recipe = defaultRecipe(),
    from,
  }: { negativeId: string; name: string; recipe?: Recipe; from?: string },
): Promise<Print> {
  const id = await context.db.transaction(async (trx) => {
    const made = await insertPrint({ ...context, db: trx }, { negativeId, name, recipe });
    if (from) await copyPlan({ db: trx }, from, made);
    return made;
  });
  context.broadcast.send({ kind: "prints", negativeId });
  return findPrint(context, id);
}

/** Enters a print with its first revision, within the caller's transaction. @returns its id. */
export async function insertPrint(
  { db }: Pick<Context, "db">,
  {
    negativeId,
    name,
    recipe = defaultRecipe(),
    id = randomUUID(),
  }: { negativeId: string; name: string; recipe?: Recipe; id?: string },
): Promise<string> {
  const root = randomUUID();
  const at = now();
  await db("prints").insert({
    id, negativeId, name, recipe: JSON.stringify(recipe), head: root, createdAt: at, updatedAt: at,
  }); // prettier-ignore
  await db("revisions").insert({
    id: root, printId: id, parent: null, version: RECIPE_VERSION, patch: "[]", inverse: "[]", label: "Made", station: "", at,
  }); // prettier-ignore
  return id;
}

/** What a revision is called, where it was made and when; its id is made when it is not given. */
interface RevisionFacts {
  readonly label: string;
  readonly station: string;
  readonly id?: string;
  readonly at?: string;
}

/** A print with one revision more, within the caller's transaction; as it was when the recipe is the same. */
export async function advance(
  trx: Knex,
  print: Print,
  recipe: Recipe,
  { label, station, id = randomUUID(), at }: RevisionFacts,
): Promise<Print> {
  const changes = changesBetween(print.recipe, recipe);
  if (changes.length === 0) return print;
  const updatedAt = now();
  await trx("revisions").insert({
    id, printId: print.id, parent: print.head, version: RECIPE_VERSION, patch: JSON.stringify(changes),
    inverse: JSON.stringify(changesBetween(recipe, print.recipe)), label, station, at: at ?? updatedAt,
  }); // prettier-ignore
  await trx("prints")
    .where({ id: print.id })
    .update({ recipe: JSON.stringify(recipe), head: id, updatedAt });
  return { ...print, recipe, head: id, updatedAt };
}

/** Sets how high a print stands among those of its roll. */
export async function placePrint(context: Context, id: string, position: number): Promise<Print> {
  const { negativeId } = await findPrint(context, id);
  await context.db("prints").where({ id }).update({ position });
  context.broadcast.send({ kind: "prints", negativeId });
  return findPrint(context, id);
}

/** Puts a print away; {@link restorePrint} brings it back. */
export async function deletePrint(context: Context, id: string): Promise<void> {
  const { negativeId } = await findPrint(context, id);
  await context.db("prints").where({ id }).update({ deletedAt: now() });
  context.broadcast.send({ kind: "prints", negativeId });
}

export async function restorePrint(context: Context, id: string): Promise<Print> {
  const count = await context.db("prints").where({ id }).update({ deletedAt: null });
  if (count === 0) throw new AppError("not_found", `Expected a print but there is none called ${id}.`);
  const print = await findPrint(context, id);
  context.broadcast.send({ kind: "prints", negativeId: print.negativeId });
  return print;
}

/** Every revision of a print, oldest first. */
export async function listRevisions(context: Context, printId: string): Promise<Revision[]> {
  await findPrint(context, printId);
  const rows = await context.db("revisions").where({ printId }).orderBy("sequence");
  return rows.map(readRevision);
}

/** A print with every revision of it, as they are at one moment. */
export async function findHistory(context: Context, id: string): Promise<PrintHistory> {
  return context.db.transaction(async (trx) => {
    const inner = { ...context, db: trx as unknown as Context["db"] };
    const print = await findPrint(inner, id);
    const acts = (await trx("acts").where({ printId: id }).pluck("id")) as string[];
    return { print, revisions: await listRevisions(inner, id), acts };
  });
}

/**
 * Adds a change on top of the print's head. Sending the same revision again is harmless.
 * @throws {AppError} stale_revision with the current state, when the head has moved; bad_request or bad_recipe.
 */
export async function addRevision(context: Context, printId: string, change: NewRevision): Promise<Print> {
  return withinPrint(context, printId, async (trx, print) => {
    const known: unknown = await trx("revisions").where({ id: change.id }).first();
    if (known) {
      if ((known as { printId: string }).printId !== printId)
        throw new AppError("conflict", "Expected a new revision id but it belongs to another print.");
      return print;
    }
    requireHead(print, change.base);
    const recipe = checkRecipe(changed(() => applyChanges(print.recipe, change.changes)));
    const inverse = changesBetween(recipe, print.recipe);
    const updatedAt = now();
    await trx("revisions").insert({
      id: change.id, printId, parent: print.head, version: RECIPE_VERSION, patch: JSON.stringify(change.changes),
      inverse: JSON.stringify(inverse), label: change.label, station: change.station, at: madeAt(change.at),
    }); // prettier-ignore
    await trx("prints")
      .where({ id: printId })
      .update({ recipe: JSON.stringify(recipe), head: change.id, updatedAt });
    return { ...print, recipe, head: change.id, updatedAt };
  });
}

/**
 * Goes to any revision of the print: undo is the parent, redo a child. Sending the same move again is harmless.
 * @throws {AppError} stale_revision when the head is not `base`; not_found.
 */
export async function moveHead(context: Context, printId: string, { id, base, target }: HeadMove): Promise<Print> {
  return withinPrint(context, printId, async (trx, print) => {
    if (await isDone(trx, id)) return print;
    if (print.head === target) {
      await markDone(trx, id, printId);
      return print;
    }
    requireHead(print, base);
    const inner = { ...context, db: trx as unknown as Context["db"] };
    const revisions = new Map((await listRevisions(inner, printId)).map((revision) => [revision.id, revision]));
    if (!revisions.has(target))
      throw new AppError("bad_request", "Expected a revision of this print but it has none such.", { field: "target" });
    const recipe = checkRecipe(changed(() => walkRevisions(print.recipe, print.head, target, revisions)));
    const updatedAt = now();
    await trx("prints")
      .where({ id: printId })
      .update({ recipe: JSON.stringify(recipe), head: target, updatedAt });
    await markDone(trx, id, printId);
    return { ...print, recipe, head: target, updatedAt };
  });
}

/** Names a print. Sending the same naming again is harmless, also after somebody else named it since. */
export async function namePrint(context: Context, printId: string, { id, name }: Naming): Promise<Print> {
  const print = await withinPrint(context, printId, async (trx, found) => {
    if (await isDone(trx, id)) return found;
    await trx("prints").where({ id: printId }).update({ name });
    await markDone(trx, id, printId);
    return { ...found, name };
  });
  context.broadcast.send({ kind: "prints", negativeId: print.negativeId });
  return print;
}

/** Does something to a print in one transaction, and tells the screens that have it open. */
async function withinPrint(
  context: Context,
  id: string,
  work: (trx: Knex.Transaction, print: Print) => Promise<Print>,
): Promise<Print> {
  const print = await context.db.transaction(async (trx) => work(trx, await findPrint({ ...context, db: trx }, id)));
  context.broadcast.send({ kind: "print", id, head: print.head, name: print.name });
  return print;
}

/** Acts that are not revisions are known by their ids, so that one whose answer was lost can be sent again. */
async function isDone(trx: Knex.Transaction, id: string | undefined): Promise<boolean> {
  return id !== undefined && (await trx("acts").where({ id }).first()) !== undefined;
}

async function markDone(trx: Knex.Transaction, id: string | undefined, printId: string): Promise<void> {
  if (id !== undefined) await trx("acts").insert({ id, printId, at: now() });
}

/** When something was made, by the sender's clock, which may be ahead but is not believed then. */
function madeAt(at: string): string {
  const time = Date.parse(at);
  return new Date(Math.min(Date.now(), Number.isNaN(time) ? Date.now() : time)).toISOString();
}

function requireHead(print: Print, base: string): void {
  if (print.head === base) return;
  throw new AppError(
    "stale_revision",
    `Expected a change made from ${print.head} but received one made from ${base}.`,
    {
      hint: "Take the current state, put the change on top of it, and send it again.",
      current: { head: print.head, recipe: print.recipe },
    },
  );
}

function changed(make: () => Recipe): Recipe {
  try {
    return make();
  } catch (cause) {
    if (!(cause instanceof ChangeError)) throw cause;
    throw new AppError("bad_request", cause.message, {}, { cause });
  }
}

function readPrint(row: unknown): Print {
  const {
    recipe,
    deletedAt: _,
    ...stored
  } = row as Omit<Print, "recipe"> & { recipe: string; deletedAt: string | null };
  return { ...stored, recipe: upgradeRecipe(JSON.parse(recipe)) as Recipe };
}

function readRevision(row: unknown): Revision {
  const { id, parent, version, patch, inverse, label, station, at } = row as Record<string, string>;
  const changes = JSON.parse(patch) as Revision["changes"];
  return {
    id, parent: parent || null, version: Number(version), changes, inverse: JSON.parse(inverse) as Revision["inverse"],
    label, station, at,
  }; // prettier-ignore
}
