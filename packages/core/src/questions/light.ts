import { lightToStops, printZone } from "../colour/stops.ts";
import { evenZones, ZONE_COUNT } from "../parts/light/schema.ts";
import { isByTone, stopsOnZone } from "../parts/light/tone-table.ts";
import { toneCurve } from "../parts/shape/tone-curve.ts";
import type { Size } from "../maths/rect.ts";
import { wholeView } from "../tiles/view.ts";
import { pictureQuestions, type AtSpot } from "./picture.ts";
import { wholeLight, type AboutPrint, type Question } from "./reader.ts";

const ZONES_EDGE = 600;
const MAP_EDGE = 500;

/** The total of all light moves, stops, row by row. */
export interface BurnMap extends Size {
  readonly stops: Float32Array;
}

/** What a move does at a place. */
export interface MoveAt {
  readonly id: string;
  readonly stops: number;
}

/** Scene stops; what has no light counts as the least. */
const lit = (light: number): number => lightToStops(Math.max(1e-6, light));
/** Stops less than this are nothing to the eye. */
const LEAST_STOPS = 0.01;

export const lightQuestions = {
  /** Which moves act at a place of the frame, full-size pixels, and by how many stops; in their order. */
  movesAt: (async (reader, { recipe, x, y }) => {
    const { engine } = reader;
    const moves = recipe.light.moves.filter(({ on }) => on);
    if (moves.length === 0) return [];
    const plain = { ...recipe, light: { ...recipe.light, moves: [] } };
    const byTone = moves.some(isByTone);
    const { light } = byTone ? await pictureQuestions.probe(reader, { recipe: plain, x, y }) : { light: 0 };
    const zone = printZone(toneCurve(recipe.shape)(light));
    const masks = engine.masksAt(engine.prepare(plain), moves.map(({ shape }) => shape), x, y); // prettier-ignore
    return moves
      .map((move, i) => {
        const share = move.invert ? 1 - masks[i] : masks[i];
        const stops = isByTone(move) ? stopsOnZone(move, zone) : move.stops;
        return { id: move.id, stops: (share * stops * move.amountPercent) / 100 };
      })
      .filter(({ stops }) => Math.abs(stops) >= LEAST_STOPS);
  }) satisfies Question<AtSpot, MoveAt[]>,

  /** Stops by which all moves and burned edges together lift or burn each place of the whole print, small. */
  burnMap: (async (reader, { recipe }) => {
    const { engine, size } = reader;
    const finish = { ...recipe.finish, edgeBurn: { ...recipe.finish.edgeBurn, stops: 0 } };
    const plain = await wholeLight(reader, { ...recipe, finish, light: { ...recipe.light, moves: [] } }, MAP_EDGE);
    const whole = await wholeLight(reader, recipe, MAP_EDGE);
    const { width, height } = wholeView(engine.prepare(recipe).frame, size, MAP_EDGE);
    return { width, height, stops: whole.map((light, i) => lit(light) - lit(plain[i])) };
  }) satisfies Question<AboutPrint, BurnMap>,

  /**
   * How much of what lies inside a move's shape prints on each zone, 0 to X, by the print without light moves; weighted by the
   * shape. Null when there is no such move, or nothing of it in the frame.
   */
  zonesInside: (async (reader, { recipe, moveId }) => {
    const move = recipe.light.moves.find(({ id }) => id === moveId);
    if (!move) return null;
    const finish = { ...recipe.finish, edgeBurn: { ...recipe.finish.edgeBurn, stops: 0 } };
    const withMoves = (moves: typeof recipe.light.moves) => ({ ...recipe, finish, light: { ...recipe.light, moves } });
    const plain = await wholeLight(reader, withMoves([]), ZONES_EDGE);
    // A move of one whole stop shows its own mask.
    const even = { ...move, on: true, stops: 1, amountPercent: 100, ...evenZones() };
    const lifted = await wholeLight(reader, withMoves([even]), ZONES_EDGE);
    const curve = toneCurve(recipe.shape);
    const shares = new Array<number>(ZONE_COUNT).fill(0);
    plain.forEach((light, i) => {
      const mask = lit(lifted[i]) - lit(light);
      if (mask > 0) shares[Math.round(printZone(curve(light)))] += mask;
    });
    const sum = shares.reduce((total, share) => total + share, 0);
    return sum > 0 ? shares.map((share) => share / sum) : null;
  }) satisfies Question<AboutPrint & { readonly moveId: string }, number[] | null>,
};
