import { defaultNotes, type Notes, type PrintNotes } from "@yelm/core";
import { createStore } from "zustand/vanilla";
import { ApiError, isUnreachable } from "../api.ts";

/** How the notes are kept; the page gives what talks to the server. */
export interface NotesPorts {
  readonly load: () => Promise<PrintNotes>;
  readonly keep: (change: { id: string; base: string; notes: Notes; label: string }) => Promise<PrintNotes>;
  readonly step: (base: string, to: "back" | "forth") => Promise<PrintNotes>;
  readonly newId: () => string;
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
}

const RETRY_MS = 3000;

/** What stands beside one print: shown at once, kept one change after the other. Changes are functions, so that they can be laid on newer notes. */
export class NotesSession {
  readonly store = createStore<NotesState>(() => ({ notes: defaultNotes(), kept: null, save: "saved" }));
  readonly #ports: NotesPorts;
  #waiting: readonly Waiting[] = [];
  #sending = false;
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
    this.#waiting = [...this.#waiting, { id: this.#ports.newId(), label, change }];
    this.store.setState(({ notes }) => ({ notes: change(notes) }));
    void this.#send();
  }

  /** Goes a change back or forth; true when there was one. */
  async step(to: "back" | "forth"): Promise<boolean> {
    await this.#send();
    const { kept } = this.store.getState();
    if (!kept || this.#waiting.length > 0 || !(to === "back" ? kept.canUndo : kept.canRedo)) return false;
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

  async #send(): Promise<void> {
    if (this.#sending || this.#closed) return;
    this.#sending = true;
    this.#cancelRetry?.();
    try {
      for (;;) {
        const [next] = this.#waiting;
        if (!next) break;
        this.store.setState({ save: "saving" });
        const base = this.store.getState().kept ?? (await this.#ports.load());
        const notes = next.change(base.notes);
        try {
          const kept = await this.#ports.keep({ id: next.id, base: base.head, notes, label: next.label });
          this.#waiting = this.#waiting.slice(1);
          this.#takeIn(kept);
        } catch (error) {
          if (error instanceof ApiError && error.code === "stale_revision") {
            this.#takeIn(await this.#ports.load());
            continue;
          }
          if (isUnreachable(error)) throw error;
          this.#waiting = this.#waiting.slice(1);
          this.#takeIn(base);
          this.#ports.onTrouble(error instanceof Error ? error.message : String(error));
        }
      }
      this.store.setState({ save: "saved" });
    } catch {
      this.store.setState({ save: "away" });
      this.#cancelRetry = this.#ports.after(RETRY_MS, () => void this.#send());
    } finally {
      this.#sending = false;
    }
  }
}
