import { describe, expect, test } from "@jest/globals";
import { defaultRecipe, type Recipe } from "@yelm/core";
import { AppError } from "../errors.ts";
import { checkRecipe } from "../validate.ts";

type Weigh = Recipe["weigh"];
const family: Weigh["families"][number] = {
  id: "f", name: "brick", hueDegrees: 40, saturation: 0.2, lightness: 0.5, reach: 1, stops: 0, pinned: false,
}; // prettier-ignore
const { film } = defaultRecipe().weigh;
const area = { id: "a", name: "sky", on: true, invert: false, by: "film" as const, red: 1, green: 0, blue: 0, film, shape: { kind: "brush" as const, strokes: [] } }; // prettier-ignore
const curve = (...points: [number, number][]) => ({ name: "mine", points });

function refusal(weigh: object): { code: string; message: string; field: unknown } {
  const base = defaultRecipe();
  try {
    checkRecipe({ ...base, weigh: { ...base.weigh, ...weigh } });
  } catch (error) {
    const { code, message, detail } = error as AppError;
    return { code, message, field: detail.field };
  }
  throw new Error("Expected the recipe to be refused.");
}

describe("a Weigh from outside", () => {
  test("with families, a film of one's own and areas is taken", () => {
    const base = defaultRecipe();
    const own = { ...film, film: "own" as const, ownFilm: curve([400, 0.1], [500, 1]) };
    const recipe = {
      ...base,
      weigh: { ...base.weigh, families: [family], areas: [area], by: "film" as const, film: own },
    };
    expect(checkRecipe(recipe)).toEqual(recipe);
  });

  test.each([
    [{ families: [family, family] }, "weigh.families", /a different id for each item for weigh\.families/],
    [{ areas: [area, area] }, "weigh.areas", /a different id for each item for weigh\.areas/],
    [{ film: { ...film, film: "own" } }, "weigh.film.ownFilm", /a curve for weigh\.film\.ownFilm but received null/],
    [{ film: { ...film, filter: "own" } }, "weigh.film.ownFilter", /a curve for weigh\.film\.ownFilter/],
    [
      { film: { ...film, ownFilm: curve([500, 1], [500, 0.5]) } },
      "weigh.film.ownFilm.points.1",
      /rising wavelengths for weigh\.film\.ownFilm\.points\.1 but received 500, 500/,
    ],
    [{ areas: [{ ...area, film: { ...film, film: "own" } }] }, "weigh.areas.0.film.ownFilm", /weigh\.areas\.0\.film/],
    [{ families: [{ ...family, stops: 9 }] }, "weigh.families.0.stops", /at most 3 .* but received 9/],
    [{ families: Array.from({ length: 13 }, (_, i) => ({ ...family, id: `f${i}` })) }, "weigh.families", /12/],
    [{ film: { ...film, ownFilm: curve([400, 2], [500, 1]) } }, "weigh.film.ownFilm.points.0.1", /at most 1/],
  ])("is refused with its field and what was expected (%#)", (weigh, field, message) => {
    const found = refusal(weigh);
    expect(found).toMatchObject({ code: "bad_recipe", field });
    expect(found.message).toMatch(message);
  });
});
