import { lightToStops, printZone } from "../colour/stops.ts";
import { evenZones, ZONE_COUNT } from "../parts/light/schema.ts";
import { toneCurve } from "../parts/shape/tone-curve.ts";
import { wholeLight, type AboutPrint, type Question } from "./reader.ts";

const ZONES_EDGE = 600;

export const lightQuestions = {
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
      const mask = lightToStops(lifted[i]) - lightToStops(light);
      if (mask > 0) shares[Math.round(printZone(curve(light)))] += mask;
    });
    const sum = shares.reduce((total, share) => total + share, 0);
    return sum > 0 ? shares.map((share) => share / sum) : null;
  }) satisfies Question<AboutPrint & { readonly moveId: string }, number[] | null>,
};
