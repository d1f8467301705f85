import { Type } from "@sinclair/typebox";
import { Router } from "express";
import { captionOutline } from "../files/caption-outline.ts";
import { check } from "../validate.ts";

const query = Type.Object({ text: Type.String({ minLength: 1, maxLength: 160 }) }, { additionalProperties: false });

/** The curves of a caption's letters, so that the screen shows those of the file. */
export function captionRoutes(): Router {
  const router = Router();
  router.get("/", (request, response) => {
    const { text } = check(query, request.query, "the query");
    response.json(captionOutline(text));
  });
  return router;
}
