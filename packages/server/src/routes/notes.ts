import { notesSchema } from "@yelm/core";
import { Type } from "@sinclair/typebox";
import { Router } from "express";
import type { Context } from "../services/context.ts";
import { changeNotes, findNotes, stepNotes } from "../services/notes.ts";
import { findPrint } from "../services/prints.ts";
import { check } from "../validate.ts";

const closed = { additionalProperties: false };
const id = Type.String({ minLength: 1, maxLength: 64, pattern: "^[A-Za-z0-9-]+$" });
const newNotes = Type.Object(
  { id, base: id, notes: notesSchema, label: Type.String({ minLength: 1, maxLength: 200 }) },
  closed,
);
const step = Type.Object({ base: id, to: Type.Union([Type.Literal("back"), Type.Literal("forth")]) }, closed);

/** What stands beside a print: its plan, its named states, what is meant so. */
export function noteRoutes(context: Context): Router {
  const router = Router({ mergeParams: true });
  const printOf = async ({ params }: { params: unknown }) =>
    (await findPrint(context, (params as { id: string }).id)).id;
  router.get("/", async (request, response) => {
    response.json(await findNotes(context, await printOf(request)));
  });
  router.put("/", async (request, response) => {
    response.json(await changeNotes(context, await printOf(request), check(newNotes, request.body, "the notes")));
  });
  router.post("/step", async (request, response) => {
    response.json(await stepNotes(context, await printOf(request), check(step, request.body, "the step")));
  });
  return router;
}
