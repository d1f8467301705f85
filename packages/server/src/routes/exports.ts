import { Type } from "@sinclair/typebox";
import { Router } from "express";
import { DEFAULT_EXPORT, exportOptionsSchema } from "@yelm/core";
import type { ExportQueue } from "../services/exports.ts";
import { check } from "../validate.ts";

const newExports = Type.Object(
  {
    printIds: Type.Array(Type.String({ minLength: 1, maxLength: 64 }), { minItems: 1, maxItems: 2000 }),
    options: Type.Partial(exportOptionsSchema, { additionalProperties: false }),
  },
  { additionalProperties: false },
);

export function exportRoutes(queue: ExportQueue): Router {
  const router = Router();
  router.get("/", async (_request, response) => void response.json(await queue.list()));
  router.post("/", async (request, response) => {
    const { printIds, options } = check(newExports, request.body, "the export");
    response.status(202).json(await queue.add(printIds, { ...DEFAULT_EXPORT, ...options }));
  });
  router.get("/:id", async (request, response) => void response.json(await queue.find(request.params.id)));
  router.post("/:id/cancel", async (request, response) => {
    response.json(await queue.cancel(request.params.id));
  });
  router.get("/:id/file", async (request, response) => {
    const { path, fileName } = await queue.file(request.params.id);
    response.download(path, fileName, { dotfiles: "allow" });
  });
  return router;
}
