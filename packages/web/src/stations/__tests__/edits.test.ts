import { describe, expect, test } from "@jest/globals";
import {
  defaultRecipe,
  frameOf,
  newFamily,
  HIGHEST_COUNTED,
  LOWEST_COUNTED,
  printZone,
  stopsToLight,
  STRAIGHT_CURVE,
  toneCurve,
  wholeCrop,
  type Negative,
  cropToRatio,
  fitCrop,
} from "@yelm/core";
import { parseAmount } from "../../controls/parse-amount.ts";
import { FIT, frameToPane, paneToFrame, place } from "../../picture/placement.ts";
import { addArea, changeArea, removeArea, placeArea } from "../weigh/area-edits.ts";
import { movePoint, placeRung, removePoint, setPoint } from "../../instruments/curve-edits.ts";
import { addPicked, changeFamily, mergeTwo, splitInTwo } from "../weigh/family-edits.ts";
import { zoneNumeral, zoneThirds } from "../../controls/formats.ts";
import {
  addOpposite,
  changeMove,
  duplicateMove,
  groupMove,
  newMove,
  placeMove,
  removeMove,
  withMove,
} from "../light/edits.ts";
import { changePart, partInHand, withoutPart, withPart } from "../../shapes/joined-parts.ts";
import { pointsFor } from "../shape/points.ts";
import { easing } from "../weigh/easing.ts";
import { moveWeight } from "../weigh/weight-edits.ts";

test("amounts are read as people type them", () => {
  const typed = {
    "0.5": 0.5,
    "−1,25": -1.25,
    "+1/3": 1 / 3,
    "-1 1/3": -4 / 3,
    "1⅓": 4 / 3,
    "½": 0.5,
    "12 %": 12,
    ".5": 0.5,
    "3°": 3,
  };
  for (const [text, value] of Object.entries(typed))
    expect([text, parseAmount(text)]).toEqual([text, expect.closeTo(value, 9)]);
  for (const text of ["", "abc", "1/0", "--2", "1e5", ".", "+"])
    expect([text, parseAmount(text)]).toEqual([text, null]);
});

describe("what is too dear is eased where it comes from", () => {
  const { weigh } = defaultRecipe();
  const families = [{ ...newFamily("a", "straw", [0.1, 0.1, 0.7]), stops: 1.2 }, newFamily("b", "sky", [-0.1, -0.1, 0.6])]; // prettier-ignore
  test("moved families first, whatever else there is", () => {
    for (const by of ["weights", "film"] as const) {
      const { act, change } = easing(families, { ...weigh, by, red: 1.5 });
      expect(act).toBe("Move them less");
      expect(change.families?.map(({ stops }) => stops)).toEqual([0.9, 0]);
      expect(Object.keys(change)).toEqual(["families"]);
    }
  });
  test("then a filter, or weights half of the way to plain ones", () => {
    const still = families.map((family) => ({ ...family, stops: 0 }));
    const film = { ...weigh.film, filter: "red" } as const;
    expect(easing(still, { ...weigh, by: "film", film }).change).toEqual({ film: { ...film, filter: "orange" } });
    const { change } = easing(still, { ...weigh, by: "weights", red: 2, green: -0.5, blue: -0.5 });
    expect(change).toEqual({ red: expect.closeTo(1.1313, 3), green: expect.closeTo(0.089, 3), blue: expect.closeTo(-0.2203, 3) }); // prettier-ignore
  });
});

describe("weights", () => {
  const weigh = defaultRecipe().weigh;
  test("with the sum held the others take the difference", () => {
    const moved = moveWeight(weigh, "red", 1.2627);
    expect(moved.red + moved.green + moved.blue).toBeCloseTo(1, 9);
    expect([moved.green, moved.blue]).toEqual([expect.closeTo(0.178, 6), expect.closeTo(-0.4407, 6)]);
  });
  test("at the end of their range they stop, and the sum still holds", () => {
    const moved = moveWeight({ ...weigh, green: -1.9, blue: -1.9, red: 4.8 - 1 }, "red", 3);
    expect(moved.red + moved.green + moved.blue).toBeCloseTo(0, 6);
    const far = moveWeight({ ...weigh, red: 0, green: -2, blue: -2 }, "red", 2);
    expect(far).toMatchObject({ red: 0, green: -2, blue: -2 });
  });
  test("let go, only the one moves", () => {
    expect(moveWeight({ ...weigh, lockSum: false }, "blue", 0.9)).toMatchObject({
      red: weigh.red,
      green: weigh.green,
      blue: 0.9,
    });
  });
});

