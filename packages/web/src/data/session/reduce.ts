import {
  applyChanges,
  changesBetween,
  RECIPE_VERSION,
  walkRevisions,
  type PrintHistory,
  type Recipe,
  type Revision,
} from "@yelm/core";
import { leniently, mergeNotice, mergeOutbox } from "./merge.ts";
import type { EditAction, EditState, OutboxItem, RevisionItem } from "./state.ts";

/** Equal acts closer together than this become one step of undo. */
const SAME_ACT_MS = 1200;

type Catching = Pick<Extract<EditAction, { type: "caughtUp" }>, "history" | "freshId">;

/** A print as the server has it, nothing waiting. */
export function startState({ print, revisions }: PrintHistory): EditState {
  return {
    print,
    revisions: new Map(revisions.map((revision) => [revision.id, revision])),
    outbox: [],
    kept: print.recipe,
    head: print.head,
    recipe: print.recipe,
    save: "saved",
    savedAt: new Date(print.updatedAt),
    durable: true,
    notice: null,
  };
}

/** The next state of a print being edited. Pure: ids, times and the server's answers come with the action. */
export function reduce(state: EditState, action: EditAction): EditState {
  switch (action.type) {
    case "preview":
      return { ...state, recipe: action.recipe };
    case "revert":
      return { ...state, recipe: state.kept };
    case "keep":
      return keep(state, action);
    case "go":
      return go(state, action);
    case "name": {
      const { id, name, at } = action;
      const others = state.outbox.filter((item) => item.kind !== "name" || item.sealed);
      const print = { ...state.print, name };
      return { ...state, print, outbox: [...others, { kind: "name", id, name, at, sealed: false }], save: "saving" };
    }
    case "sending":
      return {
        ...state,
        save: state.save === "away" ? "away" : "saving",
        outbox: state.outbox.map((item) => (item.id === action.id ? { ...item, sealed: true } : item)),
      };
    case "sent":
      return sent(state, action);
    case "away":
      return { ...state, save: "away" };
    case "caughtUp":
      return merged(state, state.outbox, action);
    case "adopted": {
      const there = new Set(state.outbox.map(({ id }) => id));
      const items = action.items.filter(({ id }) => !there.has(id));
      return merged(state, [...items, ...state.outbox], action);
    }
    case "refused": {
      const outbox = state.outbox.filter(({ id }) => id !== action.id);
      const notice = `The last change could not be kept. ${action.reason}`;
      const revisions = new Map(state.revisions);
      revisions.delete(action.id);
      return { ...state, outbox, revisions, save: "refused", notice };
    }
    case "stored":
      return state.durable === action.durable ? state : { ...state, durable: action.durable };
    case "told":
      return { ...state, notice: action.notice };
    case "dismissed":
      return { ...state, notice: null };
  }
}

function keep(state: EditState, { id, station, label, at }: Extract<EditAction, { type: "keep" }>): EditState {
  const { recipe, kept, head, outbox, revisions } = state;
  if (changesBetween(kept, recipe).length === 0) return state;
  const last = outbox.at(-1);
  const goesOn =
    last?.kind === "revision" &&
    !last.sealed &&
    last.id === head &&
    last.label === label &&
    Date.parse(at) - Date.parse(last.at) < SAME_ACT_MS;
  if (!goesOn) return append(state, outbox, kept, { id, base: head, station, label, at });
  // The same act went on before it was sent: one revision, one undo.
  const without = new Map(revisions);
  const { inverse } = without.get(head)!;
  without.delete(head);
  const before = applyChanges(kept, inverse as RevisionItem["changes"]);
  const rest = { ...state, revisions: without };
  return append(rest, outbox.slice(0, -1), before, { id: last.id, base: last.base, station, label, at });
}

/** The state with one act more, from the recipe before it to what is shown. */
function append(
  state: EditState,
  outbox: readonly OutboxItem[],
  before: Recipe,
  act: Pick<RevisionItem, "id" | "base" | "station" | "label" | "at">,
): EditState {
  const { recipe } = state;
  const changes = changesBetween(before, recipe);
  if (changes.length === 0) return { ...state, outbox, kept: recipe, head: act.base };
  const { id, base, station, label, at } = act;
  const inverse = changesBetween(recipe, before);
  const revision: Revision = { id, parent: base, version: RECIPE_VERSION, changes, inverse, label, station, at };
  return {
    ...state,
    outbox: [...outbox, { kind: "revision", ...act, changes, sealed: false }],
    kept: recipe,
    head: id,
    revisions: new Map(state.revisions).set(id, revision),
    save: "saving",
  };
}

function go(state: EditState, { id, target, at }: Extract<EditAction, { type: "go" }>): EditState {
  const { head, kept, revisions, outbox } = state;
  if (target === head || !revisions.has(target)) return state;
  const recipe = walkRevisions(kept, head, target, revisions);
  const back = revisions.get(head)?.parent === target;
  const label = back ? `Undone: ${revisions.get(head)!.label}` : `Back to: ${revisions.get(target)!.label}`;
  const changes = changesBetween(kept, recipe);
  const item: OutboxItem = {
    kind: "head",
    id,
    base: head,
    target,
    changes,
    label: label.slice(0, 200),
    at,
    sealed: false,
  };
  return { ...state, recipe, kept: recipe, head: target, outbox: [...outbox, item], save: "saving" };
}

/** The server has taken the first of the outbox. */
function sent(state: EditState, { id, print, now }: Extract<EditAction, { type: "sent" }>): EditState {
  const outbox = state.outbox.filter((item) => item.id !== id);
  const name = outbox.findLast((item) => item.kind === "name")?.name ?? print.name;
  const save = outbox.length > 0 ? "saving" : "saved";
  return { ...state, outbox, print: { ...print, name }, save, savedAt: now };
}

/** What waits on top of what the server has; a drag under way goes on. */
function merged(state: EditState, waiting: readonly OutboxItem[], { history, freshId }: Catching): EditState {
  const { print } = history;
  const drag = changesBetween(state.kept, state.recipe);
  const result = mergeOutbox(waiting, history, freshId);
  const { outbox, kept, head } = result;
  const name = outbox.findLast((item) => item.kind === "name")?.name ?? print.name;
  return {
    ...state,
    print: { ...print, name },
    revisions: result.revisions,
    outbox,
    kept,
    head,
    recipe: leniently(kept, drag).recipe,
    save: outbox.length > 0 ? "saving" : state.save === "refused" ? "refused" : "saved",
    notice: mergeNotice(result) ?? state.notice,
  };
}
