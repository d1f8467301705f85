import { randomUUID } from "node:crypto";
import { Type } from "@sinclair/typebox";
import { Router } from "express";
import multer from "multer";
import { AppError } from "../errors.ts";
import type { Context } from "../services/context.ts";
import { importCapture } from "../services/negatives.ts";
import { changeRoll, createRoll, findRoll, listRolls } from "../services/rolls.ts";
import { check } from "../validate.ts";

const MAXIMUM_FILE_BYTES = 512 * 2 ** 20;

const rollText = Type.Object(
  {
    title: Type.Optional(Type.String({ maxLength: 120 })),
    place: Type.Optional(Type.String({ maxLength: 120 })),
    note: Type.Optional(Type.String({ maxLength: 2000 })),
  },
  { additionalProperties: false },
);

export function rollRoutes(context: Context): Router {
  const router = Router();
  const upload = multer({
    storage: multer.diskStorage({
      destination: context.folder.incoming,
      filename: (_request, _file, done) => done(null, randomUUID()),
    }),
    limits: { fileSize: MAXIMUM_FILE_BYTES, files: 1, fields: 4 },
    defParamCharset: "utf8",
  });

  router.get("/", async (_request, response) => void response.json(await listRolls(context)));
  router.post("/", async (request, response) => {
    response.status(201).json(await createRoll(context, check(rollText, request.body ?? {}, "the roll")));
  });
  router.get("/:id", async (request, response) => void response.json(await findRoll(context, request.params.id)));
  router.patch("/:id", async (request, response) => {
    response.json(await changeRoll(context, request.params.id, check(rollText, request.body, "the roll")));
  });
  router.post("/:id/captures", upload.single("file"), async (request, response) => {
    const roll = await findRoll(context, String(request.params.id));
    const { file } = request;
    if (!file) throw new AppError("bad_request", 'Expected one file in the form field "file" but received none.');
    const result = await importCapture(context, roll.id, file.path, file.originalname);
    response.status(result.status === "imported" ? 201 : 200).json(result);
  });
  return router;
}
