import jsonPatch, { type Operation } from "fast-json-patch";
import { applyChanges, ChangeError, type RecipeChange } from "./changes.ts";
import { RECIPE_VERSION, type Recipe } from "./schema.ts";
import { upgradeRecipe } from "./upgrade.ts";

/** Recipes up to this version were changed by JSON patches (RFC 6902) with places by number. */
const LAST_PATCHED_VERSION = 5;

/** One step of a JSON patch, as older revisions hold them. */
export interface PatchOperation {
  readonly op: "add" | "remove" | "replace";
  readonly path: string;
  readonly value?: unknown;
}

/** Changes with the version of the recipe that they were made in. */
export interface VersionedChanges {
  readonly version: number;
  readonly changes: readonly (RecipeChange | PatchOperation)[];
}

/**
 * Makes a stored change to a present recipe. One of an older version is made as it was then, and what has come since is
 * filled in.
 * @throws {ChangeError} when it does not fit.
 */
export function applyVersioned(recipe: Recipe, { version, changes }: VersionedChanges): Recipe {
  if (version > LAST_PATCHED_VERSION) {
    const changed = applyChanges(recipe, changes as readonly RecipeChange[]);
    return version < RECIPE_VERSION ? (upgradeRecipe({ ...changed, version }) as Recipe) : changed;
  }
  try {
    const patched = jsonPatch.applyPatch(structuredClone(recipe), changes as Operation[], true, true, true);
    return upgradeRecipe({ ...patched.newDocument, version }) as Recipe;
  } catch (cause) {
    const reason = cause instanceof Error ? cause.message.split("\n")[0] : String(cause);
    throw new ChangeError(`Expected a change that fits the recipe but received: ${reason}`, { cause });
  }
}

/** What walking from one revision to another needs of each. */
export interface RevisionStep {
  readonly parent: string | null;
  readonly version: number;
  readonly changes: VersionedChanges["changes"];
  readonly inverse: VersionedChanges["changes"];
}

/**
 * The recipe at `target`, reached from the recipe at `head` through their common ancestor.
 * @throws {RangeError} when one of the revisions is not known; ChangeError.
 */
export function walkRevisions(
  recipe: Recipe,
  head: string,
  target: string,
  revisions: ReadonlyMap<string, RevisionStep>,
): Recipe {
  const stepOf = (id: string): RevisionStep => {
    const step = revisions.get(id);
    if (!step) throw new RangeError(`Expected a known revision but received "${id}".`);
    return step;
  };
  const above = new Set<string>();
  for (let id: string | null = head; id; id = stepOf(id).parent) above.add(id);
  const forward: RevisionStep[] = [];
  let meeting = target;
  while (!above.has(meeting)) {
    const step = stepOf(meeting);
    forward.unshift(step);
    if (step.parent === null) throw new RangeError("Expected two revisions with a common beginning.");
    meeting = step.parent;
  }
  let at = recipe;
  for (let id = head; id !== meeting; id = stepOf(id).parent!) {
    const { version, inverse } = stepOf(id);
    at = applyVersioned(at, { version, changes: inverse });
  }
  return forward.reduce((current, step) => applyVersioned(current, step), at);
}
