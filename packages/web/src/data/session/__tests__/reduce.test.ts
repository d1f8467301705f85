import { expect, test } from "@jest/globals";
import {
  applyChanges,
  changesBetween,
  defaultRecipe,
  RECIPE_VERSION,
  type Print,
  type Recipe,
  type RecipeChange,
} from "@yelm/core";
import { reduce, startState } from "../reduce.ts";
import type { EditState } from "../state.ts";

const AT = (second: number) => new Date(Date.UTC(2026, 0, 1, 12, 0, second)).toISOString();
let made = 0;
const freshId = () => `fresh-${++made}`;

function opened(): EditState {
  const recipe = defaultRecipe();
  const print = { id: "p", negativeId: "n", name: "Print", head: "r0", recipe, updatedAt: AT(0) } as unknown as Print;
  const first = { id: "r0", parent: null, version: RECIPE_VERSION, changes: [], inverse: [], label: "New", station: "ground", at: AT(0) }; // prettier-ignore
  return startState({ print, revisions: [first], acts: [] });
}

function kept(state: EditState, id: string, second: number, change: (recipe: Recipe) => Recipe, label = id): EditState {
  const shown = reduce(state, { type: "preview", recipe: change(state.recipe) });
  return reduce(shown, { type: "keep", id, station: "Shape", label, at: AT(second) });
}

/** What the server tells after somebody else's change. */
function history(state: EditState, id: string, second: number, change: (recipe: Recipe) => Recipe) {
  const before = defaultRecipe();
  const recipe = change(before);
  const changes = changesBetween(before, recipe);
  const revision = { id, parent: "r0", version: RECIPE_VERSION, changes, inverse: changesBetween(recipe, before), label: id, station: "shape", at: AT(second) }; // prettier-ignore
  return {
    print: { ...state.print, recipe, head: id },
    revisions: [...opened().revisions.values(), revision],
    acts: [],
  } as Parameters<typeof startState>[0];
}

const grade = (value: number) => (recipe: Recipe) => ({ ...recipe, shape: { ...recipe.shape, grade: value } });
const black = (value: number) => (recipe: Recipe) => ({ ...recipe, shape: { ...recipe.shape, blackPoint: value } });

test("one act that goes on is one revision and one undo; what was sent is never changed any more", () => {
  let state = kept(opened(), "a", 1, grade(2.5), "Grade");
  state = kept(state, "b", 2, grade(3), "Grade");
  expect(state.outbox.map(({ id }) => id)).toEqual(["a"]);
  expect(applyChanges(state.kept, state.revisions.get("a")!.inverse as RecipeChange[]).shape.grade).toBe(2);
  state = reduce(state, { type: "sending", id: "a" });
  state = kept(state, "c", 2, grade(3.5), "Grade");
  expect(state.outbox.map(({ id }) => id)).toEqual(["a", "c"]);
  expect(applyChanges(state.kept, state.revisions.get("c")!.inverse as RecipeChange[]).shape.grade).toBe(3);
});

test("two windows that change different fields of one station both win, and nobody is told of a conflict", () => {
  const state = kept(opened(), "mine", 1, grade(3));
  const caught = reduce(state, { type: "caughtUp", history: history(state, "theirs", 2, black(-6)), freshId });
  expect([caught.recipe.shape.grade, caught.recipe.shape.blackPoint]).toEqual([3, -6]);
  expect(caught.outbox).toHaveLength(1);
  expect(caught.notice ?? "").not.toMatch(/grade/i);
});

test.each([
  ["mine is later", 5, 3],
  ["theirs is later", 1, 4],
])("the same field: the later hand counts (%s), and the notice names it", (_, second, wins) => {
  const state = kept(opened(), "mine", second, grade(3));
  const caught = reduce(state, { type: "caughtUp", history: history(state, "theirs", 3, grade(4)), freshId });
  expect(caught.recipe.shape.grade).toBe(wins);
  expect(caught.notice).toMatch(/grade/i);
});

test("a change that is refused leaves, what came after it stays", () => {
  let state = kept(opened(), "bad", 1, grade(3));
  state = kept(state, "good", 9, black(-6));
  state = reduce(state, { type: "refused", id: "bad", reason: "It does not fit." });
  expect(state.outbox.map(({ id }) => id)).toEqual(["good"]);
  expect(state.notice).toContain("It does not fit.");
});
