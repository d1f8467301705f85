import { EventEmitter } from "node:events";

/** What listening screens are told. */
export type ServerEvent =
  | { readonly kind: "export"; readonly id: string }
  | { readonly kind: "negatives"; readonly rollId: string }
  | { readonly kind: "prints"; readonly negativeId: string };

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
