import {
  addFamily,
  mergeFamilies,
  splitFamily,
  type ColourSample,
  type Family,
  type Recipe,
  type Vector3,
} from "@yelm/core";

/** A recipe with these families. */
export function withFamilies(recipe: Recipe, families: readonly Family[]): Recipe {
  return { ...recipe, weigh: { ...recipe.weigh, families: [...families] } };
}

/** Changes one family; those found in the picture become the recipe's own with the first change. */
export function changeFamily(recipe: Recipe, families: readonly Family[], id: string, change: Partial<Family>): Recipe {
  const own = recipe.weigh.families.length > 0 ? recipe.weigh.families : families;
  return withFamilies(
    recipe,
    own.map((family) => (family.id === id ? { ...family, ...change } : family)),
  );
}

export function splitInTwo(
  recipe: Recipe,
  families: readonly Family[],
  id: string,
  samples: readonly ColourSample[],
): Recipe {
  return withFamilies(recipe, splitFamily(families, id, samples));
}

export function mergeTwo(
  recipe: Recipe,
  families: readonly Family[],
  first: { readonly id: string; readonly share: number },
  second: { readonly id: string; readonly share: number },
): Recipe {
  return withFamilies(recipe, mergeFamilies(families, first, second));
}

export function addPicked(recipe: Recipe, families: readonly Family[], working: Vector3): Recipe {
  return withFamilies(recipe, addFamily(families, working));
}
