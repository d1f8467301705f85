import { Type } from "@sinclair/typebox";
import { Router } from "express";
import type { Context } from "../services/context.ts";
import { findNegative } from "../services/negatives.ts";
import {
  addRevision, changePrint, createPrint, deletePrint, findPrint, listPrints, listRevisions, moveHead, restorePrint,
} from "../services/prints.ts"; // prettier-ignore
import { thumbnail } from "../services/thumbnails.ts";
import { check, checkRecipe } from "../validate.ts";
import { thumbnailEdge } from "./negatives.ts";

const closed = { additionalProperties: false };
const id = Type.String({ minLength: 1, maxLength: 64, pattern: "^[A-Za-z0-9-]+$" });
const name = Type.String({ minLength: 1, maxLength: 80 });

const listQuery = Type.Object({ negative: Type.Optional(Type.String()), roll: Type.Optional(Type.String()) }, closed);
const newPrint = Type.Object(
  { negativeId: id, name, from: Type.Optional(id), recipe: Type.Optional(Type.Unknown()) },
  closed,
);
const printChange = Type.Object(
  { name: Type.Optional(name), position: Type.Optional(Type.Integer({ minimum: 0, maximum: 100000 })) },
  closed,
);
const operation = Type.Object(
  {
    op: Type.Unsafe<"add" | "remove" | "replace">({ type: "string", enum: ["add", "remove", "replace"] }),
    path: Type.String({ maxLength: 200, pattern: "^/(ground|weigh|shape|light|finish)(/|$)" }),
    value: Type.Optional(Type.Unknown()),
  },
  closed,
);
const newRevision = Type.Object(
  {
    id,
    base: id,
    patch: Type.Array(operation, { minItems: 1, maxItems: 2000 }),
    label: Type.String({ minLength: 1, maxLength: 200 }),
    station: Type.String({ maxLength: 20 }),
  },
  closed,
);
const headMove = Type.Object({ base: id, target: id }, closed);

export function printRoutes(context: Context): Router {
  const router = Router();
  router.get("/", async (request, response) => {
    const { negative, roll } = check(listQuery, request.query, "the query");
    response.json(await listPrints(context, { negativeId: negative, rollId: roll }));
  });
  router.post("/", async (request, response) => {
    const body = check(newPrint, request.body, "the print");
    const { id: negativeId } = await findNegative(context, body.negativeId);
    const copied = body.from ? (await findPrint(context, body.from)).recipe : undefined;
    const recipe = body.recipe === undefined ? copied : checkRecipe(body.recipe);
    response.status(201).json(await createPrint(context, { negativeId, name: body.name, recipe }));
  });
  router.get("/:id", async (request, response) => void response.json(await findPrint(context, request.params.id)));
  router.patch("/:id", async (request, response) => {
    response.json(await changePrint(context, request.params.id, check(printChange, request.body, "the print")));
  });
  router.delete("/:id", async (request, response) => {
    await deletePrint(context, request.params.id);
    response.status(204).end();
  });
  router.post("/:id/restore", async (request, response) => {
    response.json(await restorePrint(context, request.params.id));
  });
  router.get("/:id/revisions", async (request, response) => {
    response.json(await listRevisions(context, request.params.id));
  });
  router.post("/:id/revisions", async (request, response) => {
    const change = check(newRevision, request.body, "the revision");
    response.status(201).json(await addRevision(context, request.params.id, change));
  });
  router.post("/:id/head", async (request, response) => {
    const { base, target } = check(headMove, request.body, "the move");
    response.json(await moveHead(context, request.params.id, base, target));
  });
  router.get("/:id/thumbnail", async (request, response) => {
    const { edge = "320", v } = check(thumbnailEdge, request.query, "the query");
    const print = await findPrint(context, request.params.id);
    const negative = await findNegative(context, print.negativeId);
    const file = await thumbnail(context, negative, print.recipe, Number(edge));
    // An address that names the revision shown can be kept; one without it must be asked for again.
    const cache = v === print.head ? "public, max-age=31536000, immutable" : "no-cache";
    response.sendFile(file, { dotfiles: "allow", headers: { "Cache-Control": cache } });
  });
  return router;
}
