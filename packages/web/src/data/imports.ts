import type { ImportJob } from "@yelm/core";
import { createStore } from "zustand/vanilla";
import { api, isUnreachable, sendCapture } from "./api.ts";
import { queryClient } from "./queries.ts";

/** One file on its way to the server. Once it is there, the server's own list tells what comes of it. */
export interface Upload {
  readonly id: string;
  readonly rollId: string;
  readonly name: string;
  readonly state: "waiting" | "sending" | "away" | "failed";
  /** Share sent, 0–1. */
  readonly sent: number;
  readonly reason?: string;
}

const AT_ONCE = 3;
const RETRY_MS = 2000;
const files = new Map<string, File>();
let running = 0;

export const uploads = createStore<readonly Upload[]>(() => []);

/** Sends files into a roll, a few at a time; one that fails does not stop the rest, a server that is away is waited for. */
export function importFiles(rollId: string, added: readonly File[]): void {
  const items = added
    .filter(({ name }) => !name.startsWith("."))
    .map((file): Upload => {
      const id = crypto.randomUUID();
      files.set(id, file);
      return { id, rollId, name: file.name, state: "waiting", sent: 0 };
    });
  uploads.setState((old) => [...old, ...items], true);
  while (running < AT_ONCE && takeNext());
}

/** Sends nothing more, and has the server stop what has not begun. */
export async function stopImports(): Promise<void> {
  uploads.setState((old) => old.filter(({ state }) => state === "sending"), true);
  await api("/imports/cancel", { method: "POST" });
}

/** Forgets what is finished. */
export async function clearImports(): Promise<void> {
  uploads.setState((old) => old.filter(({ state }) => state !== "failed"), true);
  await api("/imports/clear", { method: "POST" });
  await queryClient.invalidateQueries({ queryKey: ["imports"] });
}

function takeNext(): boolean {
  const next = uploads.getState().find(({ state }) => state === "waiting");
  if (!next) return false;
  running++;
  void send(next).finally(() => {
    running--;
    takeNext();
  });
  return true;
}

async function send({ id, rollId }: Upload): Promise<void> {
  const file = files.get(id);
  while (file && uploads.getState().some((one) => one.id === id)) {
    change(id, { state: "sending", sent: 0 });
    try {
      const job = await sendCapture(rollId, id, file, (sent) => change(id, { sent }));
      files.delete(id);
      // Listed at once as the server's, so that the count does not dip until the list is asked for again.
      queryClient.setQueryData<ImportJob[]>(["imports"], (old = []) =>
        old.some((one) => one.id === id) ? old : [...old, job],
      );
      uploads.setState((old) => old.filter((one) => one.id !== id), true);
      return;
    } catch (error) {
      if (!isUnreachable(error)) {
        files.delete(id);
        change(id, { state: "failed", reason: (error as Error).message });
        return;
      }
      change(id, { state: "away" });
      await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
    }
  }
}

function change(id: string, change: Partial<Upload>): void {
  uploads.setState((old) => old.map((item) => (item.id === id ? { ...item, ...change } : item)), true);
}
