import { RECIPE_PARTS, type PatchOperation, type Print, type Recipe, type Revision, type Station } from "@yelm/core";
import jsonPatch from "fast-json-patch";
import { createStore } from "zustand/vanilla";
import { api, ApiError, isUnreachable } from "./api.ts";
import { readOutbox, writeOutbox, type OutboxItem } from "./outbox.ts";
import { negativeQuery, queryClient } from "./queries.ts";

/** Whether what is on screen is on the server too. */
export type SaveState = "saved" | "saving" | "away" | "refused";

/** One print being edited: what is shown, what is kept, and what is still on its way. */
export interface EditState {
  readonly print: Print;
  /** What is shown, with an unfinished drag in it. */
  readonly recipe: Recipe;
  /** What the head revision is. */
  readonly kept: Recipe;
  readonly head: string;
  readonly revisions: ReadonlyMap<string, Revision>;
  readonly save: SaveState;
  readonly savedAt: Date | null;
  /** A calm line for the user: merged with another window, refused by the server. */
  readonly notice: string | null;
}

const SEND_DELAY_MS = 350;
const RETRY_MS = 2000;
/** Equal acts closer together than this become one step of undo. */
const SAME_ACT_MS = 1200;

/**
 * Opens a print for editing: the server's state with unsent edits of an earlier visit on top.
 * @throws {ApiError} when there is no such print.
 */
export async function openEditSession(printId: string): Promise<EditSession> {
  const [print, revisions, outbox] = await Promise.all([
    api<Print>(`/prints/${printId}`).then((found) => {
      void queryClient.prefetchQuery(negativeQuery(found.negativeId));
      return found;
    }),
    api<Revision[]>(`/prints/${printId}/revisions`),
    readOutbox(printId),
  ]);
  return new EditSession(print, revisions, outbox);
}

export class EditSession {
  readonly store;
  #outbox: OutboxItem[];
  #timer: ReturnType<typeof setTimeout> | undefined;
  #sending: Promise<void> | null = null;
  #inFlight = false;
  #closed = false;

  constructor(print: Print, revisions: readonly Revision[], outbox: OutboxItem[]) {
    this.#outbox = outbox;
    this.store = createStore<EditState>(() => ({
      print,
      recipe: print.recipe,
      kept: print.recipe,
      head: print.head,
      revisions: new Map(revisions.map((revision) => [revision.id, revision])),
      save: "saved",
      savedAt: new Date(print.updatedAt),
      notice: null,
    }));
    this.#replayOutbox();
    if (outbox.length > 0) this.#schedule(0);
  }

  /** Shows a change without keeping it, as during a drag. */
  preview(change: (recipe: Recipe) => Recipe): void {
    this.store.setState(({ recipe }) => ({ recipe: change(recipe) }));
  }

