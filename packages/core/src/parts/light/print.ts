import { hashOf } from "../../graph/stage-key.ts";
import { prepareShape, type FramedPrint, type PreparedShape } from "../../shapes/prepared.ts";
import type { Finish } from "../finish/schema.ts";
import type { Shape } from "../shape/schema.ts";
import type { PrintSource } from "../part.ts";
import { isByTone, toneTable } from "./tone-table.ts";
import type { Light, LightMove } from "./schema.ts";

/** A move that does something, ready to be drawn. */
export interface PreparedMove extends PreparedShape {
  /** Stops where the shape is full: stops × amount. */
  readonly gain: number;
}

/** A move that acts by tone: its stops are looked up. */
export interface PreparedToneMove extends PreparedShape {
  /** As {@link toneTable}. */
  readonly table: Float32Array;
  /** Names the table. */
  readonly tableKey: string;
}

/** What Light adds to a print made ready. */
export interface LightPrint extends FramedPrint {
  readonly recipe: { readonly light: Light; readonly shape: Shape; readonly finish: Pick<Finish, "edgeBurn"> };
  readonly moves: readonly PreparedMove[];
  readonly toneMoves: readonly PreparedToneMove[];
}

/** The strength with which a move counts: stops × amount, 0 when it is off. */
export function moveGain(move: LightMove): number {
  return move.on ? (move.stops * move.amountPercent) / 100 : 0;
}

export function prepareLight({
  recipe: { light, shape },
}: PrintSource & Pick<LightPrint, "recipe">): Pick<LightPrint, "moves" | "toneMoves"> {
  const even = light.moves.filter((move) => !isByTone(move) && moveGain(move) !== 0);
  const byTone = light.moves.filter((move) => isByTone(move) && move.on && move.amountPercent > 0);
  return {
    moves: even.map((move) => ({ ...prepareShape(move.shape, move.invert), gain: moveGain(move) })),
    toneMoves: byTone.map((move) => {
      const table = toneTable(move, shape);
      return { ...prepareShape(move.shape, move.invert), table, tableKey: hashOf(table.join()) };
    }),
  };
}
