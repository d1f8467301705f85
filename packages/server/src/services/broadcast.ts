import { EventEmitter } from "node:events";
import type { ServerEvent } from "@yelm/core";

/** Hands events to everybody who listens; nobody listening is fine. */
export class Broadcast {
  readonly #emitter = new EventEmitter().setMaxListeners(0);

  send(event: ServerEvent): void {
    this.#emitter.emit("event", event);
  }

  /** @returns a function that stops listening. */
  listen(listener: (event: ServerEvent) => void): () => void {
    this.#emitter.on("event", listener);
    return () => this.#emitter.off("event", listener);
  }
}
