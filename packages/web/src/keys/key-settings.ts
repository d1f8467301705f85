import { createStore } from "zustand/vanilla";
import { api } from "../data/api.ts";

/** Keys of the user's own, by act; an empty text takes an act's keys away. */
export type OwnKeys = Readonly<Record<string, string>>;

export const ownKeys = createStore<{ readonly keys: OwnKeys }>(() => ({ keys: {} }));

/** Reads the user's keys from the server's settings. */
export async function loadKeys(): Promise<void> {
  const { keys } = await api<{ keys: OwnKeys }>("/settings/keys");
  ownKeys.setState({ keys });
}

/** Keeps the user's keys; they act at once. @throws when they cannot be kept; then they are as they were. */
export async function keepKeys(keys: OwnKeys): Promise<void> {
  const before = ownKeys.getState();
  ownKeys.setState({ keys });
  try {
    await api("/settings/keys", { method: "PUT", body: { keys } });
  } catch (error) {
    ownKeys.setState(before, true);
    throw error;
  }
}

/** The keys that an act has: the user's own, or its usual ones. */
export function keysOf({ id, keys }: { readonly id: string; readonly keys: string }, own: OwnKeys): string {
  return own[id] ?? keys;
}
