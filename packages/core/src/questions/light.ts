import { lightToStops, printZone } from "../colour/stops.ts";
import { plainMove, ZONE_COUNT } from "../parts/light/schema.ts";
import { isRich, moveShare } from "../parts/light/print.ts";
import { toneCurve } from "../parts/shape/tone-curve.ts";
import { applyAffine } from "../maths/affine.ts";
import type { Size } from "../maths/rect.ts";
import { lightDirection, splashes, type LightDirection, type Splash } from "../measure/shading.ts";
import { wholeView } from "../tiles/view.ts";
import { pictureQuestions, type AtSpot } from "./picture.ts";
import { lightOfBoth, wholeLight, type AboutPrint, type Question } from "./reader.ts";

/** Long edges that the pictures asked about have at most. */
const ZONES_EDGE = 800;
const MAP_EDGE = 800;
const SHADING_EDGE = 320;
const EXTENT_EDGE = 400;

/** The total of all light moves, stops, row by row. */
export interface BurnMap extends Size {
  readonly stops: Float32Array;
}

/** How much a move does, and to how much of the picture. */
export interface MoveExtent {
  readonly most: number;
  readonly mean: number;
  readonly share: number;
}

/** What the shading tells of a print's light. */
export interface Shading {
  readonly direction: LightDirection;
  readonly splashes: readonly Splash[];
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
    const moves = recipe.light.moves
      .map((move) => ({ move, share: moveShare(recipe.light, move) }))
      .filter(({ share }) => share > 0);
    if (moves.length === 0) return [];
    const withMoves = (some: typeof recipe.light.moves) => ({ ...recipe, light: { ...recipe.light, moves: some } });
    const plain = withMoves([]);
    const masks = engine.masksAt(engine.prepare(plain), moves.map(({ move }) => move.shape), x, y); // prettier-ignore
    const at = async (of: typeof recipe) => lit((await pictureQuestions.probe(reader, { recipe: of, x, y })).light);
    const before = moves.some(({ move }) => isRich(move)) ? await at(plain) : 0;
    const found: MoveAt[] = [];
    for (const [i, { move, share }] of moves.entries()) {
      const mask = move.invert ? 1 - masks[i] : masks[i];
      // What looks at the picture is measured on it, by itself.
      const stops = isRich(move) ? (await at(withMoves([move]))) - before : mask * move.stops * share;
      if (Math.abs(stops) >= LEAST_STOPS) found.push({ id: move.id, stops });
    }
    return found;
  }) satisfies Question<AtSpot, MoveAt[]>,

  /** What one move does to the whole print: greatest and mean stops, and the share of the picture that it changes. */
  moveExtent: (async (reader, { recipe, moveId }) => {
    const move = recipe.light.moves.find(({ id }) => id === moveId);
    if (!move) return null;
    const finish = { ...recipe.finish, edgeBurn: { ...recipe.finish.edgeBurn, stops: 0 } };
    const withMoves = (moves: typeof recipe.light.moves) => ({ ...recipe, finish, light: { ...recipe.light, moves } });
    const both = [withMoves([]), withMoves([{ ...move, on: true }])] as const;
    const { before, after } = await lightOfBoth(reader, both, EXTENT_EDGE);
    let [most, sum, count] = [0, 0, 0];
    before.forEach((light, i) => {
      const stops = lit(after[i]) - lit(light);
      if (Math.abs(stops) < LEAST_STOPS) return;
      if (Math.abs(stops) > Math.abs(most)) most = stops;
      sum += stops;
      count++;
    });
    return { most, mean: count > 0 ? sum / count : 0, share: count / before.length };
  }) satisfies Question<AboutPrint & { readonly moveId: string }, MoveExtent | null>,

  /** Stops by which all moves and burned edges together lift or burn each place of the whole print, small. */
  burnMap: (async (reader, { recipe }) => {
    const finish = { ...recipe.finish, edgeBurn: { ...recipe.finish.edgeBurn, stops: 0 } };
    const plain = { ...recipe, finish, light: { ...recipe.light, moves: [] } };
    const { view, before, after } = await lightOfBoth(reader, [plain, recipe], MAP_EDGE);
    return { width: view.width, height: view.height, stops: after.map((light, i) => lit(light) - lit(before[i])) };
  }) satisfies Question<AboutPrint, BurnMap>,

  /**
   * What the shading tells of the light, without light moves: where it comes from, and the broad lights; places in long edges of
   * the flat picture.
   */
  shading: (async (reader, { recipe }) => {
    const { engine, size } = reader;
    const finish = { ...recipe.finish, edgeBurn: { ...recipe.finish.edgeBurn, stops: 0 } };
    const plain = { ...recipe, finish, light: { ...recipe.light, moves: [] } };
    const light = await wholeLight(reader, plain, SHADING_EDGE);
    const { frame } = engine.prepare(plain);
    const view = wholeView(frame, size, SHADING_EDGE);
    const edge = Math.max(size.width, size.height);
    const scale = Math.max(view.width, view.height) / view.scale;
    const turned = (Math.atan2(frame.toFlat.ay, frame.toFlat.ax) * 180) / Math.PI;
    const direction = lightDirection(light, view);
    return {
      direction: { ...direction, angleDegrees: direction.angleDegrees + turned },
      splashes: splashes(light, view).map((splash) => {
        const [x, y] = applyAffine(frame.toFlat, splash.x * scale, splash.y * scale);
        const grown = scale / edge;
        return {
          ...splash,
          x: x / edge,
          y: y / edge,
          radiusX: splash.radiusX * grown,
          radiusY: splash.radiusY * grown,
          angleDegrees: splash.angleDegrees + turned,
        };
      }),
    };
  }) satisfies Question<AboutPrint, Shading>,

  /**
   * How much of what lies inside a move's shape prints on each zone, 0 to X, by the print without light moves; weighted by the
   * shape. Null when there is no such move, or nothing of it in the frame.
   */
  zonesInside: (async (reader, { recipe, moveId }) => {
    const move = recipe.light.moves.find(({ id }) => id === moveId);
    if (!move) return null;
    const finish = { ...recipe.finish, edgeBurn: { ...recipe.finish.edgeBurn, stops: 0 } };
    const withMoves = (moves: typeof recipe.light.moves) => ({ ...recipe, finish, light: { ...recipe.light, moves } });
    // A move of one whole stop shows its own mask.
    const even = { ...move, on: true, stops: 1, amountPercent: 100, ...plainMove(), limits: move.limits };
    const { before, after } = await lightOfBoth(reader, [withMoves([]), withMoves([even])], ZONES_EDGE);
    const curve = toneCurve(recipe.shape);
    const shares = new Array<number>(ZONE_COUNT).fill(0);
    before.forEach((light, i) => {
      const mask = lit(after[i]) - lit(light);
      if (mask > 0) shares[Math.round(printZone(curve(light)))] += mask;
    });
    const sum = shares.reduce((total, share) => total + share, 0);
    return sum > 0 ? shares.map((share) => share / sum) : null;
  }) satisfies Question<AboutPrint & { readonly moveId: string }, number[] | null>,
};
