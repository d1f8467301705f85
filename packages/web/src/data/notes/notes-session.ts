import { defaultNotes, type Notes, type PrintNotes } from "@yelm/core";
import { createStore } from "zustand/vanilla";
import { ApiError, isUnreachable } from "../api.ts";

/** How the notes are kept; the page gives what talks to the server. */
export interface NotesPorts {
  readonly load: () => Promise<PrintNotes>;
  readonly keep: (change: { id: string; base: string; notes: Notes; label: string }) => Promise<PrintNotes>;
  readonly step: (base: string, to: "back" | "forth") => Promise<PrintNotes>;
  readonly newId: () => string;
  readonly now: () => Date;
  readonly after: (ms: number, run: () => void) => () => void;
  readonly onTrouble: (sentence: string) => void;
}

export interface NotesState {
  readonly notes: Notes;
  /** As the server has them; null until it has answered. */
  readonly kept: PrintNotes | null;
  readonly save: "saved" | "saving" | "away";
}

type Change = (notes: Notes) => Notes;
interface Waiting {
  readonly id: string;
  readonly label: string;
  readonly change: Change;
  readonly at: string;
  /** Once it is on its way the server may have it. */
  readonly tried: boolean;
}

const RETRY_MS = 3000;

/** What stands beside one print: shown at once, kept one change after the other. Changes are functions, so that they can be laid on newer notes. */
export class NotesSession {
  readonly store = createStore<NotesState>(() => ({ notes: defaultNotes(), kept: null, save: "saved" }));
  readonly #ports: NotesPorts;
  #waiting: readonly Waiting[] = [];
  /** What was taken back before the server had heard of it, the last one last. */
  #dropped: readonly Waiting[] = [];
  #sending: Promise<void> | null = null;
  #closed = false;
  #cancelRetry: (() => void) | null = null;

  constructor(ports: NotesPorts) {
    this.#ports = ports;
  }

  async open(): Promise<void> {
    try {
      this.#takeIn(await this.#ports.load());
    } catch (error) {
      if (!isUnreachable(error)) throw error;
      this.store.setState({ save: "away" });
      this.#cancelRetry = this.#ports.after(RETRY_MS, () => void this.open());
    }
  }

  /** Changes the notes and keeps them. */
  change(label: string, change: Change): void {
    this.#dropped = [];
    this.#add({ id: this.#ports.newId(), label, change, at: this.#ports.now().toISOString(), tried: false });
  }

  #add(next: Waiting): void {
    this.#waiting = [...this.#waiting, next];
    this.store.setState(({ notes }) => ({ notes: next.change(notes) }));
    void this.#send();
  }

  /** When the newest change that can be taken back was made, ISO 8601; empty when there is none. */
  newest(): string {
    const { kept } = this.store.getState();
    return this.#waiting.at(-1)?.at ?? (kept?.canUndo ? kept.at : "");
  }

  /** Resolves when nothing is on its way to the server any more; what it could not take may still wait. */
  async settled(): Promise<void> {
    await this.#sending;
  }

  /** Goes a change back or forth, after what is still on its way; true when there was one. */
  async step(to: "back" | "forth"): Promise<boolean> {
    await this.#send();
    const { kept } = this.store.getState();
    const last = this.#waiting.at(-1);
    if (last && to === "back" && !last.tried && kept) {
      // The server is away and has never heard of it.
      this.#waiting = this.#waiting.slice(0, -1);
      this.#dropped = [...this.#dropped, last];
      this.#takeIn(kept);
      return true;
    }
    const dropped = this.#dropped.at(-1);
    if (dropped && to === "forth") {
      this.#dropped = this.#dropped.slice(0, -1);
      this.#add(dropped);
      return true;
    }
    if (last) {
      this.#ports.onTrouble(
        "Not yet: the server cannot be reached. What you noted waits here; try again when it is saved.",
      );
      return false;
    }
    if (!kept || !(to === "back" ? kept.canUndo : kept.canRedo)) return false;
    try {
      this.#takeIn(await this.#ports.step(kept.head, to));
    } catch (error) {
      this.#ports.onTrouble(error instanceof Error ? error.message : String(error));
    }
    return true;
  }

  /** Takes in what another window has made of them. */
  async refresh(head?: string): Promise<void> {
    if (this.#closed || this.#sending || head === this.store.getState().kept?.head) return;
    await this.#ports.load().then(
      (found) => this.#takeIn(found),
      () => undefined,
    );
  }

  close(): void {
    this.#closed = true;
    this.#cancelRetry?.();
  }

  /** Newer notes of the server with what waits laid on top. */
  #takeIn(kept: PrintNotes): void {
    if (this.#closed) return;
    const notes = this.#waiting.reduce((sum, { change }) => change(sum), kept.notes);
    this.store.setState({ kept, notes });
  }

  /** Sends what waits, one after the other; asked for again meanwhile, it is the same going on. */
  #send(): Promise<void> {
    this.#sending ??= this.#sendAll().finally(() => (this.#sending = null));
    return this.#sending;
  }

  async #sendAll(): Promise<void> {
    if (this.#closed) return;
    this.#cancelRetry?.();
    try {
      while (this.#waiting.length > 0) await this.#sendFirst();
      this.store.setState({ save: "saved" });
    } catch {
      this.store.setState({ save: "away" });
      this.#cancelRetry = this.#ports.after(RETRY_MS, () => void this.#send());
    }
  }

  /** @throws when the server cannot be reached. */
  async #sendFirst(): Promise<void> {
    this.store.setState({ save: "saving" });
    const base = this.store.getState().kept ?? (await this.#ports.load());
    const [next, ...rest] = this.#waiting;
    this.#waiting = [{ ...next, tried: true }, ...rest];
    try {
      const { id, label, change } = next;
      const kept = await this.#ports.keep({ id, base: base.head, notes: change(base.notes), label });
      this.#waiting = this.#waiting.slice(1);
      this.#takeIn(kept);
    } catch (error) {
      if (error instanceof ApiError && error.code === "stale_revision") {
        this.#takeIn(await this.#ports.load());
        return;
      }
      if (isUnreachable(error)) throw error;
      this.#waiting = this.#waiting.slice(1);
      this.#takeIn(base);
      this.#ports.onTrouble(error instanceof Error ? error.message : String(error));
    }
  }
}
