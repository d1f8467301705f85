import type { CopyGroup } from "../parts/part.ts";
import type { Station } from "../parts/stations.ts";
import { PARTS, type RecipePart } from "./parts.ts";
import type { Recipe } from "./schema.ts";

/** A group of fields that is copied together, and where it belongs. */
export interface CopiedPart extends CopyGroup {
  readonly part: RecipePart;
  readonly station: Station;
}

/** Everything that can be copied from one print to others, in the order of the work. */
export const COPIED_PARTS: readonly CopiedPart[] = PARTS.flatMap(({ name, station, copies }) =>
  copies.map((group) => ({ ...group, part: name, station })),
);

/** The recipe `to` with some groups as they are in `from`; shared with it where nothing differs. */
export function copyParts(from: Recipe, to: Recipe, ids: readonly string[]): Recipe {
  return differingParts(from, to, ids).reduce((recipe, { part, fields }) => {
    const source = from[part] as Readonly<Record<string, unknown>>;
    const taken = Object.fromEntries(fields.map((field) => [field, source[field]]));
    return { ...recipe, [part]: { ...recipe[part], ...taken } };
  }, to);
}

/** The groups, of those named, in which two recipes differ. */
export function differingParts(from: Recipe, to: Recipe, ids: readonly string[]): CopiedPart[] {
  return COPIED_PARTS.filter(({ id, part, fields }) => {
    if (!ids.includes(id)) return false;
    const pick = (recipe: Recipe) => fields.map((field) => (recipe[part] as Readonly<Record<string, unknown>>)[field]);
    return JSON.stringify(pick(from)) !== JSON.stringify(pick(to));
  });
}
