import type { Print, PrintHistory } from "@yelm/core";
import { ApiError, isUnreachable } from "../api.ts";
import { SendError, type Failure, type ServerPort } from "./ports.ts";
import type { OutboxItem } from "./state.ts";

/** Asks the API: `api` of `data/api.ts`, or one that misbehaves on purpose. */
export type Ask = <T>(path: string, options?: { method?: string; body?: unknown }) => Promise<T>;

/** A print on the server. */
export function printOnServer(printId: string, ask: Ask): ServerPort {
  const path = `/prints/${printId}`;
  return {
    async load() {
      try {
        return await ask<PrintHistory>(`${path}/history`);
      } catch (error) {
        throw new SendError(failureOf(error));
      }
    },
    async send(item) {
      const [to, body] = requestOf(item);
      try {
        return await ask<Print>(`${path}/${to}`, { method: "POST", body });
      } catch (error) {
        throw new SendError(failureOf(error));
      }
    },
  };
}

function requestOf(item: OutboxItem): [path: string, body: unknown] {
  switch (item.kind) {
    case "revision": {
      const { id, base, changes, label, station, at } = item;
      return ["revisions", { id, base, changes, label, station, at }];
    }
    case "head":
      return ["head", { id: item.id, base: item.base, target: item.target }];
    case "name":
      return ["name", { id: item.id, name: item.name }];
  }
}

function failureOf(error: unknown): Failure {
  if (isUnreachable(error) || !(error instanceof ApiError)) return { kind: "away" };
  if (error.code === "stale_revision") return { kind: "stale" };
  if (error.status === 404) return { kind: "gone", reason: error.message };
  return { kind: "never", reason: error.message };
}
