import { formatStops } from "@yelm/core";
import { benchView } from "../../picture/bench-view.ts";
import type { ShapeStack } from "../../shapes/stack.ts";
import { changeMove, LONGEST_NAME, newMove, placeMove, removeMove, withMove } from "./edits.ts";

/** Light moves, as shapes on the picture. */
export const LIGHT_STACK: ShapeStack = {
  station: "Light",
  noun: "move",
  longestName: LONGEST_NAME,
  list: ({ light }) =>
    light.moves.map((move) => ({ ...move, label: formatStops(move.stops), isLinked: move.link !== "" })),
  add(recipe, shape) {
    const move = newMove(recipe.light.moves, shape);
    return { recipe: withMove(recipe, move), id: move.id };
  },
  change: (recipe, id, change) => changeMove(recipe, id, (move) => ({ ...move, shape: change(move.shape) })),
  put: (recipe, id, change) => changeMove(recipe, id, (move) => ({ ...move, ...change })),
  remove: removeMove,
  place: placeMove,
  activeId: ({ moveId }) => moveId,
  activate: (moveId) => benchView.setState({ moveId }),
};
