import { rangeOf, type NumberRange, type Recipe, type Station } from "@yelm/core";
import { useEdit, useSession } from "../data/use-session.ts";

/** Reads and writes one group of a recipe's fields. */
export interface Lens<T> {
  readonly station: Station;
  readonly schema: { readonly properties: Record<string, unknown> };
  readonly get: (recipe: Recipe) => T;
  readonly put: (recipe: Recipe, value: T) => Recipe;
}

/** A group of recipe fields with what its controls need. `change` and `amount` name the act that is kept. */
export function useLens<T extends object>({ station, schema, get, put }: Lens<T>) {
  const session = useSession();
  const value = useEdit((state) => get(state.recipe));
  const preview = (change: Partial<T>) => session.preview((recipe) => put(recipe, { ...get(recipe), ...change }));
  const commit = (label: string) => session.commit(station, label);
  return {
    value,
    preview,
    commit,
    change: (label: string, change: Partial<T>) => {
      preview(change);
      commit(label);
    },
    /** Props of an amount for a numeric field. */
    amount: (field: keyof T & string, label: string) => ({
      label,
      value: value[field] as number,
      range: rangeOf(schema, field) satisfies NumberRange,
      onChange: (next: number) => preview({ [field]: next } as unknown as Partial<T>),
      onEnd: () => commit(label),
    }),
  };
}
