import { COPIED_PARTS, upgradeRecipe, type CopiedFrom, type Recipe } from "@yelm/core";
import { createStore } from "zustand/vanilla";

/** Parts that were copied, kept for every window and the next day. */
export interface CopiedPartsOf {
  readonly name: string;
  readonly recipe: Recipe;
  readonly groups: readonly string[];
  readonly from?: CopiedFrom;
}

const KEY = "yelm-copied-parts";

function read(): CopiedPartsOf | null {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? "null") as CopiedPartsOf | null;
    if (!kept) return null;
    return { ...kept, recipe: upgradeRecipe(kept.recipe) as Recipe };
  } catch {
    return null;
  }
}

export const copiedParts = createStore<{ readonly kept: CopiedPartsOf | null }>(() => ({ kept: read() }));

// Another window may have copied since.
window.addEventListener("storage", ({ key }) => key === KEY && copiedParts.setState({ kept: read() }));

export function keepParts(kept: CopiedPartsOf): void {
  copiedParts.setState({ kept });
  try {
    localStorage.setItem(KEY, JSON.stringify(kept));
  } catch {
    // Without storage it is there until the page is left.
  }
}

export const USUAL_GROUPS: readonly string[] = COPIED_PARTS.filter(({ usual }) => usual).map(({ id }) => id);

/** "2 regions found anew, 1 laid by its place". */
export function regionWords({ found, placed }: { readonly found: number; readonly placed: number }): string {
  const words = [
    found > 0 && `${found} ${found === 1 ? "region" : "regions"} found anew`,
    placed > 0 && `${placed} not found here, laid where ${placed === 1 ? "it" : "they"} lay`,
  ];
  return words.filter((word) => word !== false).join(", ");
}

/** "points and grade, tone". */
export function groupWords(ids: readonly string[]): string {
  return COPIED_PARTS.filter(({ id }) => ids.includes(id))
    .map(({ name }) => name)
    .join(", ");
}
