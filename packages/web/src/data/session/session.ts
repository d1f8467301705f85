import { changesBetween, tooMany, type Print, type PrintHistory, type Recipe, type Station } from "@yelm/core";
import { createStore } from "zustand/vanilla";
import { SendError, type ClockPort, type OutboxPort, type ServerPort } from "./ports.ts";
import { reduce, startState } from "./reduce.ts";
import type { EditAction, EditState } from "./state.ts";

const SEND_DELAY_MS = 350;
const RETRY_MS = { first: 2000, most: 15_000 } as const;

export interface SessionPorts {
  readonly server: ServerPort;
  readonly outbox: OutboxPort;
  readonly clock: ClockPort;
  /** Told whenever nothing waits any more. */
  readonly onSaved?: () => void;
}

/**
 * Opens a print for editing: the server's state with unsent edits of an earlier visit on top.
 * @throws {SendError} when there is no such print, or no server.
 */
export async function openSession(ports: SessionPorts): Promise<EditSession> {
  // First what waits, then the server: something that is sent meanwhile is seen in what the server has.
  const waiting = await ports.outbox.open().catch(() => []);
  const history = await ports.server.load();
  const session = new EditSession(startState(history), ports);
  if (waiting.length > 0) session.adopt(waiting, history);
  return session;
}

/** One print being edited. Everything that happens to it is an action through one reducer; here are only its effects. */
export class EditSession {
  readonly store;
  readonly #ports: SessionPorts;
  #cancelTimer: (() => void) | null = null;
  #sending: Promise<void> | null = null;
  #writing: Promise<void> = Promise.resolve();
  #retryMs: number = RETRY_MS.first;
  #closed = false;
  #imagined: Recipe | null = null;

  constructor(start: EditState, ports: SessionPorts) {
    this.#ports = ports;
    this.store = createStore<EditState>(() => start);
  }

  /** What the print would be after some changes, none of which is shown or kept. */
  imagine(work: () => void): Recipe {
    const outer = this.#imagined;
    this.#imagined = this.store.getState().recipe;
    try {
      work();
      return this.#imagined;
    } finally {
      this.#imagined = outer;
    }
  }

  /** Shows a change without keeping it, as during a drag. One that there is no room for is refused with a sentence. */
  preview(change: (recipe: Recipe) => Recipe): void {
    if (this.#imagined) {
      this.#imagined = change(this.#imagined);
      return;
    }
    const { recipe } = this.store.getState();
    const next = change(recipe);
    const full = tooMany(next);
    if (full && !tooMany(recipe)) this.#dispatch({ type: "told", notice: full });
    else this.#dispatch({ type: "preview", recipe: next });
  }

