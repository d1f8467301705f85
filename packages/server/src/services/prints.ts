import { randomUUID } from "node:crypto";
import {
  defaultRecipe,
  upgradeRecipe,
  type NewRevision,
  type PatchOperation,
  type Print,
  type Recipe,
  type Revision,
} from "@yelm/core";
import jsonPatch, { type Operation } from "fast-json-patch";
import { AppError } from "../errors.ts";
import { checkRecipe } from "../validate.ts";
import { now, type Context } from "./context.ts";

export async function listPrints(
  { db }: Context,
  filter: { negativeId?: string; rollId?: string } = {},
): Promise<Print[]> {
  const rows = (await db("prints")
    .select("prints.*")
    .whereNull("deletedAt")
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

/** Makes a print: fresh, or with the recipe of another one. */
export async function createPrint(
  context: Context,
  { negativeId, name, recipe = defaultRecipe() }: { negativeId: string; name: string; recipe?: Recipe },
): Promise<Print> {
  const { db, broadcast } = context;
  const id = randomUUID();
  const root = randomUUID();
  const at = now();
  await db.transaction(async (trx) => {
    await trx("prints").insert({
      id, negativeId, name, recipe: JSON.stringify(recipe), head: root, createdAt: at, updatedAt: at,
    }); // prettier-ignore
    await trx("revisions").insert({
      id: root, printId: id, parent: null, patch: "[]", inverse: "[]", label: "Made", station: "", at,
    }); // prettier-ignore
  });
  broadcast.send({ kind: "prints", negativeId });
  return findPrint(context, id);
}

export async function changePrint(
  context: Context,
  id: string,
  change: { readonly name?: string; readonly position?: number },
): Promise<Print> {
  const { negativeId } = await findPrint(context, id);
  if (Object.keys(change).length > 0) await context.db("prints").where({ id }).update(change);
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

/**
 * Adds a change on top of the print's head. Sending the same revision again is harmless.
 * @throws {AppError} stale_revision with the current state, when the head has moved; bad_request or bad_recipe.
 */
export async function addRevision(context: Context, printId: string, change: NewRevision): Promise<Print> {
  return context.db.transaction(async (trx) => {
    const inner = { ...context, db: trx as unknown as Context["db"] };
    const print = await findPrint(inner, printId);
    const known: unknown = await trx("revisions").where({ id: change.id }).first();
    if (known) {
      if ((known as { printId: string }).printId !== printId)
        throw new AppError("conflict", "Expected a new revision id but it belongs to another print.");
      return print;
    }
    requireHead(print, change.base);
    const recipe = checkRecipe(applyPatch(print.recipe, change.patch));
    const inverse = jsonPatch.compare(recipe, print.recipe);
    const at = now();
    await trx("revisions").insert({
      id: change.id, printId, parent: print.head, patch: JSON.stringify(change.patch),
      inverse: JSON.stringify(inverse), label: change.label, station: change.station, at,
    }); // prettier-ignore
    await trx("prints")
      .where({ id: printId })
      .update({ recipe: JSON.stringify(recipe), head: change.id, updatedAt: at });
    return { ...print, recipe, head: change.id, updatedAt: at };
  });
}

/**
 * Goes to any revision of the print: undo is the parent, redo a child.
 * @throws {AppError} stale_revision when the head is not `base`; not_found.
 */
export async function moveHead(context: Context, printId: string, base: string, target: string): Promise<Print> {
  return context.db.transaction(async (trx) => {
    const inner = { ...context, db: trx as unknown as Context["db"] };
    const print = await findPrint(inner, printId);
    if (print.head === target) return print;
    requireHead(print, base);
    const revisions = new Map((await listRevisions(inner, printId)).map((revision) => [revision.id, revision]));
    if (!revisions.has(target))
      throw new AppError("not_found", "Expected a revision of this print but it has none such.");
    const ancestors = new Set<string>();
    for (let id: string | null = print.head; id; id = revisions.get(id)?.parent ?? null) ancestors.add(id);
    const forward: Revision[] = [];
    let meeting = target;
    for (; !ancestors.has(meeting); meeting = revisions.get(meeting)!.parent!) forward.unshift(revisions.get(meeting)!);
    let recipe: unknown = print.recipe;
    for (let id = print.head; id !== meeting; id = revisions.get(id)!.parent!)
      recipe = applyPatch(recipe, revisions.get(id)!.inverse);
    for (const { patch } of forward) recipe = applyPatch(recipe, patch);
    const checked = checkRecipe(recipe);
    const at = now();
    await trx("prints")
      .where({ id: printId })
      .update({ recipe: JSON.stringify(checked), head: target, updatedAt: at });
    return { ...print, recipe: checked, head: target, updatedAt: at };
  });
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

function applyPatch(recipe: unknown, patch: readonly PatchOperation[]): unknown {
  try {
    return jsonPatch.applyPatch(jsonPatch.deepClone(recipe), patch as Operation[], true, true, true).newDocument;
  } catch (cause) {
    const reason = cause instanceof Error ? cause.message.split("\n")[0] : String(cause);
    throw new AppError(
      "bad_request",
      `Expected a JSON patch that fits the recipe but received: ${reason}`,
      {},
      { cause },
    );
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
  const { id, parent, patch, inverse, label, station, at } = row as Record<string, string>;
  return {
    id, parent: parent || null, patch: JSON.parse(patch) as PatchOperation[],
    inverse: JSON.parse(inverse) as PatchOperation[], label, station, at,
  }; // prettier-ignore
}
