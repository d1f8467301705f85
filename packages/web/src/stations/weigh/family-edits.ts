import {
  addFamily,
  familySchema,
  mergeFamilies,
  rangeOf,
  splitFamily,
  type ColourSample,
  type Family,
  type Recipe,
  type Vector3,
} from "@yelm/core";

const { minimum: LOWEST, maximum: HIGHEST } = rangeOf(familySchema, "stops");

/** Stops within a family's range, in hundredths. */
export function clampStops(stops: number): number {
  return Math.round(100 * Math.min(HIGHEST, Math.max(LOWEST, stops))) / 100;
}

/** A recipe with these families. */
export function withFamilies(recipe: Recipe, families: readonly Family[]): Recipe {
  return { ...recipe, weigh: { ...recipe.weigh, families: [...families] } };
}

/**
 * The families that are edited: the recipe's own, or those found in the picture, which become its own with the first change.
 */
export function ownFamilies(recipe: Recipe, found: readonly Family[]): readonly Family[] {
  return recipe.weigh.families.length > 0 ? recipe.weigh.families : found;
}

export function changeFamily(recipe: Recipe, found: readonly Family[], id: string, change: Partial<Family>): Recipe {
  return withFamilies(
    recipe,
    ownFamilies(recipe, found).map((family) => (family.id === id ? { ...family, ...change } : family)),
  );
}

export function splitInTwo(
  recipe: Recipe,
  found: readonly Family[],
  id: string,
  samples: readonly ColourSample[],
): Recipe {
  return withFamilies(recipe, splitFamily(ownFamilies(recipe, found), id, samples));
}

export function mergeTwo(
  recipe: Recipe,
  found: readonly Family[],
  first: { readonly id: string; readonly share: number },
  second: { readonly id: string; readonly share: number },
): Recipe {
  return withFamilies(recipe, mergeFamilies(ownFamilies(recipe, found), first, second));
}

export function addPicked(recipe: Recipe, found: readonly Family[], working: Vector3): Recipe {
  return withFamilies(recipe, addFamily(ownFamilies(recipe, found), working));
}
