import { Type } from "@sinclair/typebox";
import { Router } from "express";
import type { Context } from "../services/context.ts";
import { readSetting, writeSetting } from "../store/settings.ts";
import { check } from "../validate.ts";

/** Keys of the user's own, by act. */
const keySettings = Type.Object(
  {
    keys: Type.Record(Type.String({ pattern: "^[a-z0-9-]{1,60}$" }), Type.String({ maxLength: 60 }), {
      maxProperties: 500,
      additionalProperties: false,
    }),
  },
  { additionalProperties: false },
);

export function settingRoutes({ db }: Context): Router {
  const router = Router();
  router.get("/keys", async (_request, response) => {
    response.json({ keys: (await readSetting<Record<string, string>>(db, "keys")) ?? {} });
  });
  router.put("/keys", async (request, response) => {
    const { keys } = check(keySettings, request.body, "the keys");
    await writeSetting(db, "keys", keys);
    response.json({ keys });
  });
  return router;
}
