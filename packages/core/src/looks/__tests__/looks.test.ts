import { describe, expect, test } from "@jest/globals";
import { Ajv } from "ajv";
import { printZone, stopsToLight } from "../../colour/stops.ts";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { stopsBelow } from "../../parts/shape/openings.ts";
import { toneCurve } from "../../parts/shape/tone-curve.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import { recipeSchema, type Recipe } from "../../recipe/schema.ts";
import { applyLook, fitOf, NOT_IN_LOOKS, USUAL_LOOK_PARTS, type Look } from "../look.ts";
import { mixRecipes } from "../mix.ts";
import { OWN_LOOKS } from "../own-looks.ts";

const validate = new Ajv({ strict: false }).compile(recipeSchema);
/** Light of a picture about a middle, stops. */
const lightAbout = (middle: number, spread = 2) => {
  const random = seeded(3);
  return stopsBelow(Float32Array.from({ length: 4000 }, () => middle + spread * (random() + random() - 1)));
};
const picture = (middle: number, families: Recipe["weigh"]["families"] = []) => ({ families, light: () => Promise.resolve(lightAbout(middle)) }); // prettier-ignore
const family = (id: string, hueDegrees: number, stops = 0, lightness = 0.5) => ({ id, name: id, hueDegrees, saturation: 0.3, lightness, reach: 1, stops, pinned: false }); // prettier-ignore

describe("our own looks", () => {
  test.each(OWN_LOOKS.map((look) => [look.id, look] as const))(
    "%s: a whole recipe on dark and light pictures; its middle prints where it says, nothing else clips",
    async (_, look) => {
      for (const middle of [-4, -2, 0.3]) {
        const { recipe, adapted } = await applyLook(look, defaultRecipe(), picture(middle));
        expect([validate(recipe), validate.errors]).toEqual([true, null]);
        const below = lightAbout(middle);
        const zone = (share: number) => printZone(toneCurve(recipe.shape)(stopsToLight(below(share))));
        const isKept = adapted.some((word) => word.includes("kept nearer"));
        if (look.fit?.middle && !isKept) expect(Math.abs(zone(0.5) - look.fit.middle)).toBeLessThan(1.3);
        if (isKept) {
          // Not as far as the look would have it, but on the way there.
          const plain = toneCurve({ ...recipe.shape, midPoint: 0 })(stopsToLight(below(0.5)));
          const wish = look.fit!.middle!;
          expect(Math.abs(zone(0.5) - wish)).toBeLessThan(Math.abs(printZone(plain) - wish));
        }
        expect(zone(0.98) - zone(0.02)).toBeGreaterThan(1.5);
        // What lies well inside the ends that the look lets go is neither black nor paper.
        const [black, white] = look.fit!.beyond;
        const reflectance = (share: number) => toneCurve(recipe.shape)(stopsToLight(below(share)));
        expect(reflectance(black + 0.06)).toBeGreaterThan(0.0005);
        expect(reflectance(1 - white - 0.06)).toBeLessThan(0.9995);
      }
    },
  );
  test("are at least fourteen, each of a name and a note of its own", () => {
    expect(OWN_LOOKS.length).toBeGreaterThanOrEqual(14);
    for (const field of ["id", "name", "note"] as const) expect(new Set(OWN_LOOKS.map((look) => look[field])).size).toBe(OWN_LOOKS.length); // prettier-ignore
  });
});

describe("a look", () => {
  const own: Recipe = {
    ...defaultRecipe(),
    ground: { ...defaultRecipe().ground, exposureEv: 0.7 },
    light: { ...defaultRecipe().light, groups: [{ id: "g", name: "g", on: true, amountPercent: 80 }] },
    weigh: { ...defaultRecipe().weigh, families: [family("cloth", 25), family("water", 250)] },
  };
  const look: Look = {
    id: "l",
    name: "L",
    note: "",
    parts: USUAL_LOOK_PARTS,
    recipe: {
      ...defaultRecipe(),
      shape: { ...defaultRecipe().shape, grade: 3 },
      weigh: {
        ...defaultRecipe().weigh,
        families: [family("brick", 32, 0.5), family("sky", 258, -1), family("leaf", 140, 0.3)],
      },
    },
    fit: null,
  };
  test("meets families by their colour, and leaves alone what belongs to one picture", async () => {
    const { recipe, adapted } = await applyLook(look, own, picture(-2));
    expect(recipe.weigh.families.map(({ id, stops }) => [id, stops])).toEqual([
      ["cloth", 0.5],
      ["water", -1],
    ]);
    expect(adapted).toEqual(["brick met cloth", "sky met water"]);
    expect([recipe.ground, recipe.light, recipe.shape.grade]).toEqual([own.ground, own.light, 3]);
    expect(NOT_IN_LOOKS).toEqual(expect.arrayContaining(["exposure", "white", "crop", "clean", "moves"]));
  });
  test("made on one picture fits another: what it took from the light of one it gives to the other", async () => {
    const dark = lightAbout(-3);
    const shape = (
      await applyLook(
        OWN_LOOKS.find(({ id }) => id === "gritty")!,
        own,
        picture(-3),
      )
    ).recipe.shape;
    const fit = fitOf(shape, dark);
    expect(fit.beyond[0]).toBeCloseTo(0.02, 1.5);
    const { recipe } = await applyLook({ ...look, recipe: { ...look.recipe, shape }, fit }, own, picture(0));
    const zoneOf = (of: Recipe["shape"], below: ReturnType<typeof lightAbout>) => printZone(toneCurve(of)(stopsToLight(below(0.5)))); // prettier-ignore
    expect(Math.abs(zoneOf(recipe.shape, lightAbout(0)) - zoneOf(shape, dark))).toBeLessThan(0.5);
  });
  test("by its amount: nothing at 0, all at 1, half the way between, within bounds beyond; every step a whole recipe", async () => {
    const random = seeded(9);
    for (const one of OWN_LOOKS) {
      const { recipe } = await applyLook(one, own, picture(-2));
      expect(mixRecipes(own, recipe, 0)).toBe(own);
      expect(mixRecipes(own, recipe, 1)).toBe(recipe);
      for (const share of [0.3, 0.5, 1.5, 1.5 * random()]) {
        const mixed = mixRecipes(own, recipe, share);
        expect([validate(mixed), validate.errors]).toEqual([true, null]);
        const wanted = own.shape.grade + share * (recipe.shape.grade - own.shape.grade);
        expect(mixed.shape.grade).toBeCloseTo(Math.min(5, Math.max(0, wanted)), 5);
        expect(mixed.ground).toEqual(own.ground);
      }
    }
  });
});
