import { formatStops, type LightMove, type Recipe, type Station } from "@yelm/core";
import { addArea, changeArea } from "../stations/area-edits.ts";
import { changeMove, newMove, withMove } from "../stations/light-edits.ts";
import { benchView, type BenchView } from "./bench-view.ts";

export type Shape = LightMove["shape"];

/** Something with a shape on the picture. */
export interface Shaped {
  readonly id: string;
  readonly name: string;
  readonly on: boolean;
  readonly shape: Shape;
  /** What stands beside its number on the picture. */
  readonly label: string;
}

/** A list of shapes of one kind that are drawn and pulled on the picture. */
export interface ShapeStack {
  readonly station: Station;
  /** What one is called. */
  readonly noun: string;
  list(recipe: Recipe): readonly Shaped[];
  add(recipe: Recipe, shape: Shape): { readonly recipe: Recipe; readonly id: string };
  change(recipe: Recipe, id: string, change: (shape: Shape) => Shape): Recipe;
  activeId(view: BenchView): string | null;
  activate(id: string): void;
}

export const LIGHT_STACK: ShapeStack = {
  station: "Light",
  noun: "move",
  list: ({ light }) => light.moves.map((move) => ({ ...move, label: formatStops(move.stops) })),
  add(recipe, shape) {
    const move = newMove(recipe.light.moves, shape);
    return { recipe: withMove(recipe, move), id: move.id };
  },
  change: (recipe, id, change) => changeMove(recipe, id, (move) => ({ ...move, shape: change(move.shape) })),
  activeId: ({ moveId }) => moveId,
  activate: (moveId) => benchView.setState({ moveId }),
};

export const AREA_STACK: ShapeStack = {
  station: "Weigh",
  noun: "area",
  list: ({ weigh }) => weigh.areas.map((area) => ({ ...area, label: area.name })),
  add: addArea,
  change: (recipe, id, change) => changeArea(recipe, id, ({ shape }) => ({ shape: change(shape) })),
  activeId: ({ areaId }) => areaId,
  activate: (areaId) => benchView.setState({ areaId }),
};