  /** Keeps what is shown as one act. */
  commit(station: Station, label: string): void {
    if (this.#imagined) return;
    this.#act({ type: "keep", id: this.#ports.clock.newId(), station, label, at: this.#now() });
  }

  /** Changes and keeps in one go. */
  change(station: Station, label: string, change: (recipe: Recipe) => Recipe): void {
    this.preview(change);
    this.commit(station, label);
  }

  /** Drops an unfinished drag. */
  revert(): void {
    this.#dispatch({ type: "revert" });
  }

  undo(): void {
    const { head, revisions } = this.store.getState();
    const parent = revisions.get(head)?.parent;
    if (parent) this.goTo(parent);
  }

  /** What takes back the act that was just done; once something else was done it says so and leaves that alone. */
  takeBack(): () => void {
    const { head } = this.store.getState();
    return () => {
      if (this.store.getState().head === head) this.undo();
      else
        this.#dispatch({
          type: "told",
          notice: "Something else was done since; the ticket's history goes back to it.",
        });
    };
  }

  /** Goes forward to the newest change that was made from here. */
  redo(): void {
    const { head, revisions } = this.store.getState();
    const next = [...revisions.values()].findLast((revision) => revision.parent === head);
    if (next) this.goTo(next.id);
  }

  canUndo(): boolean {
    const { head, revisions } = this.store.getState();
    return Boolean(revisions.get(head)?.parent);
  }

  canRedo(): boolean {
    const { head, revisions } = this.store.getState();
    return [...revisions.values()].some((revision) => revision.parent === head);
  }

  /** Goes to any earlier or later state of this print. */
  goTo(target: string): void {
    this.#act({ type: "go", id: this.#ports.clock.newId(), target, at: this.#now() });
  }

  rename(name: string): void {
    this.#act({ type: "name", id: this.#ports.clock.newId(), name, at: this.#now() });
  }

  dismissNotice(): void {
    this.#dispatch({ type: "dismissed" });
  }

  /** Takes over what a window that is gone had left. */
  adopt(items: EditState["outbox"], history: PrintHistory): void {
    this.#act({ type: "adopted", items, history, freshId: this.#ports.clock.newId });
  }

  /**
   * Looks whether the print was changed elsewhere, and takes it in.
   * @param told - what the print is said to be: when it is that already, nothing is asked.
   */
  async refresh(told?: Pick<Print, "head" | "name">): Promise<void> {
    if (this.#closed) return;
    await this.#flush();
    const { print } = this.store.getState();
    if (told?.head === print.head && told.name === print.name) return;
    const found = await this.#ports.server.load().catch(() => null);
    if (!found || this.#closed || (found.print.head === print.head && found.print.name === print.name)) return;
    // Something sent meanwhile has brought its own answer.
    if (this.store.getState().print !== print) return;
    this.#act({ type: "caughtUp", history: found, freshId: this.#ports.clock.newId });
  }

  /** Sends at once what is waiting to be sent. */
  async sendAll(): Promise<void> {
    this.#unschedule();
    await this.#flush();
  }

  /** Sends what is left, once, and stops. What could not be sent waits in the browser. */
  async close(): Promise<void> {
    await this.sendAll();
    this.#closed = true;
    this.#unschedule();
    await this.#writing;
  }

  #now(): string {
    return this.#ports.clock.now().toISOString();
  }

  #dispatch(action: EditAction): void {
    this.store.setState((state) => reduce(state, action), true);
  }

  /** An action that may put something into the outbox. */
  #act(action: EditAction): void {
    const { outbox } = this.store.getState();
    this.#dispatch(action);
    if (this.store.getState().outbox === outbox) return;
    void this.#store();
    this.#schedule(SEND_DELAY_MS);
  }

  /** Writes the outbox as it is; one write after the other, so that the last one counts. */
  #store(): Promise<void> {
    this.#writing = this.#writing.then(async () => {
      try {
        await this.#ports.outbox.write(this.store.getState().outbox);
        this.#dispatch({ type: "stored", durable: true });
      } catch {
        this.#dispatch({ type: "stored", durable: false });
      }
    });
    return this.#writing;
  }

  #schedule(ms: number): void {
    this.#unschedule();
    if (this.#closed || this.store.getState().outbox.length === 0) return;
    this.#cancelTimer = this.#ports.clock.after(ms, () => {
      this.#cancelTimer = null;
      void this.#flush();
    });
  }

  #unschedule(): void {
    this.#cancelTimer?.();
    this.#cancelTimer = null;
  }

  async #flush(): Promise<void> {
    if (this.#closed) return;
    this.#sending ??= this.#send().finally(() => (this.#sending = null));
    await this.#sending;
  }

  async #send(): Promise<void> {
    const { server } = this.#ports;
    for (;;) {
      const [item] = this.store.getState().outbox;
      if (!item) break;
      // Sealed before it goes, also in the browser's store: from now on the server may have it.
      this.#dispatch({ type: "sending", id: item.id });
      await this.#store();
      try {
        const print = await server.send(item);
        this.#dispatch({ type: "sent", id: item.id, print, now: this.#ports.clock.now() });
        if (isBehind(this.store.getState())) await this.#catchUp();
        this.#retryMs = RETRY_MS.first;
      } catch (error) {
        if (!(await this.#recover(item.id, error))) return;
      }
      await this.#store();
    }
    this.#ports.onSaved?.();
  }

  /** @returns whether to go on sending. */
  async #recover(id: string, error: unknown): Promise<boolean> {
    const failure = error instanceof SendError ? error.failure : ({ kind: "away" } as const);
    try {
      if (failure.kind === "never" || failure.kind === "stale") {
        await this.#catchUp(() => {
          if (failure.kind === "never") this.#dispatch({ type: "refused", id, reason: failure.reason });
        });
        return true;
      }
    } catch {
      // The server went away while it was asked how things stand; what waits is as it was.
    }
    if (failure.kind === "gone") this.#dispatch({ type: "told", notice: `${failure.reason} What you did waits here.` });
    this.#dispatch({ type: "away" });
    this.#schedule(this.#retryMs);
    this.#retryMs = Math.min(RETRY_MS.most, 2 * this.#retryMs);
    return false;
  }

  /** @param first - runs once the server's state is there, so that what is shown never stands between the two. */
  async #catchUp(first?: () => void): Promise<void> {
    const history = await this.#ports.server.load();
    first?.();
    this.#dispatch({ type: "caughtUp", history, freshId: this.#ports.clock.newId });
  }
}

/** True when the server's answer shows that the print was changed elsewhere too: what is shown does not follow from it. */
function isBehind({ outbox, print, kept, head }: EditState): boolean {
  const next = outbox.find((item) => item.kind !== "name");
  if (next) return next.base !== print.head;
  return print.head !== head || changesBetween(print.recipe, kept).length > 0;
}
