import { plainMove, lightMoveSchema, rangeOf, type LightMove, type MaskShape, type Recipe } from "@yelm/core";
import { toolOf } from "../../shapes/shape-tools.ts";
import { freeName, kindName } from "../../shapes/stack.ts";
import { newId, shifted } from "../../shapes/stack-edits.ts";

export const LONGEST_NAME = lightMoveSchema.properties.name.maxLength ?? 80;

/** A new move with a name and id that no other has. */
export function newMove(moves: readonly LightMove[], shape: MaskShape): LightMove {
  return {
    id: newId(),
    name: freeName(kindName(shape.kind), moves),
    on: true,
    stops: toolOf(shape.kind).firstStops,
    amountPercent: 100,
    invert: false,
    ...plainMove(),
    shape,
  };
}

export function withMove(recipe: Recipe, move: LightMove): Recipe {
  return { ...recipe, light: { ...recipe.light, moves: [...recipe.light.moves, move] } };
}

export function changeMove(recipe: Recipe, id: string, change: (move: LightMove) => LightMove): Recipe {
  return { ...recipe, light: { ...recipe.light, moves: recipe.light.moves.map((move) => (move.id === id ? change(move) : move)) } };
}

export function removeMove(recipe: Recipe, id: string): Recipe {
  return { ...recipe, light: { ...recipe.light, moves: recipe.light.moves.filter((move) => move.id !== id) } };
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
  const copy = { ...structuredClone(found), id: copyId, name: `${found.name} again`.slice(0, LONGEST_NAME) };
  return {
    recipe: { ...recipe, light: { ...recipe.light, moves: moves.flatMap((move) => (move === found ? [move, copy] : [move])) } },
    copy,
  };
}

/** Moves a move one place earlier (−1) or later (+1); at the ends nothing happens. */
export function shiftMove(recipe: Recipe, id: string, by: -1 | 1): Recipe {
  return { ...recipe, light: { ...recipe.light, moves: shifted(recipe.light.moves, id, by) } };
}

/** All moves at a share of their amounts. */
export function scaleMoves(recipe: Recipe, share: number): Recipe {
  const { minimum, maximum } = rangeOf(lightMoveSchema, "amountPercent");
  const scaled = (percent: number) => Math.min(maximum, Math.max(minimum, Math.round(percent * share)));
  return {
    ...recipe,
    light: { ...recipe.light, moves: recipe.light.moves.map((move) => ({ ...move, amountPercent: scaled(move.amountPercent) })) },
  };
}
