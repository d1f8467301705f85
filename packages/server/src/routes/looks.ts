import { OWN_LOOKS } from "@yelm/core";
import { Type } from "@sinclair/typebox";
import { Router } from "express";
import type { Context } from "../services/context.ts";
import { checkLook, lookFields, lookFileOf, readLookFile } from "../services/look-file.ts";
import { deleteLook, findLook, keepLook, listLooks, nameLook, restoreLook } from "../services/looks.ts";
import { lookOnMany } from "../services/print-set.ts";
import { check } from "../validate.ts";

const change = Type.Object(
  { name: Type.Optional(lookFields.name), note: Type.Optional(lookFields.note) },
  { additionalProperties: false },
);

const laid = Type.Object(
  {
    to: Type.Array(Type.String({ minLength: 1, maxLength: 64, pattern: "^[A-Za-z0-9-]+$" }), {
      minItems: 1,
      maxItems: 500,
    }),
    amountPercent: Type.Number({ minimum: 0, maximum: 150 }),
  },
  { additionalProperties: false },
);

export function lookRoutes(context: Context): Router {
  const router = Router();
  router.get("/", async (_request, response) => void response.json(await listLooks(context)));
  router.post("/", async (request, response) => {
    response.status(201).json(await keepLook(context, checkLook(request.body)));
  });
  router.post("/file", async (request, response) => {
    response.status(201).json(await keepLook(context, readLookFile(request.body)));
  });
  router.post("/:id/lay", async (request, response) => {
    const { to, amountPercent } = check(laid, request.body, "the prints");
    const { id } = request.params;
    const look = OWN_LOOKS.find((own) => own.id === id) ?? (await findLook(context, id));
    response.json(await lookOnMany(context, { look, to, amount: amountPercent / 100 }));
  });
  router.get("/:id/file", async (request, response) => {
    const look = await findLook(context, request.params.id);
    const name = look.name.replace(/[^A-Za-z0-9 _-]+/g, "").trim() || "look";
    response.attachment(`${name}.look.json`).json(lookFileOf(look));
  });
  router.patch("/:id", async (request, response) => {
    response.json(await nameLook(context, request.params.id, check(change, request.body, "the look")));
  });
  router.delete("/:id", async (request, response) => {
    await deleteLook(context, request.params.id);
    response.status(204).end();
  });
  router.post("/:id/restore", async (request, response) => {
    response.json(await restoreLook(context, request.params.id));
  });
  return router;
}
