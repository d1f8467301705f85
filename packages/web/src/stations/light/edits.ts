import {
  effectsSchema,
  lightMoveSchema,
  plainMove,
  rangeOf,
  STRAIGHT_CURVE,
  type LightGroup,
  type LightMove,
  type MaskShape,
  type Recipe,
} from "@yelm/core";
import { toolOf } from "../../shapes/shape-tools.ts";
import { freeName, kindName } from "../../shapes/stack.ts";
import { newId, placed } from "../../shapes/stack-edits.ts";

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

/** Changes a move; those linked with it do the same from then on, each in its own place. */
export function changeMove(recipe: Recipe, id: string, change: (move: LightMove) => LightMove): Recipe {
  const { moves } = recipe.light;
  const found = moves.find((move) => move.id === id);
  if (!found) return recipe;
  const next = change(found);
  const { stops, amountPercent, zones, byZone, curve, limits, effects } = next;
  const shared = { stops, amountPercent, zones, byZone, curve, limits, effects };
  const isLinked = (move: LightMove) => next.link !== "" && move.link === next.link;
  return {
    ...recipe,
    light: {
      ...recipe.light,
      moves: moves.map((move) => (move === found ? next : isLinked(move) ? { ...move, ...shared } : move)),
    },
  };
}

export function removeMove(recipe: Recipe, id: string): Recipe {
  const moves = recipe.light.moves.filter((move) => move.id !== id);
  const groups = recipe.light.groups.filter((group) => moves.some((move) => move.group === group.id));
  return { ...recipe, light: { ...recipe.light, moves, groups } };
}

/** A copy right after the move, independent of it or linked with it. */
export function duplicateMove(
  recipe: Recipe,
  id: string,
  copyId = newId(),
  link = "",
): { recipe: Recipe; copy: LightMove | undefined } {
  const { moves } = recipe.light;
  const found = moves.find((move) => move.id === id);
  if (!found) return { recipe, copy: undefined };
  const original = link === "" ? found : { ...found, link: found.link || link };
  const name = `${found.name} again`.slice(0, LONGEST_NAME);
  const copy = { ...structuredClone(original), id: copyId, name, link: link === "" ? "" : original.link };
  return {
    recipe: withMoves(
      recipe,
      moves.flatMap((move) => (move === found ? [original, copy] : [move])),
    ),
    copy,
  };
}

const withMoves = (recipe: Recipe, moves: LightMove[]): Recipe => ({ ...recipe, light: { ...recipe.light, moves } });

/** A move that does the opposite everywhere else: the inverse shape, every effect turned round. */
export function addOpposite(recipe: Recipe, id: string, copyId: string): Recipe {
  const { moves } = recipe.light;
  const found = moves.find((move) => move.id === id);
  if (!found) return recipe;
  const { effects, byZone, curve } = found;
  const turned = (value: number, { minimum, maximum }: { minimum: number; maximum: number }) =>
    Math.min(maximum, Math.max(minimum, value === 0 ? 0 : -value));
  const fields = ["grade", "open", "hold", "local", "fine", "softness", "haze"] as const;
  const opposite: LightMove = {
    ...structuredClone(found),
    id: copyId,
    name: `Opposite of ${found.name}`.slice(0, LONGEST_NAME),
    invert: !found.invert,
    stops: found.stops === 0 ? 0 : -found.stops,
    byZone: byZone.map((stops) => (stops === 0 ? 0 : -stops)),
    curve: inverseCurve(curve),
    effects: {
      ...effects,
      ...Object.fromEntries(fields.map((field) => [field, turned(effects[field], rangeOf(effectsSchema, field))])),
    },
    link: "",
  };
  return withMoves(
    recipe,
    moves.flatMap((move) => (move === found ? [move, opposite] : [move])),
  );
}

/** The curve that takes back what another does: its points, turned round; of those that print alike one. */
function inverseCurve(curve: LightMove["curve"]): LightMove["curve"] {
  const turned = curve.map(([x, y]): [number, number] => [y, x]).filter(([x], i, all) => i === 0 || x > all[i - 1][0]);
  return turned.length < 2 ? STRAIGHT_CURVE : turned;
}

/** A move at another place in the order. */
export function placeMove(recipe: Recipe, id: string, at: number): Recipe {
  return withMoves(recipe, placed(recipe.light.moves, id, at));
}

/** A move's group; a new one when it is not there yet. */
export function groupMove(
  recipe: Recipe,
  id: string,
  group: { readonly id: string; readonly name: string } | null,
): Recipe {
  const { light } = recipe;
  const fresh = group !== null && !light.groups.some((one) => one.id === group.id);
  const groups: LightGroup[] = fresh ? [...light.groups, { ...group, on: true, amountPercent: 100 }] : light.groups;
  const moves = light.moves.map((move) => (move.id === id ? { ...move, group: group?.id ?? "" } : move));
  // A group that nothing belongs to is gone.
  return {
    ...recipe,
    light: { ...light, moves, groups: groups.filter((one) => moves.some((move) => move.group === one.id)) },
  };
}

export function changeGroup(recipe: Recipe, id: string, change: Partial<LightGroup>): Recipe {
  const groups = recipe.light.groups.map((group) => (group.id === id ? { ...group, ...change } : group));
  return { ...recipe, light: { ...recipe.light, groups } };
}

/** All moves at a share of their amounts. */
export function scaleMoves(recipe: Recipe, share: number): Recipe {
  const { minimum, maximum } = rangeOf(lightMoveSchema, "amountPercent");
  const scaled = (percent: number) => Math.min(maximum, Math.max(minimum, Math.round(percent * share)));
  return {
    ...recipe,
    light: {
      ...recipe.light,
      moves: recipe.light.moves.map((move) => ({ ...move, amountPercent: scaled(move.amountPercent) })),
    },
  };
}
