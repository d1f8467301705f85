import type { NextFunction, Request, Response } from "express";
import type { Logger } from "pino";
import { AppError, INTERNAL_WORDS } from "../errors.ts";

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

/** What the parsers of bodies, addresses and files call the client's faults, in words. */
const CLIENT_FAULTS: Readonly<Record<string, string>> = {
  "entity.parse.failed": "Expected JSON in the body but it could not be read.",
  "charset.unsupported": "Expected a body in UTF-8 but its charset is another.",
  "encoding.unsupported": "Expected a body as it is, or packed with gzip, deflate or br.",
  "entity.verify.failed": "Expected JSON in the body but it could not be read.",
  "request.size.invalid": "Expected a body as long as its header says.",
  "request.aborted": "Expected the whole body but the connection ended.",
};
/** The form parser has no codes for these. */
const FORM_FAULT = /multipart|boundary|end of form|part header|malformed/i;

function asAppError(error: unknown): AppError {
  if (error instanceof AppError) return error;
  const { type, code, message, status } = error as { type?: string; code?: string; message?: string; status?: number };
  if (error instanceof URIError)
    return new AppError("bad_request", "Expected an address whose % signs each begin a code.");
  if (type === "entity.too.large" || code === "LIMIT_FILE_SIZE")
    return new AppError("too_large", "Expected a smaller file or body.", {
      hint: "Captures may be up to 512 MiB each.",
    });
  if (code?.startsWith("LIMIT_")) return new AppError("bad_request", `Expected one file in field "file": ${message}.`);
  if (type && Object.hasOwn(CLIENT_FAULTS, type)) {
    const kind = type.endsWith("unsupported") ? "unsupported_file" : "bad_request";
    return new AppError(kind, CLIENT_FAULTS[type]);
  }
  if (code === "ENOENT" || status === 404)
    return new AppError("not_found", "Expected a file but it is no longer there.", {
      hint: "Load the page again; a print that was exported can be exported again.",
    });
  if (error instanceof Error && FORM_FAULT.test(error.message))
    return new AppError("bad_request", "Expected a form with one file but it is broken or cut short.");
  if (status !== undefined && status >= 400 && status < 500)
    return new AppError("bad_request", "Expected another request; this one could not be understood.");
  return new AppError("internal", INTERNAL_WORDS);
}