describe("curve", () => {
  test("a rung placed on a zone prints there, and the curve still rises", () => {
    const { shape } = defaultRecipe();
    const placed = placeRung(shape, -2, 4);
    expect(printZone(toneCurve(placed)(stopsToLight(-2)))).toBeCloseTo(4, 1);
    const again = placeRung(placed, -4, 9);
    expect(again.curve.every(([x, y], i, all) => i === 0 || (x > all[i - 1][0] && y >= all[i - 1][1]))).toBe(true);
  });
  test("points cannot pass their neighbours; the ends stay; at most sixteen", () => {
    let curve = setPoint(STRAIGHT_CURVE, 0.5, 0.7);
    expect(curve).toEqual([
      [0, 0],
      [0.5, 0.7],
      [1, 1],
    ]);
    curve = movePoint(curve, 1, 1.4, 2);
    expect(curve[1]).toEqual([0.99, 1]);
    expect(movePoint(curve, 0, 0.3, 0.2)[0]).toEqual([0, 0.2]);
    expect(removePoint(curve, 0)).toBe(curve);
    expect(removePoint(curve, 1)).toEqual(STRAIGHT_CURVE);
    let many = STRAIGHT_CURVE;
    for (let i = 1; i < 25; i++) many = setPoint(many, i / 25, i / 25);
    expect(many.length).toBeLessThanOrEqual(16);
  });
});

describe("crop", () => {
  const negative = { width: 3000, height: 2000 } as Negative;
  const { ground } = defaultRecipe();
  test("a ratio gives the largest crop of it, inside the picture", () => {
    for (const ratio of [1, 1.5, 0.8, 16 / 9]) {
      const crop = cropToRatio(negative, { ...ground, angleDegrees: 4 }, ratio);
      const frame = frameOf(negative, { ...ground, angleDegrees: 4, crop });
      expect(frame.width / frame.height).toBeCloseTo(ratio, 2);
      const limit = wholeCrop(negative, { ...ground, angleDegrees: 4 });
      expect(crop.width <= limit.width + 1e-9 && crop.height <= limit.height + 1e-9).toBe(true);
    }
  });
  test("a crop pushed out comes back in", () => {
    const limit = wholeCrop(negative, ground);
    expect(fitCrop({ centreX: 5, centreY: -5, width: 0.5, height: 9 }, limit)).toEqual({
      width: 0.5,
      height: 2 / 3,
      centreX: 0.25,
      centreY: expect.closeTo(0, 12),
    });
  });
});

describe("light moves", () => {
  const ellipse = {
    kind: "ellipse",
    x: 0.5,
    y: 0.5,
    radiusX: 0.1,
    radiusY: 0.1,
    angleDegrees: 0,
    softness: 1,
  } as const;
  test("are named apart, copied apart, ordered and taken away", () => {
    const first = newMove([], ellipse);
    let recipe = withMove(defaultRecipe(), first);
    const second = newMove(recipe.light.moves, ellipse);
    expect([first.name, second.name]).toEqual(["Ellipse 1", "Ellipse 2"]);
    recipe = withMove(recipe, second);
    const { recipe: copied, copy } = duplicateMove(recipe, first.id);
    expect(copied.light.moves.map((m) => m.name)).toEqual(["Ellipse 1", "Ellipse 1 again", "Ellipse 2"]);
    expect(changeMove(copied, copy!.id, (m) => ({ ...m, stops: 2 })).light.moves[0].stops).toBe(first.stops);
    expect(placeMove(copied, second.id, 1).light.moves[1].id).toBe(second.id);
    expect(placeMove(copied, first.id, -1)).toEqual(copied);
    expect(removeMove(copied, first.id).light.moves).toHaveLength(2);
  });
  test("linked ones are changed together, each in its own place; unlinked no more", () => {
    const first = newMove([], ellipse);
    const { recipe, copy } = duplicateMove(withMove(defaultRecipe(), first), first.id, "copy", "link");
    const changed = changeMove(recipe, first.id, (move) => ({ ...move, stops: 1.5, shape: { ...ellipse, x: 0.9 } }));
    expect(changed.light.moves.map(({ stops, shape }) => [stops, (shape as typeof ellipse).x])).toEqual([
      [1.5, 0.9],
      [1.5, ellipse.x],
    ]);
    const apart = changeMove(changed, copy!.id, (move) => ({ ...move, link: "" }));
    expect(changeMove(apart, first.id, (move) => ({ ...move, stops: -1 })).light.moves[1].stops).toBe(1.5);
  });
  test("the opposite is the inverse shape with every effect turned round; groups go with their last move", () => {
    const first = { ...newMove([], ellipse), stops: 0.5 };
    const made = withMove(defaultRecipe(), { ...first, effects: { ...first.effects, local: 0.8, softness: 0.5 } });
    const [, opposite] = addOpposite(made, first.id, "o").light.moves;
    expect(opposite).toMatchObject({ invert: true, stops: -0.5, effects: { local: -0.8, softness: 0 } });
    const bent = changeMove(made, first.id, (old) => ({ ...old, curve: [[0, 0.1], [0.3, 0.5], [0.6, 0.5], [1, 1]] })); // prettier-ignore
    expect(addOpposite(bent, first.id, "o").light.moves[1].curve).toEqual([[0.1, 0], [0.5, 0.3], [1, 1]]); // prettier-ignore
    const grouped = groupMove(made, first.id, { id: "g", name: "Group 1" });
    expect(grouped.light.groups).toEqual([{ id: "g", name: "Group 1", on: true, amountPercent: 100 }]);
    expect(removeMove(grouped, first.id).light.groups).toEqual([]);
  });
  test("shapes are joined in order; what is left of two is a single one again", () => {
    const { shape, partId } = withPart(ellipse, "subtract", { kind: "whole" })!;
    expect(partInHand(shape, partId)?.shape).toEqual({ kind: "whole" });
    const moved = changePart(shape, null, () => ({ ...ellipse, x: 0.1 }));
    expect(partInHand(moved, partId)?.shape).toMatchObject({ x: 0.1 });
    expect(withoutPart(moved, partId)).toEqual(ellipse);
  });
});

