import { describe, expect, test } from "@jest/globals";
import { Ajv } from "ajv";
import { defaultRecipe } from "../defaults.ts";
import { rangeOf } from "../../schema/defaults.ts";
import { describeRecipe } from "../describe.ts";
import { formatSigned, formatStops } from "../../parts/words.ts";
import { groundSchema } from "../../parts/ground/schema.ts";
import { PARTS } from "../parts.ts";
import { recipeSchema, type Recipe } from "../schema.ts";
import { weighSchema } from "../../parts/weigh/schema.ts";
import { plainMove, type LightMove } from "../../parts/light/schema.ts";
import { restoreLine, strikeLine } from "../ticket-lines.ts";
import { upgradeRecipe } from "../upgrade.ts";

const validate = new Ajv({ strict: false }).compile(recipeSchema);
const move: LightMove = {
  id: "a1",
  name: "Tower",
  on: true,
  stops: 2 / 3,
  amountPercent: 50,
  invert: true,
  ...plainMove(),
  shape: { kind: "ellipse", x: 0.5, y: 0.3, radiusX: 0.2, radiusY: 0.1, angleDegrees: 0, softness: 1 },
};
/** A recipe in which every line of the ticket says something. */
function full(): Recipe {
  const recipe = defaultRecipe();
  return {
    ...recipe,
    ground: {
      whiteBalance: { mode: "set", kelvin: 3200, tint: -4, follow: 0.6 },
      exposureEv: 0.5,
      angleDegrees: -1.5,
      quarterTurns: 1,
      crop: { centreX: 0, centreY: 0, width: 0.5, height: 0.4 },
      lens: { fallOffStops: 0.5, distortion: 0.02, keystoneVertical: 0.1, keystoneHorizontal: 0 },
      calm: 0.3,
      clean: [
        {
          id: "d1",
          kind: "heal",
          on: true,
          points: [[0.2, 0.1]],
          radius: 0.01,
          softness: 0.4,
          sourceX: 0.05,
          sourceY: 0,
        },
      ],
    },
    weigh: { ...recipe.weigh, red: 1, blue: -0.3 },
    shape: {
      ...recipe.shape,
      blackPoint: -6,
      whitePoint: 2,
      midPoint: 0.25,
      grade: 3,
      localContrast: { low: 0, mid: 0.3, high: -0.2 },
      characteristic: "film",
      curve: [
        [0, 0.1],
        [1, 1],
      ],
    },
    light: { groups: [], contours: [], moves: [move] },
    finish: {
      halation: { ...recipe.finish.halation, amount: 0.3 },
      oldGlass: { ...recipe.finish.oldGlass, corners: 0.4 },
      output: { ...recipe.finish.output, amount: 0.5 },
      grain: { ...recipe.finish.grain, granularity: 12 },
      toning: { ...recipe.finish.toning, toner: "sepia" },
      edgeBurn: { ...recipe.finish.edgeBurn, stops: -0.5 },
      tables: [{ id: "t", name: "Dusk", limit: "darks", strength: 0.5, values: [0, 0, 0.1, 1, 1, 1] }],
      wear: { ...recipe.finish.wear, edges: 0.4 },
      mount: { ...recipe.finish.mount, border: 0.02, mat: 0.1, caption: "Third proof" },
    },
  };
}