  /** Keeps what is shown as one act. */
  commit(station: Station, label: string): void {
    const { recipe, kept, head, revisions } = this.store.getState();
    const patch = jsonPatch.compare(kept, recipe) as PatchOperation[];
    if (patch.length === 0) return;
    const last = this.#outbox.at(-1);
    const previous = revisions.get(head);
    const merges =
      last?.kind === "revision" &&
      last.revision.id === head &&
      last.revision.label === label &&
      !(this.#inFlight && this.#outbox.length === 1) &&
      previous !== undefined &&
      Date.now() - Date.parse(previous.at) < SAME_ACT_MS;
    if (merges) this.#extendLast(patch);
    else this.#append(station, label, patch);
  }

  /** Changes and keeps in one go. */
  change(station: Station, label: string, change: (recipe: Recipe) => Recipe): void {
    this.preview(change);
    this.commit(station, label);
  }

  /** Drops an unfinished drag. */
  revert(): void {
    this.store.setState(({ kept }) => ({ recipe: kept }));
  }

  undo(): void {
    const { head, revisions } = this.store.getState();
    const parent = revisions.get(head)?.parent;
    if (parent) this.goTo(parent);
  }

  /** Goes forward to the newest change that was made from here. */
  redo(): void {
    const { head, revisions } = this.store.getState();
    const next = [...revisions.values()].filter((revision) => revision.parent === head).at(-1);
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
    const { head, kept, revisions } = this.store.getState();
    if (target === head || !revisions.has(target)) return;
    const recipe = walk(kept, head, target, revisions);
    this.store.setState({ recipe, kept: recipe, head: target });
    this.#put([...this.#outbox, { kind: "head", base: head, target }]);
  }

  dismissNotice(): void {
    this.store.setState({ notice: null });
  }

  rename(name: string): void {
    this.store.setState(({ print }) => ({ print: { ...print, name } }));
    void api(`/prints/${this.store.getState().print.id}`, { method: "PATCH", body: { name } });
  }

  /** Sends at once what is waiting to be sent. */
  async sendAll(): Promise<void> {
    clearTimeout(this.#timer);
    await this.#flush();
  }

  /** Sends what is left and stops trying. */
  async close(): Promise<void> {
    await this.sendAll();
    this.#closed = true;
  }

  #append(station: Station, label: string, patch: PatchOperation[]): void {
    const { recipe, kept, head, revisions } = this.store.getState();
    const id = crypto.randomUUID();
    const inverse = jsonPatch.compare(recipe, kept) as PatchOperation[];
    const revision: Revision = { id, parent: head, patch, inverse, label, station, at: new Date().toISOString() };
    this.store.setState({ kept: recipe, head: id, revisions: new Map(revisions).set(id, revision) });
    this.#put([...this.#outbox, { kind: "revision", revision: { id, base: head, patch, label, station } }]);
  }

  /** The same act went on before it was sent: one revision, one undo. */
  #extendLast(patch: PatchOperation[]): void {
    const { recipe, kept, head, revisions } = this.store.getState();
    const old = revisions.get(head)!;
    const before = apply(kept, old.inverse);
    const whole = jsonPatch.compare(before, recipe) as PatchOperation[];
    const inverse = jsonPatch.compare(recipe, before) as PatchOperation[];
    if (whole.length === 0) {
      this.#append(old.station as Station, old.label, patch);
      return;
    }
    const revision = { ...old, patch: whole, inverse, at: new Date().toISOString() };
    this.store.setState({ kept: recipe, revisions: new Map(revisions).set(head, revision) });
    const last = this.#outbox.at(-1) as Extract<OutboxItem, { kind: "revision" }>;
    this.#put([...this.#outbox.slice(0, -1), { ...last, revision: { ...last.revision, patch: whole } }]);
  }

