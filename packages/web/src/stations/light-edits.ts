import type { LightMove, Recipe } from "@yelm/core";
import { newId, shifted } from "./stack-edits.ts";

/** A new move with a name and id that no other has. */
export function newMove(moves: readonly LightMove[], shape: LightMove["shape"]): LightMove {
  const kind = shape.kind === "ellipse" ? "Ellipse" : "Brush";
  const names = new Set(moves.map((move) => move.name));
  let number = 1;
  while (names.has(`${kind} ${number}`)) number++;
  return {
    id: newId(),
    name: `${kind} ${number}`,
    on: true,
    stops: shape.kind === "ellipse" ? 0.5 : -0.5,
    amountPercent: 100,
    invert: false,
    shape,
  };
}

export function withMove(recipe: Recipe, move: LightMove): Recipe {
  return { ...recipe, light: { moves: [...recipe.light.moves, move] } };
}

export function changeMove(recipe: Recipe, id: string, change: (move: LightMove) => LightMove): Recipe {
  return { ...recipe, light: { moves: recipe.light.moves.map((move) => (move.id === id ? change(move) : move)) } };
}

export function removeMove(recipe: Recipe, id: string): Recipe {
  return { ...recipe, light: { moves: recipe.light.moves.filter((move) => move.id !== id) } };
}

/** A copy right after the move, independent of it. */
export function duplicateMove(
  recipe: Recipe,
  id: string,
  copyId = newId(),
): { recipe: Recipe; copy: LightMove | undefined } {
  const { moves } = recipe.light;
  const found = moves.find((move) => move.id === id);
  if (!found) return { recipe, copy: undefined };
  const copy = { ...structuredClone(found), id: copyId, name: `${found.name} again`.slice(0, 80) };
  return {
    recipe: { ...recipe, light: { moves: moves.flatMap((move) => (move === found ? [move, copy] : [move])) } },
    copy,
  };
}

/** Moves a move one place earlier (−1) or later (+1); at the ends nothing happens. */
export function shiftMove(recipe: Recipe, id: string, by: -1 | 1): Recipe {
  return { ...recipe, light: { moves: shifted(recipe.light.moves, id, by) } };
}