describe("schema", () => {
  test("the default recipe and a full one are valid", () => {
    expect(validate(defaultRecipe())).toBe(true);
    expect([validate(full()), validate.errors]).toEqual([true, null]);
  });
  test.each([
    ["an unknown field", (r: Recipe) => Object.assign(r.weigh, { violet: 1 })],
    ["a number out of range", (r: Recipe) => Object.assign(r.ground, { exposureEv: 6 })],
    ["a missing part", (r: Recipe) => Reflect.deleteProperty(r, "shape")],
    ["another version", (r: Recipe) => Object.assign(r, { version: 99 })],
    ["a stroke without points", (r: Recipe) => r.light.moves.push({ ...move, shape: { kind: "brush", strokes: [{ id: "s", radius: 0.1, softness: 1, flow: 1, erase: false, points: [] }] } })], // prettier-ignore
  ])("%s is refused", (_name, spoil) => {
    const recipe = defaultRecipe();
    spoil(recipe);
    expect(validate(recipe)).toBe(false);
  });
  test("parts are the recipe's own keys; defaults are fresh each time", () => {
    expect(["version", ...PARTS.map(({ name }) => name)].sort()).toEqual(Object.keys(defaultRecipe()).sort());
    expect(defaultRecipe().light.moves).not.toBe(defaultRecipe().light.moves);
  });
  test("plain luminance sums to one", () => {
    const { red, green, blue } = defaultRecipe().weigh;
    expect(red + green + blue).toBeCloseTo(1, 12);
    expect(rangeOf(weighSchema, "red")).toMatchObject({ minimum: -2, maximum: 3, default: 0.2627 });
    expect(() => rangeOf(groundSchema, "crop")).toThrow('Expected a numeric field but received "crop"');
  });
});

test("a recipe of version 1 becomes one of today that prints the same; others come back as they are", () => {
  const { localContrast: _since2, ...shape } = full().shape;
  const { whiteBalance: _since3, ...ground } = full().ground;
  const upgraded = upgradeRecipe({ ...full(), version: 1, shape, ground });
  expect(upgraded).toEqual({
    ...full(),
    ground: { ...ground, whiteBalance: defaultRecipe().ground.whiteBalance },
    shape: { ...shape, localContrast: { low: 0, mid: 0, high: 0 } },
  });
  expect(validate(upgraded)).toBe(true);
  for (const other of [defaultRecipe(), { version: 99 }, null, [], "x", {}]) expect(upgradeRecipe(other)).toBe(other);
});

const EARLIER = [
  [11, "passage", "nearness", "mixture", false],
  [12, "evenness", "strict", "natural", true],
  [13, "noisyColours", "followed", "held", true],
  [14, "clippedBy", "colours", "channels", true],
] as const;

test.each(EARLIER)("a print of version %i whose colours were moved keeps its %s: %s; any other has %s", (version, field, before, now, ofFilm) => {
  const family = { id: "f", name: "sky", hueDegrees: 250, saturation: 0.2, lightness: 0.6, reach: 1, pinned: false };
  // What came later was not there.
  const since = EARLIER.filter(([last]) => last >= version).map(([, name]) => name);
  const weigh = Object.fromEntries(Object.entries(defaultRecipe().weigh).filter(([name]) => !since.includes(name as typeof field))); // prettier-ignore
  const opened = (stops: number, own: object = {}) => {
    const old = { ...defaultRecipe(), version, weigh: { ...weigh, families: [{ ...family, stops }], ...own } };
    return upgradeRecipe(old) as Recipe;
  };
  const kept = [opened(-0.7), opened(0), opened(0, { by: "film" }), opened(-0.7, { [field]: now })];
  expect(kept.map((recipe) => recipe.weigh[field])).toEqual([before, now, ofFilm ? before : now, now]);
  // What was there already is as it was.
  for (const [last, earlier, , today] of EARLIER) if (last < version) expect(kept[0].weigh[earlier]).toBe(today);
}); // prettier-ignore

