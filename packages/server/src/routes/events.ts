import { Router } from "express";
import type { Broadcast } from "../services/broadcast.ts";

const BEAT_MS = 15_000;

/** Server-sent events: what changed, so that screens fetch it again. */
export function eventRoutes(broadcast: Broadcast): Router {
  const router = Router();
  router.get("/", (request, response) => {
    response.set({ "Content-Type": "text/event-stream", "Cache-Control": "no-store", Connection: "keep-alive" });
    response.flushHeaders();
    response.write("retry: 2000\n\n");
    const stop = broadcast.listen((event) => response.write(`data: ${JSON.stringify(event)}\n\n`));
    const beat = setInterval(() => response.write(": \n\n"), BEAT_MS);
    request.on("close", () => {
      clearInterval(beat);
      stop();
    });
  });
  return router;
}
