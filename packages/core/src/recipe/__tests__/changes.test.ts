import { isDeepStrictEqual } from "node:util";
import { readdirSync, readFileSync } from "node:fs";
import { describe, expect, test } from "@jest/globals";
import { Ajv } from "ajv";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { plainMove, type LightMove } from "../../parts/light/schema.ts";
import { newShape } from "../../shapes/shapes.ts";
import { applyChanges, ChangeError, changesBetween, isConflict, type RecipeChange } from "../changes.ts";
import { defaultRecipe } from "../defaults.ts";
import { listsIn, tooMany } from "../lists.ts";
import { placeWords } from "../place-words.ts";
import { applyVersioned, walkRevisions, type RevisionStep } from "../revisions.ts";
import { RECIPE_VERSION, recipeSchema, type Recipe } from "../schema.ts";
import { upgradeRecipe } from "../upgrade.ts";

const move = (id: string, stops = 0.5): LightMove => ({
  id, name: `Move ${id}`, on: true, stops, amountPercent: 100, invert: false, ...plainMove(), shape: newShape("brush", 0.4, 0.3),
}); // prettier-ignore
const withMoves = (...moves: LightMove[]): Recipe => ({
  ...defaultRecipe(),
  light: { groups: [], contours: [], moves },
});
const brush = move("b");

describe("changes by item", () => {
  test("taking away the first of three moves is one small step, whatever they hold", () => {
    const three = withMoves(move("a"), brush, move("c"));
    expect(changesBetween(three, withMoves(brush, move("c")))).toEqual([
      { op: "remove", list: "light/moves", id: "a" },
    ]);
  });
  test("a stroke more is that stroke; stops are one field; another order is one step", () => {
    const before = withMoves(move("a"), brush, move("c"));
    const stroke = { ...(brush.shape as { strokes: { id: string }[] }).strokes[0], id: "s2" };
    const longer = { ...brush, shape: { ...brush.shape, strokes: [...(brush.shape as { strokes: unknown[] }).strokes, stroke] } } as LightMove; // prettier-ignore
    expect(changesBetween(before, withMoves(move("a"), longer, move("c")))).toEqual([
      { op: "put", list: "light/moves/b/shape/strokes", item: stroke, after: "s1" },
    ]);
    expect(changesBetween(before, withMoves(move("a"), { ...brush, stops: 1 }, move("c")))).toEqual([
      { op: "set", path: "light/moves/b/stops", value: 1 },
    ]);
    expect(changesBetween(before, withMoves(move("c"), move("a"), brush))).toEqual([
      { op: "move", list: "light/moves", id: "c", after: null },
    ]);
  });
  test("another kind of shape is put whole", () => {
    const ellipse = { ...brush, shape: newShape("ellipse", 0.2, 0.2) };
    const changes = changesBetween(withMoves(brush), withMoves(ellipse));
    expect(changes).toEqual([{ op: "set", path: "light/moves/b/shape", value: ellipse.shape }]);
    expect(applyChanges(withMoves(brush), changes)).toEqual(withMoves(ellipse));
  });

  test("a thousand seeded pairs of recipes: there and back by changes, what is the same is shared", () => {
    const random = seeded(11);
    const vary = (recipe: Recipe): Recipe => {
      let { moves } = recipe.light;
      for (let i = 0; i < 3; i++) {
        const roll = random();
        const at = Math.floor(random() * moves.length);
        if (roll < 0.35) moves = [...moves.slice(0, at), move(`m${Math.floor(1e6 * random())}`), ...moves.slice(at)];
        else if (roll < 0.6) moves = moves.filter((_, k) => k !== at);
        else if (roll < 0.8) moves = moves.map((one, k) => (k === at ? { ...one, stops: random() } : one));
        else moves = [...moves].sort(() => random() - 0.5);
      }
      const exposureEv = random() < 0.5 ? random() : recipe.ground.exposureEv;
      return { ...recipe, ground: { ...recipe.ground, exposureEv }, light: { groups: [], contours: [], moves } };
    };
    let recipe = withMoves(move("a"), move("b"), move("c"));
    for (let i = 0; i < 1000; i++) {
      const next = vary(recipe);
      const forth = applyChanges(recipe, changesBetween(recipe, next));
      const back = applyChanges(next, changesBetween(next, recipe));
      expect([i, isDeepStrictEqual(forth, next), isDeepStrictEqual(back, recipe)]).toEqual([i, true, true]);
      expect(forth.weigh).toBe(recipe.weigh);
      recipe = next;
    }
  });

  test.each<[string, RecipeChange]>([
    ["a field there is not", { op: "set", path: "weigh/violet", value: 1 }],
    ["what every object inherits", { op: "set", path: "weigh/constructor/prototype", value: 1 }],
    ["the version", { op: "set", path: "version", value: 1 }],
    ["an item there is not", { op: "set", path: "light/moves/zz/stops", value: 1 }],
    ["a list of plain values", { op: "remove", list: "shape/curve", id: "a" }],
    ["an item without an id", { op: "put", list: "light/moves", item: {} as never, after: null }],
  ])("%s is refused", (_name, change) => {
    expect(() => applyChanges(withMoves(brush), [change])).toThrow(ChangeError);
  });

  test("two changes conflict when they are about the same field, or one takes away what the other changes", () => {
    const set = (path: string): RecipeChange => ({ op: "set", path, value: 1 });
    const remove: RecipeChange = { op: "remove", list: "light/moves", id: "b" };
    expect(isConflict(set("ground/exposureEv"), set("ground/exposureEv"))).toBe(true);
    expect(isConflict(set("ground/exposureEv"), set("ground/calm"))).toBe(false);
    expect(isConflict(set("light/moves/b/stops"), remove)).toBe(true);
    expect(isConflict(set("light/moves/bb/stops"), remove)).toBe(false);
    expect(isConflict(set("light/moves/b/stops"), set("light/moves/b/on"))).toBe(false);
  });
});

