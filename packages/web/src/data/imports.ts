import { createStore } from "zustand/vanilla";
import { ApiError, sendCapture } from "./api.ts";
import { queryClient } from "./queries.ts";

/** One file on its way in. */
export interface ImportItem {
  readonly id: number;
  readonly rollId: string;
  readonly name: string;
  readonly state: "waiting" | "sending" | "developing" | "imported" | "duplicate" | "failed";
  /** Share sent, 0–1. */
  readonly sent: number;
  readonly reason?: string;
}

const AT_ONCE = 2;
const SHOWN_MS = 6000;
const files = new Map<number, File>();
let lastId = 0;
let running = 0;

export const imports = createStore<readonly ImportItem[]>(() => []);

/** Brings files into a roll, two at a time; one that fails does not stop the rest. */
export function importFiles(rollId: string, added: readonly File[]): void {
  const items = added.map((file): ImportItem => {
    const id = ++lastId;
    files.set(id, file);
    return { id, rollId, name: file.name, state: "waiting", sent: 0 };
  });
  imports.setState((old) => [...old, ...items], true);
  while (running < AT_ONCE && takeNext());
}

/** Forgets what is finished. */
export function clearImports(): void {
  imports.setState((old) => old.filter(({ id }) => files.has(id)), true);
}

function takeNext(): boolean {
  const next = imports.getState().find(({ state }) => state === "waiting");
  if (!next) return false;
  running++;
  change(next.id, { state: "sending" });
  void bringIn(next).finally(() => {
    running--;
    files.delete(next.id);
    if (takeNext() || running > 0) return;
    // When all went well the list goes by itself; a reason stays until it was read.
    if (imports.getState().every(({ state }) => state !== "failed")) setTimeout(clearImports, SHOWN_MS);
  });
  return true;
}

async function bringIn({ id, rollId }: ImportItem): Promise<void> {
  try {
    const { status, negative } = await sendCapture(rollId, files.get(id)!, (sent) =>
      change(id, sent >= 1 ? { state: "developing" } : { state: "sending", sent }),
    );
    const elsewhere = status === "duplicate" && negative.rollId !== rollId;
    change(id, { state: status, reason: elsewhere ? `It is in another roll, as “${negative.title}”.` : undefined });
    for (const key of ["negatives", "prints", "rolls"]) void queryClient.invalidateQueries({ queryKey: [key] });
  } catch (error) {
    const { message } = error as Error;
    const hint = error instanceof ApiError && error.hint ? ` ${error.hint}` : "";
    change(id, { state: "failed", reason: message + hint });
  }
}

function change(id: number, change: Partial<ImportItem>): void {
  imports.setState((old) => old.map((item) => (item.id === id ? { ...item, ...change } : item)), true);
}
