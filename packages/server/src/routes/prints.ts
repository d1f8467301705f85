import { COPIED_PARTS, MATCHED_PARTS } from "@yelm/core";
import { basename, extname } from "node:path";
import { Type } from "@sinclair/typebox";
import { Router } from "express";
import type { Context } from "../services/context.ts";
import { findNegative } from "../services/negatives.ts";
import {
  addRevision, createPrint, deletePrint, findHistory, findPrint, listPrints, listRevisions, moveHead, namePrint, placePrint,
  restorePrint,
} from "../services/prints.ts"; // prettier-ignore
import { workLog } from "../services/log.ts";
import { match, planMatch } from "../services/print-set.ts";
import { shortName } from "../files/file-name.ts";
import { printFileOf } from "../services/print-file.ts";
import { printSheet } from "../services/print-sheet.ts";
import { findRoll } from "../services/rolls.ts";
import { pasteParts } from "../services/paste.ts";
import { keptThumbnail, thumbnail } from "../services/thumbnails.ts";
import { check, checkRecipe } from "../validate.ts";
import { logQuery, sendLog } from "./log-answer.ts";
import { sendThumbnail, thumbnailQuery } from "./thumbnail-answer.ts";

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
const place = Type.String({ maxLength: 300, pattern: "^(ground|weigh|shape|light|finish)(/[A-Za-z0-9_-]+)+$" });
const after = Type.Union([Type.String({ maxLength: 40 }), Type.Null()]);
const item = Type.Object({ id: Type.String({ minLength: 1, maxLength: 40 }) });
const itemId = Type.String({ minLength: 1, maxLength: 40 });
const change = Type.Union([
  Type.Object({ op: Type.Literal("set"), path: place, value: Type.Unknown() }, closed),
  Type.Object({ op: Type.Literal("put"), list: place, item, after }, closed),
  Type.Object({ op: Type.Literal("move"), list: place, id: itemId, after }, closed),
  Type.Object({ op: Type.Literal("remove"), list: place, id: itemId }, closed),
]);
const newRevision = Type.Object(
  {
    id,
    base: id,
    changes: Type.Array(change, { minItems: 1, maxItems: 2000 }),
    label: Type.String({ minLength: 1, maxLength: 200 }),
    station: Type.String({ maxLength: 20 }),
    at: Type.String({ maxLength: 40 }),
  },
  closed,
);
const headMove = Type.Object({ id: Type.Optional(id), base: id, target: id }, closed);
const naming = Type.Object({ id: Type.Optional(id), name }, closed);

const pasted = Type.Object(
  {
    recipe: Type.Unknown(),
    groups: Type.Array(Type.Union(COPIED_PARTS.map((group) => Type.Literal(group.id))), { minItems: 1, maxItems: 64 }),
    to: Type.Array(id, { minItems: 1, maxItems: 2000 }),
    label: Type.String({ minLength: 1, maxLength: 200 }),
    from: Type.Optional(
      Type.Object(
        {
          negativeId: id,
          width: Type.Integer({ minimum: 1, maximum: 100_000 }),
          height: Type.Integer({ minimum: 1, maximum: 100_000 }),
        },
        closed,
      ),
    ),
  },
  closed,
);

const matchWish = Type.Object(
  {
    pattern: id,
    to: Type.Array(id, { minItems: 1, maxItems: 200 }),
    parts: Type.Array(Type.Union(MATCHED_PARTS.map((part) => Type.Literal(part))), { minItems: 1, maxItems: 8 }),
  },
  closed,
);

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
    response.status(201).json(await createPrint(context, { negativeId, name: body.name, recipe, from: body.from }));
  });
  router.post("/paste", async (request, response) => {
    const body = check(pasted, request.body, "the parts");
    response.json(await pasteParts(context, { ...body, recipe: checkRecipe(body.recipe) }));
  });
  router.post("/match/plan", async (request, response) => {
    response.json(await planMatch(context, check(matchWish, request.body, "the match")));
  });
  router.post("/match", async (request, response) => {
    response.json(await match(context, check(matchWish, request.body, "the match")));
  });
  router.get("/:id/file", async (request, response) => {
    const print = await findPrint(context, request.params.id);
    const negative = await findNegative(context, print.negativeId);
    const name = `${basename(negative.fileName, extname(negative.fileName))}-${print.name}.print.json`;
    response.attachment(shortName(name)).json(await printFileOf(context, print, negative));
  });
  router.get("/:id/sheet", async (request, response) => {
    const print = await findPrint(context, request.params.id);
    const negative = await findNegative(context, print.negativeId);
    const roll = await findRoll(context, negative.rollId);
    const name = `${basename(negative.fileName, extname(negative.fileName))}-${print.name}.pdf`;
    response.attachment(shortName(name)).send(await printSheet(context, print, negative, roll));
  });
  router.get("/:id/log", async (request, response) => {
    const { format } = check(logQuery, request.query, "the query");
    const { id: printId, name: title } = await findPrint(context, request.params.id);
    sendLog(response, await workLog(context, title, [printId]), format);
  });
  router.get("/:id", async (request, response) => void response.json(await findPrint(context, request.params.id)));
  router.patch("/:id", async (request, response) => {
    const { id: printId } = request.params;
    const { name: wanted, position } = check(printChange, request.body, "the print");
    if (wanted !== undefined) await namePrint(context, printId, { name: wanted });
    if (position !== undefined) await placePrint(context, printId, position);
    response.json(await findPrint(context, printId));
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
  router.get("/:id/history", async (request, response) => {
    response.json(await findHistory(context, request.params.id));
  });
  router.post("/:id/revisions", async (request, response) => {
    const made = check(newRevision, request.body, "the revision");
    response.status(201).json(await addRevision(context, request.params.id, made));
  });
  router.post("/:id/head", async (request, response) => {
    response.json(await moveHead(context, request.params.id, check(headMove, request.body, "the move")));
  });
  router.post("/:id/name", async (request, response) => {
    response.json(await namePrint(context, request.params.id, check(naming, request.body, "the name")));
  });
  router.get("/:id/thumbnail", async (request, response) => {
    const { edge = "320", v } = check(thumbnailQuery, request.query, "the query");
    const print = await findPrint(context, request.params.id);
    const negative = await findNegative(context, print.negativeId);
    const file = await thumbnail(context, negative, print.recipe, Number(edge));
    // Only an address that names the revision shown can be shown again before it is asked for.
    sendThumbnail(response, file, v === print.head);
  });
  // What can be shown at once while the picture is computed: nothing is made for it.
  router.get("/:id/kept-thumbnail", async (request, response) => {
    const print = await findPrint(context, request.params.id);
    const file = await keptThumbnail(context, await findNegative(context, print.negativeId), print.recipe);
    if (!file) response.status(204).end();
    else sendThumbnail(response, file, false);
  });
  return router;
}
