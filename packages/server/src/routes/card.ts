import { Type } from "@sinclair/typebox";
import { Router } from "express";
import type { CardReader } from "../services/card.ts";
import { check } from "../validate.ts";

const closed = { additionalProperties: false };
const assignment = Type.Object({ rollId: Type.Union([Type.String({ maxLength: 64 }), Type.Null()]) }, closed);
const shot = Type.Object(
  {
    scene: Type.String({ minLength: 1, maxLength: 60 }),
    iso: Type.Integer({ minimum: 50, maximum: 51200 }),
    exposureStops: Type.Number({ minimum: -6, maximum: 6 }),
    frames: Type.Integer({ minimum: 1, maximum: 5 }),
    stepStops: Type.Number({ minimum: 0.1, maximum: 3 }),
  },
  closed,
);

/** The folder that stands in for a camera's card. */
export function cardRoutes(card: CardReader): Router {
  const router = Router();
  router.get("/", async (_request, response) => void response.json(await card.describe()));
  router.put("/", async (request, response) => {
    response.json(await card.assign(check(assignment, request.body, "the card").rollId));
  });
  router.post("/shots", async (request, response) => {
    response.status(201).json({ files: await card.shoot(check(shot, request.body, "the shot")) });
  });
  return router;
}
