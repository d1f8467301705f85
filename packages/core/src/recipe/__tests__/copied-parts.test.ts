import { expect, test } from "@jest/globals";
import { readFileSync } from "node:fs";
import { COPIED_PARTS, copyParts, differingParts } from "../copied-parts.ts";
import { defaultRecipe } from "../defaults.ts";
import { PARTS } from "../parts.ts";
import type { Recipe } from "../schema.ts";
import { upgradeRecipe } from "../upgrade.ts";

const busy = upgradeRecipe(
  JSON.parse(readFileSync(new URL("./versions/recipe-v6.json", import.meta.url), "utf8")),
) as Recipe;

test("every field of a recipe belongs to one group of what is copied together", () => {
  for (const { name, schema, copies } of PARTS) {
    const fields = Object.keys((schema as { properties?: object }).properties!);
    expect([name, copies.flatMap(({ fields: own }) => own).sort()]).toEqual([name, fields.sort()]);
  }
  expect(new Set(COPIED_PARTS.map(({ id }) => id)).size).toBe(COPIED_PARTS.length);
});

test("what is copied comes over, what is not stays, and what belongs to one capture is left out unless asked for", () => {
  const fresh = defaultRecipe();
  const all = COPIED_PARTS.map(({ id }) => id);
  expect(copyParts(busy, fresh, all)).toEqual(busy);
  expect(copyParts(busy, fresh, [])).toBe(fresh);
  expect(copyParts(busy, busy, all)).toBe(busy);
  const usual = COPIED_PARTS.filter((group) => group.usual).map(({ id }) => id);
  const { ground, light } = copyParts(busy, fresh, usual);
  expect(light).toEqual(busy.light);
  expect([ground.exposureEv, ground.whiteBalance, ground.crop, ground.clean]).toEqual(
    [fresh.ground.exposureEv, fresh.ground.whiteBalance, fresh.ground.crop, fresh.ground.clean],
  ); // prettier-ignore
  for (const id of differingParts(busy, fresh, all).map((group) => group.id)) {
    const one = copyParts(busy, fresh, [id]);
    expect(differingParts(one, fresh, all).map((group) => group.id)).toEqual([id]);
  }
});