describe("ticket", () => {
  test("a fresh recipe has no lines, a full one all of them in the order of the work", () => {
    expect(describeRecipe(defaultRecipe())).toEqual([]);
    expect(describeRecipe(full()).map(({ station, text }) => `${station}: ${text}`)).toEqual([
      "Ground: exposure +½",
      "Ground: white at 3200 K, tint −4, followed 60 %",
      "Ground: corners given back +½",
      "Ground: barrel straightened +2.0 %",
      "Ground: uprights made parallel",
      "Ground: noise calmed 30 %",
      "Ground: mended in 1 place",
      "Ground: turned 90°",
      "Ground: straightened −1.5°",
      "Ground: cropped to 5:4",
      "Weigh: red 1.00, green 0.68, blue −0.30",
      "Shape: black point −6.0",
      "Shape: white point +2.0",
      "Shape: mid point +¼",
      "Shape: grade 3",
      "Shape: local contrast 0 / +30 / −20 %",
      "Shape: film-like toe and shoulder",
      "Shape: curve of 2 points",
      "Light: Tower +⅔ at 50 %, outside the ellipse",
      "Finish: halation 30 %, 70 µm",
      "Finish: corners of old glass 40 %",
      "Finish: sharpened for the screen 50 %",
      "Finish: grain 12, 6 µm, small",
      "Finish: sepia 50 %",
      "Finish: table “Dusk” 50 %",
      "Finish: edges burned −½",
      "Finish: edges worn 40 %",
      "Finish: border 2.0 %, mat 10.0 %, caption",
    ]);
  });
  test("every line can be struck out and put back, one by one, and nothing else moves", () => {
    const before = full();
    for (const { id } of describeRecipe(before)) {
      const struck = strikeLine(before, id);
      const left = describeRecipe(struck).filter((line) => !line.text.endsWith("(off)"));
      expect([id, left.map((line) => line.id)]).toEqual([id, describeRecipe(before).map((l) => l.id).filter((l) => l !== id)]); // prettier-ignore
      expect(restoreLine(struck, id, before)).toEqual(before);
    }
    expect(before).toEqual(full());
    expect(strikeLine(before, "no-such-line")).toEqual(before);
  });
  test("Weigh tells families by the size of their move, film and filter, and areas; each can be struck out", () => {
    const base = defaultRecipe();
    const family = { hueDegrees: 40, saturation: 0.2, lightness: 0.5, reach: 1, pinned: false };
    const { film } = base.weigh;
    const before: Recipe = {
      ...base,
      weigh: {
        ...base.weigh,
        by: "film",
        film: { ...film, film: "orthochromatic", filter: "deep yellow", light: "shade" },
        families: [
          { ...family, id: "a", name: "brick", stops: -0.7 },
          { ...family, id: "b", name: "wall", stops: 0 },
          { ...family, id: "c", name: "sky", stops: -1.3 },
        ],
        areas: [{ id: "s", name: "pond", on: true, invert: false, shape: move.shape, by: "weights", red: 1, green: 0, blue: 0, film }], // prettier-ignore
      },
    };
    expect([validate(before), validate.errors]).toEqual([true, null]);
    expect(describeRecipe(before).map(({ text }) => text)).toEqual([
      "orthochromatic through deep yellow, shade",
      "sky −1.3, brick −0.7 stops",
      "pond: red 1.00, green 0.00, blue 0.00",
    ]);
    for (const { id } of describeRecipe(before)) {
      const struck = strikeLine(before, id);
      expect(describeRecipe(struck).filter((line) => line.id === id && !line.text.endsWith("(off)"))).toEqual([]);
      expect(restoreLine(struck, id, before)).toEqual(before);
    }
    // Names and places of the families stay when their moves are struck out.
    expect(strikeLine(before, "families").weigh.families.map(({ name, stops }) => [name, stops])).toEqual([
      ["brick", 0],
      ["wall", 0],
      ["sky", 0],
    ]);
  });
  test("a recipe from before there were families weighs as it did", () => {
    const { red, green, blue, lockSum } = full().weigh;
    const upgraded = upgradeRecipe({ ...full(), version: 4, weigh: { red, green, blue, lockSum } });
    expect(upgraded).toEqual(full());
  });
  test("stops are written as a printer writes them", () => {
    expect([0, 0.5, -1 / 3, 1.25, -2, 0.47, 1 + 5 / 6, 0.999].map(formatStops)).toEqual(["0", "+½", "−⅓", "+1¼", "−2", "+0.47", "+1⅚", "+1"]); // prettier-ignore
    expect([formatSigned(-0.001, 2), formatSigned(-1.5, 1), formatSigned(2, 0)]).toEqual(["0.00", "−1.5", "+2"]);
  });
});
