import { existsSync } from "node:fs";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import express, { type Express } from "express";
import helmet from "helmet";
import { AppError } from "./errors.ts";
import { captionRoutes } from "./routes/captions.ts";
import { cardRoutes } from "./routes/card.ts";
import { eventRoutes } from "./routes/events.ts";
import { exportRoutes } from "./routes/exports.ts";
import { findRoutes } from "./routes/find.ts";
import { settingRoutes } from "./routes/settings.ts";
import { guardLoopback, sendError } from "./routes/guard.ts";
import { importRoutes } from "./routes/imports.ts";
import { lookRoutes } from "./routes/looks.ts";
import { negativeRoutes } from "./routes/negatives.ts";
import { noteRoutes } from "./routes/notes.ts";
import { printRoutes } from "./routes/prints.ts";
import { rollRoutes } from "./routes/rolls.ts";
import { habits } from "./services/log.ts";
import type { CardReader } from "./services/card.ts";
import type { Context } from "./services/context.ts";
import { MOST_PRINT_FILE_BYTES } from "./services/print-file.ts";
import { checkBounds } from "./validate.ts";
import type { ExportQueue } from "./services/exports.ts";
import type { ImportQueue } from "./services/imports.ts";

const WEB = fileURLToPath(new URL("../../web/dist", import.meta.url));

/** Nothing else gets into a header. */
const PRINT_ID = /^[\w-]{1,64}$/;

/** What works beside the requests. */
export interface Workers {
  readonly exports: ExportQueue;
  readonly imports: ImportQueue;
  readonly card: CardReader;
}

/** The whole HTTP side: guards, API, and the built pages. */
export function createApp(context: Context, { exports, imports, card }: Workers): Express {
  const app = express();
  app.disable("x-powered-by");
  app.locals.log = context.log;
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          "default-src": ["'self'"],
          "script-src": ["'self'", "'wasm-unsafe-eval'"],
          "worker-src": ["'self'", "blob:"],
          "img-src": ["'self'", "data:", "blob:"],
          "font-src": ["'self'"],
          "connect-src": ["'self'"],
          "style-src": ["'self'", "'unsafe-inline'"],
          "upgrade-insecure-requests": null,
        },
      },
      crossOriginEmbedderPolicy: { policy: "require-corp" },
      crossOriginOpenerPolicy: { policy: "same-origin" },
      strictTransportSecurity: false,
    }),
  );
  app.use(guardLoopback);
  const api = express.Router();
  // A print's file holds a recipe for each of its named states.
  api.use("/negatives/:id/prints/file", express.json({ limit: MOST_PRINT_FILE_BYTES }));
  api.use(express.json({ limit: "4mb" }));
  api.use((request, _response, next) => {
    checkBounds(request.body, "the body");
    next();
  });
  api.get("/health", (_request, response) => void response.json({ ok: true }));
  api.use("/rolls", rollRoutes(context, imports));
  api.use("/negatives", negativeRoutes(context));
  api.use("/prints/:id/notes", noteRoutes(context));
  api.use("/prints", printRoutes(context));
  api.use("/exports", exportRoutes(exports));
  api.use("/imports", importRoutes(imports));
  api.use("/captions", captionRoutes());
  api.use("/card", cardRoutes(card));
  api.use("/events", eventRoutes(context.broadcast));
  api.get("/habits", async (_request, response) => void response.json(await habits(context)));
  api.use("/looks", lookRoutes(context));
  api.use("/settings", settingRoutes(context));
  api.use("/find", findRoutes(context));
  api.use((request) => {
    throw new AppError(
      "not_found",
      `Expected an address of the API but received ${request.method} ${request.originalUrl}.`,
    );
  });
  app.use("/api", api);
  if (existsSync(WEB)) {
    app.use(
      "/assets",
      express.static(join(WEB, "assets"), { immutable: true, maxAge: "1y", fallthrough: false, dotfiles: "allow" }),
    );
    app.use(express.static(WEB, { index: false, maxAge: 0, dotfiles: "allow" }));
    // What a print's page asks for first is on its way before its code is read.
    app.get("/prints/:id", async ({ params: { id } }, response, next) => {
      if (PRINT_ID.test(id)) response.set("Link", await preloads(context, id));
      next();
    });
    app.get(
      "/{*splat}",
      (_request, response) => void response.sendFile(join(WEB, "index.html"), { dotfiles: "allow" }),
    );
  }
  app.use(sendError);
  return app;
}

async function preloads({ db }: Context, id: string): Promise<string[]> {
  // A database in trouble is told by what is asked for, not by a page that does not come.
  const row = (await db("prints")
    .where({ id })
    .first("negativeId")
    .catch(() => undefined)) as { negativeId: string } | undefined;
  return [
    `</api/prints/${id}/kept-thumbnail>; rel=preload; as=image`,
    `</api/prints/${id}>; rel=preload; as=fetch; crossorigin`,
    ...(row ? [`</api/negatives/${row.negativeId}>; rel=preload; as=fetch; crossorigin`] : []),
  ];
}