describe("lists and places", () => {
  test("every list tells what it may hold; one more is a sentence", () => {
    const recipe = withMoves(...Array.from({ length: 64 }, (_, i) => move(`m${i}`)));
    expect(listsIn(recipe).find(({ path }) => path === "light/moves")).toMatchObject({ most: 64, noun: "light moves" });
    expect(tooMany(recipe)).toBeNull();
    expect(tooMany({ ...recipe, light: { groups: [], contours: [], moves: [...recipe.light.moves, move("x")] } })).toBe(
      "There is room for 64 light moves, and they are all in use. Take one away first.",
    );
    const limits = new Map(
      listsIn(everyList()).map(({ path, most, noun }) => [path.replace(/\/(a|b)\//, "/*/"), [most, noun]]),
    );
    expect(Object.fromEntries(limits)).toEqual({
      "finish/tables": [2, "tone tables"],
      "ground/clean": [400, "mended places"],
      "weigh/families": [12, "colour families"],
      "weigh/areas": [16, "areas"],
      "shape/spots": [24, "spots"],
      "weigh/areas/*/shape/strokes": [500, "strokes in one brush"],
      "light/contours": [200, "lines of the contour plan"],
      "light/groups": [16, "groups of light moves"],
      "light/moves": [64, "light moves"],
      "light/moves/*/shape/strokes": [500, "strokes in one brush"],
    });
  });
  test("places have words", () => {
    expect(placeWords(withMoves(brush), "light/moves/b/stops")).toBe("stops of Move b");
    expect(placeWords(withMoves(brush), "ground/exposureEv")).toBe("exposure");
    expect(placeWords(withMoves(brush), "light/moves/b")).toBe("Move b");
  });
});

function everyList(): Recipe {
  const recipe = withMoves(brush);
  const { by, red, green, blue, film } = recipe.weigh;
  const area = {
    id: "a",
    name: "Area",
    on: true,
    invert: false,
    shape: newShape("brush", 0.5, 0.3),
    by,
    red,
    green,
    blue,
    film,
  };
  return { ...recipe, weigh: { ...recipe.weigh, areas: [area] } };
}

describe("recipes of every version so far", () => {
  const folder = new URL("versions/", import.meta.url);
  const files = readdirSync(folder).sort();
  const validate = new Ajv({ strict: false }).compile(recipeSchema);

  test("there is one of each", () => {
    expect([...files].sort()).toEqual(
      Array.from({ length: RECIPE_VERSION - 1 }, (_, i) => `recipe-v${i + 1}.json`).sort(),
    );
  });
  test.each(files)("%s opens, and says what it said", (file) => {
    const old = JSON.parse(readFileSync(new URL(file, folder), "utf8")) as Record<string, unknown>;
    const upgraded = upgradeRecipe(old) as Recipe;
    expect([validate(upgraded), validate.errors]).toEqual([true, null]);
    // Whatever was said is as it was, in lists and shapes too; only the version and what has come since are new.
    expect(upgraded).toMatchObject({ ...old, version: RECIPE_VERSION });
  });
  test("an old stroke gets an id that no other has", () => {
    const strokes = [{ id: "s1", radius: 0.1 }, { radius: 0.2 }, { radius: 0.3 }];
    const shape = { kind: "brush", strokes };
    const upgraded = upgradeRecipe({ ...withMoves({ ...brush, shape } as never), version: 5 }) as Recipe;
    const [{ shape: after }] = upgraded.light.moves;
    expect((after as typeof shape).strokes.map(({ id }) => id)).toEqual(["s1", "s2", "s3"]);
  });
});

describe("revisions", () => {
  test("old JSON patches and new changes are walked over in one go, both ways", () => {
    const root = withMoves(brush);
    const patched = applyVersioned(root, {
      version: 5,
      changes: [
        { op: "replace", path: "/light/moves/0/stops", value: 2 },
        { op: "replace", path: "/ground/exposureEv", value: 1 },
      ],
    });
    expect([patched.light.moves[0].stops, patched.ground.exposureEv, patched.version]).toEqual([2, 1, RECIPE_VERSION]);
    const next = { ...patched, light: { groups: [], contours: [], moves: [] } };
    const steps = new Map<string, RevisionStep>([
      ["root", { parent: null, version: 5, changes: [], inverse: [] }],
      ["old", { parent: "root", version: 5, changes: [{ op: "replace", path: "/light/moves/0/stops", value: 2 }, { op: "replace", path: "/ground/exposureEv", value: 1 }], inverse: [{ op: "replace", path: "/light/moves/0/stops", value: 0.5 }, { op: "replace", path: "/ground/exposureEv", value: 0 }] }],
      ["new", { parent: "old", version: RECIPE_VERSION, changes: changesBetween(patched, next), inverse: changesBetween(next, patched) }],
    ]); // prettier-ignore
    expect(walkRevisions(next, "new", "root", steps)).toEqual(root);
    expect(walkRevisions(root, "root", "new", steps)).toEqual(next);
    expect(() => walkRevisions(root, "root", "nowhere", steps)).toThrow(RangeError);
    expect(() => applyVersioned(root, { version: 5, changes: [{ op: "remove", path: "/light/moves/7" }] })).toThrow(
      ChangeError,
    );
  });
});
