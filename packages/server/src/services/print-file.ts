import { Type, type Static } from "@sinclair/typebox";
import {
  meantSchema,
  namedStateSchema,
  planSchema,
  refitWish,
  walkRevisions,
  type Negative,
  type Notes,
  type Print,
  type Recipe,
} from "@yelm/core";
import { AppError } from "../errors.ts";
import { check, checkRecipe } from "../validate.ts";
import type { Context } from "./context.ts";
import { findNegative } from "./negatives.ts";
import { findNotes, insertNotes } from "./notes.ts";
import { refittedTo } from "./paste.ts";
import { advance, findPrint, insertPrint, listRevisions } from "./prints.ts";

/** What a print's file calls itself, and its version. */
const KIND = "yelm print";
const VERSION = 1;
/** Larger files of prints are not read. */
export const MOST_PRINT_FILE_BYTES = 48 * 2 ** 20;

const closed = { additionalProperties: false };
const text = (maxLength: number) => Type.String({ maxLength });
const { name: stateName, note, at } = namedStateSchema.properties;

/** A print as a file beside its capture: the recipe and everything that stands beside it. */
const printFile = Type.Object(
  {
    kind: Type.Literal(KIND),
    version: Type.Integer({ minimum: 1 }),
    id: Type.String({ minLength: 1, maxLength: 64, pattern: "^[A-Za-z0-9-]+$" }),
    name: Type.String({ minLength: 1, maxLength: 80 }),
    negative: Type.Object(
      {
        fileName: text(200),
        title: text(120),
        /** SHA-256 of the capture. */
        hash: Type.String({ pattern: "^[0-9a-f]{64}$" }),
        width: Type.Integer({ minimum: 1 }),
        height: Type.Integer({ minimum: 1 }),
      },
      closed,
    ),
    recipe: Type.Unknown(),
    plan: planSchema,
    states: Type.Array(Type.Object({ name: stateName, note, at, recipe: Type.Unknown() }, closed), { maxItems: 60 }),
    meant: Type.Array(meantSchema, { maxItems: 100 }),
  },
  closed,
);

/** A print from a file, its recipes checked. */
export type PrintFile = Omit<Static<typeof printFile>, "recipe" | "states"> & {
  readonly recipe: Recipe;
  readonly states: readonly (Omit<Static<typeof printFile>["states"][number], "recipe"> & {
    readonly recipe: Recipe;
  })[];
};

/** A print with everything that stands beside it, to be written. */
export async function printFileOf(context: Context, print: Print, negative: Negative): Promise<PrintFile> {
  const { plan, states, meant } = (await findNotes(context, print.id)).notes;
  const revisions = new Map((await listRevisions(context, print.id)).map((revision) => [revision.id, revision]));
  const { fileName, title, hash, width, height } = negative;
  return {
    kind: KIND,
    version: VERSION,
    id: print.id,
    name: print.name,
    negative: { fileName, title, hash, width, height },
    recipe: print.recipe,
    plan,
    states: states
      .filter(({ revision }) => revisions.has(revision))
      .map((state) => ({
        name: state.name,
        note: state.note,
        at: state.at,
        recipe: walkRevisions(print.recipe, print.head, state.revision, revisions),
      })),
    meant,
  };
}

/**
 * Reads a print's file.
 * @throws {AppError} bad_request or bad_recipe when it is none, is of a later version, or is damaged.
 */
export function readPrintFile(input: unknown): PrintFile {
  const file = check(printFile, input, "the file of a print");
  if (file.version > VERSION)
    throw new AppError("bad_request", `Expected a print's file of version ${VERSION} but received ${file.version}.`, {
      field: "version",
      hint: "It was written by a later Yelm; bring this one up to date.",
    });
  return {
    ...file,
    recipe: checkRecipe(file.recipe),
    states: file.states.map((state) => ({ ...state, recipe: checkRecipe(state.recipe) })),
  };
}

/** Whether something read from a file says that it is a print's. */
export const isPrintFile = (input: unknown): boolean =>
  typeof input === "object" && input !== null && (input as { kind?: unknown }).kind === KIND;

/**
 * A print's file as it is on another negative than its own: the recipe, its moves and areas fitted to the picture, and what the plan says
 * in words. Marks, states and what is meant so are of the other picture.
 */
export async function fittedFile(context: Context, negative: Negative, file: PrintFile): Promise<PrintFile> {
  if (file.negative.hash === negative.hash) return file;
  const bare = { ...file, plan: { ...file.plan, marks: [] }, states: [], meant: [] };
  const wish = refitWish(file.recipe, ["moves", "areas"], file.recipe, file.negative);
  if (!wish) return bare;
  return { ...bare, recipe: (await refittedTo(context, negative, wish)).recipe };
}

/**
 * Makes a print of a file, with its states, plan and what is meant so: all of it or nothing.
 * @param id - what the print is to be called; a new one when it is not given.
 */
export async function printFromFile(
  context: Context,
  negativeId: string,
  file: PrintFile,
  id?: string,
): Promise<Print> {
  await findNegative(context, negativeId);
  const made = await context.db.transaction(async (trx) => {
    const inner = { ...context, db: trx as unknown as Context["db"] };
    // Oldest first, each on the one before; the print as it was written comes last.
    const states = [...file.states].sort((p, q) => p.at.localeCompare(q.at));
    const printId = await insertPrint(inner, {
      id,
      negativeId,
      name: file.name,
      recipe: states[0]?.recipe ?? file.recipe,
    });
    let print = await findPrint(inner, printId);
    const named: Notes["states"] = [];
    for (const [i, { recipe, name, note: why, at: when }] of states.entries()) {
      if (i > 0) print = await advance(trx, print, recipe, { label: `State: ${name}`.slice(0, 200), station: "" });
      named.push({ id: `state${i}`, name, note: why, at: when, revision: print.head });
    }
    await advance(trx, print, file.recipe, { label: "From its file", station: "" });
    await insertNotes(inner, printId, { plan: file.plan, states: named, meant: file.meant }, "From its file");
    return printId;
  });
  context.broadcast.send({ kind: "prints", negativeId });
  return findPrint(context, made);
}
