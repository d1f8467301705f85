import { prepareShape, type FramedPrint, type PreparedShape } from "../../shapes/prepared.ts";
import type { Finish } from "../finish/schema.ts";
import type { PrintSource } from "../part.ts";
import type { Light, LightMove } from "./schema.ts";

/** A move that does something, ready to be drawn. */
export interface PreparedMove extends PreparedShape {
  /** Stops where the shape is full: stops × amount. */
  readonly gain: number;
}

/** What Light adds to a print made ready. */
export interface LightPrint extends FramedPrint {
  readonly recipe: { readonly light: Light; readonly finish: Pick<Finish, "edgeBurn"> };
  readonly moves: readonly PreparedMove[];
}

/** The strength with which a move counts: stops × amount, 0 when it is off. */
export function moveGain(move: LightMove): number {
  return move.on ? (move.stops * move.amountPercent) / 100 : 0;
}

export function prepareLight({ recipe }: PrintSource & Pick<LightPrint, "recipe">): Pick<LightPrint, "moves"> {
  const moves = recipe.light.moves.filter((move) => moveGain(move) !== 0);
  return { moves: moves.map((move) => ({ ...prepareShape(move.shape, move.invert), gain: moveGain(move) })) };
}