  #put(items: OutboxItem[]): void {
    this.#outbox = items;
    this.store.setState({ save: "saving" });
    void writeOutbox(this.store.getState().print.id, items);
    this.#schedule(SEND_DELAY_MS);
  }

  #schedule(delay: number): void {
    clearTimeout(this.#timer);
    if (!this.#closed) this.#timer = setTimeout(() => void this.#flush(), delay);
  }

  async #flush(): Promise<void> {
    this.#sending ??= this.#send().finally(() => (this.#sending = null));
    await this.#sending;
  }

  async #send(): Promise<void> {
    const { id } = this.store.getState().print;
    while (this.#outbox.length > 0) {
      const [item] = this.#outbox;
      try {
        this.#inFlight = true;
        const print = await post(id, item);
        this.#outbox = this.#outbox.slice(1);
        await writeOutbox(id, this.#outbox);
        this.store.setState({ print, savedAt: new Date() });
      } catch (error) {
        if (isUnreachable(error)) {
          this.store.setState({ save: "away" });
          this.#schedule(RETRY_MS);
          return;
        }
        await this.#recover(error as ApiError);
      } finally {
        this.#inFlight = false;
      }
    }
    if (this.store.getState().save !== "refused") this.store.setState({ save: "saved" });
    void queryClient.invalidateQueries({ queryKey: ["prints"] });
  }

  /** The print moved on elsewhere, or the server refused: keep what the user sees, on top of what the server has. */
  async #recover(error: ApiError): Promise<void> {
    const { id } = this.store.getState().print;
    const [print, revisions] = await Promise.all([
      api<Print>(`/prints/${id}`),
      api<Revision[]>(`/prints/${id}/revisions`),
    ]);
    const { recipe: mine, revisions: known } = this.store.getState();
    const base = ancestorRecipe(mine, this.store.getState().head, this.#outbox, known);
    const stale = error.code === "stale_revision";
    const merged = stale ? mergeParts(base, mine, print.recipe) : print.recipe;
    this.#outbox = [];
    await writeOutbox(id, []);
    this.store.setState({
      print,
      recipe: merged,
      kept: print.recipe,
      head: print.head,
      revisions: new Map(revisions.map((revision) => [revision.id, revision])),
      save: stale ? "saving" : "refused",
      notice: stale
        ? "This print was changed in another window too. Both changes are kept; where both touched one station, yours counts."
        : `The last change could not be kept. ${error.message}`,
    });
    if (stale) this.commit("Ground", "Merged with another window");
  }

  /** Puts unsent edits of an earlier visit back on top, as long as they fit. */
  #replayOutbox(): void {
    for (const item of this.#outbox) {
      const { kept, head, revisions } = this.store.getState();
      if (item.kind === "head") {
        if (item.base === head && revisions.has(item.target)) {
          const recipe = walk(kept, head, item.target, revisions);
          this.store.setState({ recipe, kept: recipe, head: item.target, save: "saving" });
        }
        continue;
      }
      const { id, base, patch, label, station } = item.revision;
      if (base !== head || revisions.has(id)) continue;
      const recipe = apply(kept, patch);
      const inverse = jsonPatch.compare(recipe, kept) as PatchOperation[];
      const revision: Revision = { id, parent: head, patch, inverse, label, station, at: new Date().toISOString() };
      const next = new Map(revisions).set(id, revision);
      this.store.setState({ recipe, kept: recipe, head: id, save: "saving", revisions: next });
    }
  }
}

function post(printId: string, item: OutboxItem): Promise<Print> {
  return item.kind === "revision"
    ? api<Print>(`/prints/${printId}/revisions`, { method: "POST", body: item.revision })
    : api<Print>(`/prints/${printId}/head`, { method: "POST", body: { base: item.base, target: item.target } });
}

/** The recipe at `target`, reached from the recipe at `head` through their common ancestor. */
function walk(recipe: Recipe, head: string, target: string, revisions: ReadonlyMap<string, Revision>): Recipe {
  const above = new Set<string>();
  for (let id: string | null = head; id; id = revisions.get(id)?.parent ?? null) above.add(id);
  const forward: Revision[] = [];
  let meeting = target;
  while (!above.has(meeting)) {
    const revision = revisions.get(meeting)!;
    forward.unshift(revision);
    meeting = revision.parent!;
  }
  let at = recipe;
  for (let id = head; id !== meeting; id = revisions.get(id)!.parent!) at = apply(at, revisions.get(id)!.inverse);
  return forward.reduce((current, { patch }) => apply(current, patch), at);
}

/** What the user's unsent edits were made from. */
function ancestorRecipe(
  mine: Recipe,
  head: string,
  outbox: readonly OutboxItem[],
  known: ReadonlyMap<string, Revision>,
) {
  const first = outbox[0];
  const base = first?.kind === "revision" ? first.revision.base : first?.base;
  return base && known.has(base) ? walk(mine, head, base, known) : mine;
}

/** Parts that the user changed since `base` are theirs, all others the server's. */
function mergeParts(base: Recipe, mine: Recipe, theirs: Recipe): Recipe {
  const merged = { ...theirs };
  for (const part of RECIPE_PARTS)
    if (jsonPatch.compare(base[part], mine[part]).length > 0) Object.assign(merged, { [part]: mine[part] });
  return merged;
}

function apply(recipe: Recipe, patch: readonly PatchOperation[]): Recipe {
  return jsonPatch.applyPatch(jsonPatch.deepClone(recipe), [...patch] as never[], false, true).newDocument as Recipe;
}
