import type { NextFunction, Request, Response } from "express";
import type { Logger } from "pino";
import { AppError } from "../errors.ts";

const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

/**
 * Refuses requests that a foreign page could send: the Host must be this machine's own name, and an Origin, when the
 * browser states one, the same host.
 */
export function guardLoopback(request: Request, _response: Response, next: NextFunction): void {
  const { host = "", origin } = request.headers;
  if (!LOOPBACK.test(host))
    throw new AppError("forbidden", `Expected a request for this machine but received one for "${host}".`);
  if (origin !== undefined && origin !== `http://${host}`)
    throw new AppError("forbidden", `Expected a request from Yelm's own pages but received one from "${origin}".`);
  next();
}

/** Sends any error in the one shape there is. */
export function sendError(error: unknown, request: Request, response: Response, next: NextFunction): void {
  if (response.headersSent) {
    next(error);
    return;
  }
  const known = asAppError(error);
  if (known.status >= 500)
    (request.app.locals as { log?: Logger }).log?.error({ err: error, url: request.url }, "request failed");
  const { code, message, detail, status } = known;
  response.status(status).json({ error: { code, message, ...detail } });
}

function asAppError(error: unknown): AppError {
  if (error instanceof AppError) return error;
  const { type, code, message } = error as { type?: string; code?: string; message?: string };
  if (type === "entity.parse.failed")
    return new AppError("bad_request", "Expected JSON in the body but it could not be read.");
  if (type === "entity.too.large" || code === "LIMIT_FILE_SIZE")
    return new AppError("too_large", "Expected a smaller file or body.", {
      hint: "Captures may be up to 512 MiB each.",
    });
  if (code?.startsWith("LIMIT_")) return new AppError("bad_request", `Expected one file in field "file": ${message}.`);
  return new AppError("internal", "Something went wrong on the server; it is in its log.");
}
