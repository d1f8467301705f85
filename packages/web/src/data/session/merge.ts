import {
  applyChanges,
  changesBetween,
  isConflict,
  itemAt,
  listsIn,
  placeOf,
  placeWords,
  RECIPE_VERSION,
  walkRevisions,
  type Print,
  type PrintHistory,
  type Recipe,
  type RecipeChange,
  type Revision,
} from "@yelm/core";
import type { OutboxItem, RevisionItem } from "./state.ts";

/** What waits, on top of what the server has. */
export interface Merged {
  readonly outbox: readonly OutboxItem[];
  readonly revisions: ReadonlyMap<string, Revision>;
  readonly kept: Recipe;
  readonly head: string;
  /** True when something else than what waits had changed the print. */
  readonly moved: boolean;
  /** Where both had changed the same, in words, and whose counts. */
  readonly conflicts: readonly { readonly place: string; readonly winner: "mine" | "theirs" }[];
}

/** A change by somebody else, and when. */
interface Theirs {
  readonly changes: readonly RecipeChange[];
  readonly at: number;
}

/**
 * Puts what waits on top of the server's print. What fits stays as it is; what was made from another state is made anew:
 * every field and item changed by one side only is kept, and where both changed the same the later hand counts.
 * @param freshId - for what is made anew after it may have been sent.
 */
export function mergeOutbox(
  outbox: readonly OutboxItem[],
  { print, revisions: known, acts }: PrintHistory,
  freshId: () => string,
): Merged {
  const revisions = new Map(known.map((revision) => [revision.id, revision]));
  const done = new Set([...revisions.keys(), ...acts]);
  const waiting = outbox.filter(({ id }) => !done.has(id));
  const origin = originOf(outbox, done);
  const theirs = changesSince(origin, print, revisions);
  const conflicts = new Map<string, "mine" | "theirs">();
  const kept: OutboxItem[] = [];
  let recipe = print.recipe;
  let head = print.head;
  // The user's own line, from which an item that somebody took away meanwhile can be had again.
  let own =
    origin !== null && revisions.has(origin)
      ? walkRevisions(print.recipe, print.head, origin, revisions)
      : print.recipe;
  // What became of the revisions of the user's line, where it had to be made anew.
  const became = new Map<string, string>();
  let anew = origin !== null && origin !== print.head;
  if (origin !== null) became.set(origin, print.head);
  const put = (item: RevisionItem) => {
    const next = applyChanges(recipe, item.changes);
    const inverse = changesBetween(next, recipe);
    const { id, changes, label, station, at } = item;
    revisions.set(id, { id, parent: head, version: RECIPE_VERSION, changes, inverse, label, station, at });
    kept.push(item);
    recipe = next;
    head = id;
  };
  for (const item of waiting) {
    if (item.kind === "name") {
      kept.push(item);
      continue;
    }
    own = leniently(own, item.changes).recipe;
    if (item.kind === "head") {
      const target = anew ? became.get(item.target) : item.target;
      if (target === head) continue;
      const known = target !== undefined && revisions.has(target) && (became.get(item.base) ?? item.base) === head;
      const there = known ? walkRevisions(recipe, head, target, revisions) : null;
      // Only when it still does what it did: the revision may have been put on top of somebody else's since.
      if (known && there && JSON.stringify(changesBetween(recipe, there)) === JSON.stringify(item.changes)) {
        const same = target === item.target && head === item.base;
        kept.push(same ? item : { ...item, id: item.sealed ? freshId() : item.id, base: head, target, sealed: false });
        recipe = there;
        head = target;
        continue;
      }
    }
    if (item.kind === "revision" && item.base === head && fits(recipe, item.changes)) {
      put(item);
      became.set(item.id, item.id);
      continue;
    }
    anew = true;
    const wanted = item.changes.filter((change) => {
      const rival = theirs.findLast(({ changes }) => changes.some((other) => isConflict(change, other)));
      if (!rival) return true;
      const winner = rival.at > Date.parse(item.at) ? "theirs" : "mine";
      conflicts.set(placeWords(own, placeOf(change)), winner);
      return winner === "mine";
    });
    const next = leniently(recipe, wanted, own).recipe;
    const changes = changesBetween(recipe, next);
    if (changes.length > 0) {
      const { at, label } = item;
      const station = item.kind === "revision" ? item.station : "";
      const id = item.kind === "head" || item.sealed ? freshId() : item.id;
      put({ kind: "revision", id, base: head, changes, label, station, at, sealed: false });
    }
    became.set(item.kind === "revision" ? item.id : item.target, head);
  }
  const told = [...conflicts].map(([place, winner]) => ({ place, winner }));
  return { outbox: kept, revisions, kept: recipe, head, moved: theirs.length > 0, conflicts: told };
}

