import type { WorkLog } from "@yelm/core";
import { Type } from "@sinclair/typebox";
import type { Response } from "express";
import { logAsCsv, logAsMarkdown } from "../services/log.ts";

const format = Type.Union([Type.Literal("json"), Type.Literal("md"), Type.Literal("csv")]);
export const logQuery = Type.Object({ format: Type.Optional(format) }, { additionalProperties: false });

/** Sends a log as it is asked for; as a file, when it is to be read elsewhere. */
export function sendLog(response: Response, log: WorkLog, as: "json" | "md" | "csv" = "json"): void {
  if (as === "json") {
    response.json(log);
    return;
  }
  const name = log.title.replace(/[^A-Za-z0-9 _-]+/g, "").trim() || "log";
  response.attachment(`${name}.${as}`);
  response.type(as === "md" ? "text/markdown; charset=utf-8" : "text/csv; charset=utf-8");
  response.send(as === "md" ? logAsMarkdown(log) : logAsCsv(log));
}
