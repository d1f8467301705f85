import { Router } from "express";
import type { ImportQueue } from "../services/imports.ts";

/** Files on their way in, of all rolls. */
export function importRoutes(imports: ImportQueue): Router {
  const router = Router();
  router.get("/", async (_request, response) => void response.json(await imports.list()));
  router.post("/cancel", async (_request, response) => {
    await imports.cancelWaiting();
    response.status(204).end();
  });
  router.post("/clear", async (_request, response) => {
    await imports.clear();
    response.status(204).end();
  });
  return router;
}
