import { Type } from "@sinclair/typebox";
import { RATINGS, tilesVersion, type Rating } from "@yelm/core";
import { Router } from "express";
import { AppError } from "../errors.ts";
import { ReadRooms } from "../files/read-rooms.ts";
import type { Context } from "../services/context.ts";
import {
  changeNegatives,
  findNegative,
  listNegatives,
  nameNegative,
  smoothNegative,
  verifyNegative,
} from "../services/negatives.ts";
import { fittedFile, printFromFile, readPrintFile } from "../services/print-file.ts";
import { thumbnail } from "../services/thumbnails.ts";
import { check } from "../validate.ts";
import { sendThumbnail, thumbnailQuery } from "./thumbnail-answer.ts";

const listQuery = Type.Object({ roll: Type.Optional(Type.String()) }, { additionalProperties: false });
const naming = Type.Object({ title: Type.String({ maxLength: 120 }) }, { additionalProperties: false });
const smoothing = Type.Object({ smoothed: Type.Boolean() }, { additionalProperties: false });
const manyChange = Type.Object(
  {
    ids: Type.Array(Type.String({ minLength: 1, maxLength: 64 }), { minItems: 1, maxItems: 10_000 }),
    rating: Type.Optional(Type.Unsafe<Rating | null>({ enum: [...RATINGS, null] })),
    deleted: Type.Optional(Type.Boolean()),
  },
  { additionalProperties: false },
);
const IMMUTABLE = "public, max-age=31536000, immutable";

export function negativeRoutes(context: Context): Router {
  const router = Router();
  const rooms = new ReadRooms();
  router.get("/", async (request, response) => {
    response.json(await listNegatives(context, check(listQuery, request.query, "the query").roll));
  });
  router.patch("/", async (request, response) => {
    const { ids, ...change } = check(manyChange, request.body, "the negatives");
    response.json({ changed: await changeNegatives(context, ids, change) });
  });
  router.get("/:id", async (request, response) => void response.json(await findNegative(context, request.params.id)));
  router.patch("/:id", async (request, response) => {
    response.json(await nameNegative(context, request.params.id, check(naming, request.body, "the negative").title));
  });
  router.put("/:id/smoothed", async (request, response) => {
    const { smoothed } = check(smoothing, request.body, "the negative");
    response.json(await smoothNegative(context, request.params.id, smoothed));
  });
  router.post("/:id/prints/file", async (request, response) => {
    const negative = await findNegative(context, request.params.id);
    const file = await fittedFile(context, negative, readPrintFile(request.body));
    response.status(201).json(await printFromFile(context, negative.id, file));
  });
  router.post("/:id/verify", async (request, response) => {
    response.json(await verifyNegative(context, request.params.id));
  });
  router.get("/:id/thumbnail", async (request, response) => {
    const { edge = "320" } = check(thumbnailQuery, request.query, "the query");
    const negative = await findNegative(context, request.params.id);
    sendThumbnail(response, await thumbnail(context, negative, null, Number(edge)), true);
  });

  // Tiles never change for a pyramid version, so their address names it and the browser may keep them for good.
  router.get("/:id/tiles/:version/:level/:column/:row", async (request, response) => {
    const [level, column, row] = (["level", "column", "row"] as const).map((name) =>
      /^\d{1,5}$/.test(request.params[name]) ? Number(request.params[name]) : NaN,
    );
    const negative = await findNegative(context, request.params.id);
    const version = tilesVersion(negative.capture);
    if (request.params.version !== version)
      throw new AppError("not_found", `Expected tiles of version ${version} but those of another were asked for.`);
    const place = { level, column, row };
    const tile = await context.shelf.use(negative, (reader) => reader.bytes(place, (length) => rooms.take(length)));
    response.once("close", () => rooms.give(tile));
    // Sent as it is: a mark made of all its bytes would cost half as much again, and is for what may change.
    response
      .set({
        "Content-Type": "application/octet-stream",
        "Content-Length": String(tile.byteLength),
        "Cache-Control": IMMUTABLE,
      })
      .end(tile);
  });
  return router;
}
