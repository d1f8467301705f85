import type { Print, PrintHistory, Recipe, RecipeChange, Revision, Station } from "@yelm/core";

/** Whether what is on screen is on the server too. */
export type SaveState = "saved" | "saving" | "away" | "refused";

interface Waiting {
  /** Of the act itself: sending it twice does no harm. */
  readonly id: string;
  /** When it was done, ISO 8601. */
  readonly at: string;
  /** True once it was on its way: it may be on the server, so it is never changed any more. */
  readonly sealed: boolean;
}

/** A change of the recipe. */
export interface RevisionItem extends Waiting {
  readonly kind: "revision";
  readonly base: string;
  readonly changes: readonly RecipeChange[];
  readonly label: string;
  readonly station: string;
}

/** A step to another revision: undo, redo, the history. Should the print have moved on, its changes are made instead. */
export interface HeadItem extends Waiting {
  readonly kind: "head";
  readonly base: string;
  readonly target: string;
  readonly changes: readonly RecipeChange[];
  readonly label: string;
}

export interface NameItem extends Waiting {
  readonly kind: "name";
  readonly name: string;
}

/** One thing the server has not confirmed yet. */
export type OutboxItem = RevisionItem | HeadItem | NameItem;

/** One print being edited: what the server has, what is still on its way, and what is shown. */
export interface EditState {
  /** As the server last confirmed it, with a new name that is still on its way. */
  readonly print: Print;
  /** The server's revisions, and those still on their way. */
  readonly revisions: ReadonlyMap<string, Revision>;
  /** Oldest first. */
  readonly outbox: readonly OutboxItem[];
  /** The server's recipe with the outbox on top, and its revision. */
  readonly kept: Recipe;
  readonly head: string;
  /** What is shown: `kept` with an unfinished drag in it. */
  readonly recipe: Recipe;
  readonly save: SaveState;
  readonly savedAt: Date | null;
  /** False while this browser cannot keep what waits. */
  readonly durable: boolean;
  /** A calm line for the user: merged with another window, refused by the server. */
  readonly notice: string | null;
}

/** Everything that can happen to a print being edited. */
export type EditAction =
  | { readonly type: "preview"; readonly recipe: Recipe }
  | { readonly type: "revert" }
  /** Keeps what is shown as one act. */
  | {
      readonly type: "keep";
      readonly id: string;
      readonly station: Station;
      readonly label: string;
      readonly at: string;
    }
  | { readonly type: "go"; readonly id: string; readonly target: string; readonly at: string }
  | { readonly type: "name"; readonly id: string; readonly name: string; readonly at: string }
  /** The first of the outbox is about to be sent. */
  | { readonly type: "sending"; readonly id: string }
  | { readonly type: "sent"; readonly id: string; readonly print: Print; readonly now: Date }
  | { readonly type: "away" }
  /** The server's own state was asked for; what waits goes on top of it. */
  | { readonly type: "caughtUp"; readonly history: PrintHistory; readonly freshId: () => string }
  /** The server will never take this item. */
  | { readonly type: "refused"; readonly id: string; readonly reason: string }
  /** What a window that is gone had left. */
  | {
      readonly type: "adopted";
      readonly items: readonly OutboxItem[];
      readonly history: PrintHistory;
      readonly freshId: () => string;
    }
  | { readonly type: "stored"; readonly durable: boolean }
  | { readonly type: "told"; readonly notice: string }
  | { readonly type: "dismissed" };