describe("families", () => {
  const found = ["red", "sky"].map((id) => ({
    id, name: id, hueDegrees: 30, saturation: 0.2, lightness: 0.5, reach: 1, stops: 0, pinned: false,
  })); // prettier-ignore

  test("those found become the recipe's own with the first change, and stay its own", () => {
    const first = changeFamily(defaultRecipe(), found, "sky", { stops: -1 });
    expect(first.weigh.families.map(({ id, stops }) => [id, stops])).toEqual([
      ["red", 0],
      ["sky", -1],
    ]);
    // What is found later changes nothing of them.
    const second = changeFamily(first, [], "red", { name: "brick" });
    expect(second.weigh.families.map(({ name, stops }) => [name, stops])).toEqual([
      ["brick", 0],
      ["sky", -1],
    ]);
    expect(addPicked(second, [], [0.1, 0.3, 0.1]).weigh.families).toHaveLength(3);
    expect(mergeTwo(second, [], { id: "red", share: 1 }, { id: "sky", share: 1 }).weigh.families).toHaveLength(1);
    expect(splitInTwo(second, [], "red", []).weigh.families).toEqual(second.weigh.families);
  });
});

test("areas are laid over each other in an order of their own, each beginning with the print's weights", () => {
  const shape = { kind: "brush", strokes: [] } as const;
  const base = { ...defaultRecipe(), weigh: { ...defaultRecipe().weigh, red: 0.9 } };
  const { recipe, id } = addArea(base, { ...shape, strokes: [] });
  const two = addArea(recipe, { ...shape, strokes: [] });
  expect(two.recipe.weigh.areas.map(({ name, red }) => [name, red])).toEqual([
    ["Area 1", 0.9],
    ["Area 2", 0.9],
  ]);
  const shiftedOnce = placeArea(two.recipe, id, 1);
  expect(shiftedOnce.weigh.areas.map(({ name }) => name)).toEqual(["Area 2", "Area 1"]);
  expect(placeArea(shiftedOnce, id, 5)).toEqual(shiftedOnce);
  const changed = changeArea(shiftedOnce, id, ({ red }) => ({ red: red + 1 }));
  expect(changed.weigh.areas[1].red).toBeCloseTo(1.9, 9);
  expect(removeArea(changed, id).weigh.areas.map(({ name }) => name)).toEqual(["Area 2"]);
});

test("points from the picture leave a speck beyond each end", () => {
  const stops = (i: number) => LOWEST_COUNTED + (i + 0.5) / 16;
  const bins = (HIGHEST_COUNTED - LOWEST_COUNTED) * 16;
  const counts = Float32Array.from({ length: bins }, (_, i) => (stops(i) > -6 && stops(i) < 1 ? 1 / 112 : 0));
  expect(pointsFor({ counts })).toEqual({ blackPoint: -6, whitePoint: 1 });
});

test("zones in numerals and thirds", () => {
  expect([0, 4.6, 12].map(zoneNumeral)).toEqual(["0", "V", "X"]);
  expect([5, 5.3, 5.7, 9.9, 10].map(zoneThirds)).toEqual(["V", "V⅓", "V⅔", "X", "X"]);
});

test("the picture fits its pane and points go there and back", () => {
  const frame = frameOf({ width: 6000, height: 4000 }, defaultRecipe().ground);
  for (const zoom of [FIT, { zoom: 1, centreX: 0.9, centreY: 0.1 }, { zoom: 2, centreX: 0.5, centreY: 0.5 }]) {
    const where = place(frame, { width: 800, height: 600 }, 2, zoom);
    expect(where.visible.x + where.visible.width).toBeLessThanOrEqual(where.width);
    expect(where.visible.width).toBeLessThanOrEqual(1600);
    const [x, y] = frameToPane(where, ...paneToFrame(where, 123, 321));
    expect([x, y]).toEqual([expect.closeTo(123, 6), expect.closeTo(321, 6)]);
  }
  expect(place(frame, { width: 800, height: 600 }, 1, FIT).width).toBeLessThanOrEqual(800);
});
