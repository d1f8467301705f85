import type { MaskShape, Recipe, ShapeName, Station } from "@yelm/core";
import type { BenchView } from "../picture/bench-view.ts";

/** Something with a shape on the picture. */
export interface Shaped {
  readonly id: string;
  readonly name: string;
  readonly on: boolean;
  readonly shape: MaskShape;
  /** What stands beside its number on the picture. */
  readonly label: string;
  /** Changed together with others. */
  readonly isLinked?: boolean;
}

/** A list of shapes of one kind that are drawn and pulled on the picture: light moves, areas weighed otherwise. */
export interface ShapeStack {
  readonly station: Station;
  /** What one is called. */
  readonly noun: string;
  list(recipe: Recipe): readonly Shaped[];
  add(recipe: Recipe, shape: MaskShape): { readonly recipe: Recipe; readonly id: string };
  change(recipe: Recipe, id: string, change: (shape: MaskShape) => MaskShape): Recipe;
  put(recipe: Recipe, id: string, change: { readonly name?: string; readonly on?: boolean }): Recipe;
  /** Takes one away. */
  remove(recipe: Recipe, id: string): Recipe;
  /** At another place in the order, from 0. */
  place(recipe: Recipe, id: string, at: number): Recipe;
  activeId(view: BenchView): string | null;
  activate(id: string | null): void;
  /** The longest name. */
  readonly longestName: number;
}

/** The first free name of a kind: "Ellipse 3". */
export function freeName(kind: string, items: readonly { readonly name: string }[]): string {
  const names = new Set(items.map(({ name }) => name));
  let number = 1;
  while (names.has(`${kind} ${number}`)) number++;
  return `${kind} ${number}`;
}

/** A kind of shape as a name of its own: "Ellipse". */
export function kindName(kind: ShapeName): string {
  return kind[0].toUpperCase() + kind.slice(1);
}