/** The server's revision that what waits was made from: that of the last item that is done, or the first one's base. */
function originOf(outbox: readonly OutboxItem[], done: ReadonlySet<string>): string | null {
  const steps = outbox.filter((item) => item.kind !== "name");
  const last = steps.findLast(({ id }) => done.has(id));
  if (last) return last.kind === "revision" ? last.id : last.target;
  return steps[0]?.base ?? null;
}

/** What others did to the print since a revision, oldest first. */
function changesSince(base: string | null, print: Print, revisions: ReadonlyMap<string, Revision>): Theirs[] {
  if (base === null || base === print.head || !revisions.has(base)) return [];
  const since: Revision[] = [];
  for (let id: string | null = print.head; id !== null; id = revisions.get(id)?.parent ?? null) {
    if (id === base)
      return since
        .filter((revision) => revision.version === RECIPE_VERSION)
        .map(({ changes, at }) => ({ changes: changes as readonly RecipeChange[], at: Date.parse(at) }));
    const revision = revisions.get(id);
    if (!revision) break;
    since.unshift(revision);
  }
  // The head went back, or to another branch.
  const before = walkRevisions(print.recipe, print.head, base, revisions);
  const changes = changesBetween(before, print.recipe);
  return changes.length > 0 ? [{ changes, at: Date.parse(print.updatedAt) }] : [];
}

function fits(recipe: Recipe, changes: readonly RecipeChange[]): boolean {
  return leniently(recipe, changes).missed === 0;
}

/**
 * Makes the changes that can be made; one inside an item that is gone brings the item back as `source` has it.
 */
export function leniently(
  recipe: Recipe,
  changes: readonly RecipeChange[],
  source?: Recipe,
): { readonly recipe: Recipe; readonly missed: number } {
  let at = recipe;
  let missed = 0;
  for (const wanted of changes) {
    const change = source ? anchored(wanted, at, source) : wanted;
    try {
      at = applyChanges(at, [change]);
    } catch {
      missed++;
      const lost = source && change.op !== "remove" && change.op !== "move" ? itemAt(source, placeOf(change)) : null;
      if (lost && !itemAt(at, `${lost.list}/${lost.item.id}`)) at = applyChanges(at, [{ op: "put", ...lost }]);
    }
  }
  return { recipe: at, missed };
}

/** The same with a neighbour that is there: the nearest before it in `source`, where its own has been taken away. */
function anchored(change: RecipeChange, at: Recipe, source: Recipe): RecipeChange {
  if (change.op === "set" || change.op === "remove") return change;
  const idsIn = (recipe: Recipe) =>
    listsIn(recipe)
      .find(({ path }) => path === change.list)
      ?.items.map(({ id }) => id);
  const there = new Set(idsIn(at));
  const order = idsIn(source) ?? [];
  let { after } = change;
  while (after !== null && !there.has(after)) after = order[order.indexOf(after) - 1] ?? null;
  return { ...change, after };
}

/** What the user is told after a merge; null when there is nothing to tell. */
export function mergeNotice({ moved, conflicts }: Pick<Merged, "moved" | "conflicts">): string | null {
  if (!moved) return null;
  const both = "This print was changed in another window too.";
  if (conflicts.length === 0) return `${both} Both changes are kept.`;
  const list = (winner: "mine" | "theirs") =>
    conflicts.filter((one) => one.winner === winner).map(({ place }) => place);
  const parts = [
    [list("mine"), "yours counts, it is the later"],
    [list("theirs"), "the other window’s counts, it is the later"],
  ] as const;
  const told = parts.filter(([places]) => places.length > 0).map(([places, why]) => `${places.join(", ")}: ${why}`);
  return `${both} Both changed the same: ${told.join("; ")}. All else is kept.`;
}
