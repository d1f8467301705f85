import { Type } from "@sinclair/typebox";
import type { FoundByName } from "@yelm/core";
import { Router } from "express";
import type { Context } from "../services/context.ts";
import { check } from "../validate.ts";

const query = Type.Object({ text: Type.String({ minLength: 1, maxLength: 80 }) }, { additionalProperties: false });
const MOST = 12;

/** Rolls and prints by part of their names. */
export function findRoutes({ db }: Context): Router {
  const router = Router();
  router.get("/", async (request, response) => {
    const { text } = check(query, request.query, "the query");
    const like = `%${text.replace(/[\\%_]/g, "\\$&")}%`;
    const rolls = (await db("rolls")
      .select("id", "title")
      .whereNull("deletedAt")
      .whereRaw("title like ? escape '\\'", [like])
      .orderBy("createdAt", "desc")
      .limit(MOST)) as FoundByName["rolls"];
    const prints = (await db("prints")
      .join("negatives", "negatives.id", "prints.negativeId")
      .join("rolls", "rolls.id", "negatives.rollId")
      .select("prints.id", "prints.name", { negative: "negatives.title" }, { roll: "rolls.title" })
      .whereNull("prints.deletedAt")
      .whereNull("negatives.deletedAt")
      .whereNull("rolls.deletedAt")
      .whereRaw("(prints.name like ? escape '\\' or negatives.title like ? escape '\\')", [like, like])
      .orderBy("prints.updatedAt", "desc")
      .limit(MOST)) as FoundByName["prints"];
    response.json({ rolls, prints } satisfies FoundByName);
  });
  return router;
}
