import type { Print, PrintHistory } from "@yelm/core";
import type { OutboxItem } from "./state.ts";

/** How an attempt to reach the server went wrong. */
export type Failure =
  /** Not reached, or it has trouble of its own: later. */
  | { readonly kind: "away" }
  /** The print moved on. */
  | { readonly kind: "stale" }
  /** There is no such print at present. */
  | { readonly kind: "gone"; readonly reason: string }
  /** Never. */
  | { readonly kind: "never"; readonly reason: string };

/** The server, as an edit session sees it. Each rejects with a {@link Failure} under `failure` of a SendError. */
export interface ServerPort {
  load(): Promise<PrintHistory>;
  send(item: OutboxItem): Promise<Print>;
}

export class SendError extends Error {
  readonly failure: Failure;

  constructor(failure: Failure) {
    super("reason" in failure ? failure.reason : `The server is ${failure.kind}.`);
    this.name = "SendError";
    this.failure = failure;
  }
}

/** Where unsent acts of this window wait; it survives a reload. */
export interface OutboxPort {
  /** This window's own, and those of windows that are gone, which are this window's from now on. */
  open(): Promise<readonly OutboxItem[]>;
  /** @throws when the browser cannot keep it. */
  write(items: readonly OutboxItem[]): Promise<void>;
}

/** Time and chance. */
export interface ClockPort {
  now(): Date;
  after(ms: number, run: () => void): () => void;
  readonly newId: () => string;
}
