import { randomUUID } from "node:crypto";
import { rm } from "node:fs/promises";
import { pipeline } from "node:stream/promises";
import { Type } from "@sinclair/typebox";
import { Router, type NextFunction, type Request, type Response } from "express";
import multer from "multer";
import { AppError } from "../errors.ts";
import { MAXIMUM_ARCHIVE_BYTES, MAXIMUM_FILE_BYTES, shortName } from "../files/file-name.ts";
import type { Context } from "../services/context.ts";
import type { ImportQueue, NewImport } from "../services/imports.ts";
import { workLog } from "../services/log.ts";
import { sheetOf } from "../services/negatives.ts";
import { openArchive, rollArchive } from "../services/roll-archive.ts";
import { setOf } from "../services/print-set.ts";
import { listPrints } from "../services/prints.ts";
import { logQuery, sendLog } from "./log-answer.ts";
import { changeRoll, createRoll, deleteRoll, findRoll, listRolls, restoreRoll } from "../services/rolls.ts";
import { check } from "../validate.ts";

const closed = { additionalProperties: false };
const words = {
  title: Type.Optional(Type.String({ maxLength: 120 })),
  place: Type.Optional(Type.String({ maxLength: 120 })),
  date: Type.Optional(Type.String({ maxLength: 60 })),
  light: Type.Optional(Type.String({ maxLength: 120 })),
  note: Type.Optional(Type.String({ maxLength: 2000 })),
};
const rollText = Type.Object(words, closed);
const rollChange = Type.Object({ ...words, archived: Type.Optional(Type.Boolean()) }, closed);
/** `away=1` lists what was put away instead of what is there. */
const awayQuery = Type.Object({ away: Type.Optional(Type.Literal("1")) }, closed);
const importId = Type.String({ minLength: 8, maxLength: 64, pattern: "^[A-Za-z0-9-]+$" });

export function rollRoutes(context: Context, imports: ImportQueue): Router {
  const router = Router();
  const storage = multer.diskStorage({
    destination: context.folder.incoming,
    filename: (_request, _file, done) => done(null, `.${randomUUID()}.part`),
  });
  const limits = { fileSize: MAXIMUM_FILE_BYTES, files: 1, fields: 4 };
  const upload = multer({ storage, limits, defParamCharset: "utf8" });
  const archiveUpload = multer({ storage, limits: { ...limits, fileSize: MAXIMUM_ARCHIVE_BYTES } });

  router.get("/", async (request, response) => {
    response.json(await listRolls(context, check(awayQuery, request.query, "the query").away !== undefined));
  });
  router.post("/", async (request, response) => {
    response.status(201).json(await createRoll(context, check(rollText, request.body ?? {}, "the roll")));
  });
  router.get("/:id", async (request, response) => void response.json(await findRoll(context, request.params.id)));
  router.patch("/:id", async (request, response) => {
    response.json(await changeRoll(context, request.params.id, check(rollChange, request.body, "the roll")));
  });
  router.delete("/:id", async (request, response) => {
    await deleteRoll(context, request.params.id);
    response.status(204).end();
  });
  router.post("/:id/restore", async (request, response) => {
    response.json(await restoreRoll(context, request.params.id));
  });
  router.get("/:id/sheet", async (request, response) => {
    const { id } = await findRoll(context, request.params.id);
    response.json(await sheetOf(context, id, check(awayQuery, request.query, "the query").away !== undefined));
    // Where somebody looks at a roll, captures may come.
    context.pool.wakeSoon("background");
  });

  router.get("/:id/set", async (request, response) => {
    const { id } = await findRoll(context, request.params.id);
    response.json(await setOf(context, id));
  });
  router.get("/:id/log", async (request, response) => {
    const { id, title } = await findRoll(context, request.params.id);
    const { format } = check(logQuery, request.query, "the query");
    const prints = (await listPrints(context, { rollId: id })).map((print) => print.id);
    sendLog(response, await workLog(context, title, prints), format);
  });

  router.get("/:id/archive", async (request, response) => {
    const roll = await findRoll(context, request.params.id);
    const archive = await rollArchive(context, roll);
    // Asked beforehand whether all is there, since a download that fails cannot say why.
    if (request.method === "HEAD") {
      archive.destroy();
      return void response.end();
    }
    response.attachment(`${shortName(roll.title)}.zip`).type("application/zip");
    // One that breaks off is seen to be broken: the connection ends before its end.
    await pipeline(archive, response).catch((error: unknown) => context.log.error({ err: error }, "archive broke off"));
  });
  router.post("/archive", archiveUpload.single("file"), async (request, response) => {
    if (!request.file)
      throw new AppError("bad_request", 'Expected an archive in the form field "file" but received none.');
    const { path } = request.file;
    try {
      response.status(201).json(await openArchive(context, imports, path));
    } finally {
      await rm(path, { force: true });
    }
  });

  // A file is answered for as soon as it is safely here; what comes of it is in the roll's imports.
  router.put("/:id/imports/:importId", checkTarget(context), upload.single("file"), async (request, response) => {
    const id = check(importId, request.params.importId, "the import's id");
    const { path, wanted } = received(request);
    response.status(202).json(await imports.add(path, { ...wanted, id }));
  });
  // For scripts: one file, answered when it is in.
  router.post("/:id/captures", checkTarget(context), upload.single("file"), async (request, response) => {
    const { path, wanted } = received(request);
    const result = await imports.bringIn(path, wanted);
    response.status(result.status === "imported" ? 201 : 200).json(result);
  });
  return router;
}

/** Whether the roll is there, and the import's id fits: asked before a file of half a gigabyte is taken over. */
function checkTarget(context: Context) {
  return async (request: Request, _response: Response, next: NextFunction): Promise<void> => {
    const { id, importId: given } = request.params;
    if (given !== undefined) check(importId, given, "the import's id");
    await findRoll(context, String(id));
    context.pool.wake("background");
    next();
  };
}

/** The file that a request brought. */
function received({ file, params }: Request): { path: string; wanted: NewImport } {
  if (!file) throw new AppError("bad_request", 'Expected one file in the form field "file" but received none.');
  return { path: file.path, wanted: { rollId: String(params.id), fileName: file.originalname, origin: "upload" } };
}
