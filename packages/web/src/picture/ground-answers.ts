import {
  defaultRecipe,
  findDust,
  findHealSource,
  levelCount,
  measureFallOff,
  proposeExposure,
  scaledSize,
  traceZones,
  wholeView,
  type CleanSpot,
  type Engine,
  type Recipe,
  type View,
} from "@yelm/core";
import type { WorkerResults } from "./protocol.ts";
import type { SharedTiles } from "./tile-source.ts";

const TRACE_EDGE = 240;
const FALL_OFF_EDGE = 480;
/** Dust is looked for on the level nearest to this long edge. */
const DUST_EDGE = 2600;
/** Radius of a spot on the picture in which its source is looked for, pixels. */
const SPOT_PIXELS = 10;
const REACH = 8;
/** Lowered by this and raised again, a picture keeps what lies beyond sensor white. */
const LOWERED_EV = -2;

/** Answers of a render worker that Ground asks for. */
export class GroundAnswers {
  readonly #engine: Engine;
  readonly #tiles: SharedTiles;

  constructor(engine: Engine, tiles: SharedTiles) {
    this.#engine = engine;
    this.#tiles = tiles;
  }

  async ground(recipe: Recipe, headroomStops: number): Promise<WorkerResults["ground"]> {
    const asShot = { ...recipe.ground, whiteBalance: defaultRecipe().ground.whiteBalance };
    const before = await this.#light({ ...recipe, ground: asShot }, TRACE_EDGE);
    const after = await this.#light(recipe, TRACE_EDGE);
    const plain = { ...defaultRecipe(), ground: { ...recipe.ground, exposureEv: LOWERED_EV } };
    const lowered = await this.#light(plain, TRACE_EDGE);
    const light = lowered.map((value) => value * 2 ** -LOWERED_EV);
    return { trace: traceZones(before, after), proposal: proposeExposure(light, headroomStops) };
  }

  async fallOff(recipe: Recipe): Promise<WorkerResults["fallOff"]> {
    const print = this.#engine.prepare(wholeNegative(recipe, { fallOffStops: 0 }));
    const view = wholeView(print.frame, this.#tiles.size, FALL_OFF_EDGE);
    await this.#tiles.fetchAll(this.#engine.tilesForColour(print, view));
    return measureFallOff(this.#engine.renderWorking(print, view), view.width, view.height);
  }

  async healSource(recipe: Recipe, spot: CleanSpot): Promise<WorkerResults["healSource"]> {
    const { size } = this.#tiles;
    const edge = Math.max(size.width, size.height);
    const others = recipe.ground.clean.filter(({ id, on }) => on && id !== spot.id);
    const print = this.#engine.prepare(wholeNegative(recipe, {}, []));
    const level = Math.max(
      0,
      Math.min(levelCount(size) - 1, Math.floor(Math.log2((spot.radius * edge) / SPOT_PIXELS))),
    );
    const scale = 2 ** -level;
    const whole = scaledSize(print.frame, scale);
    const perEdge = edge * scale;
    const reach = REACH * spot.radius * perEdge;
    const xs = spot.points.map(([x]) => x * perEdge);
    const ys = spot.points.map(([, y]) => y * perEdge);
    const x = Math.max(0, Math.floor(Math.min(...xs) - reach));
    const y = Math.max(0, Math.floor(Math.min(...ys) - reach));
    const view: View = {
      x, y, scale, level,
      width: Math.min(whole.width, Math.ceil(Math.max(...xs) + reach)) - x,
      height: Math.min(whole.height, Math.ceil(Math.max(...ys) + reach)) - y,
    }; // prettier-ignore
    await this.#tiles.fetchAll(this.#engine.tilesFor(print, view));
    const light = this.#engine.renderLight(print, view);
    const placed = (one: CleanSpot) => ({
      points: one.points.map(([px, py]) => [px * perEdge - x, py * perEdge - y] as const),
      radius: one.radius * perEdge,
    });
    const [dx, dy] = findHealSource(light, view.width, view.height, placed(spot), others.map(placed));
    return { sourceX: dx / perEdge, sourceY: dy / perEdge };
  }

  async dust(recipe: Recipe): Promise<WorkerResults["dust"]> {
    const { size } = this.#tiles;
    const edge = Math.max(size.width, size.height);
    const print = this.#engine.prepare(wholeNegative(recipe));
    const level = Math.max(0, Math.min(levelCount(size) - 1, Math.round(Math.log2(edge / DUST_EDGE))));
    const scale = 2 ** -level;
    const view: View = { x: 0, y: 0, ...scaledSize(print.frame, scale), scale, level };
    await this.#tiles.fetchAll(this.#engine.tilesFor(print, view));
    const found = findDust(this.#engine.renderLight(print, view), view.width, view.height);
    const perEdge = edge * scale;
    return found.map(({ x, y, radius }) => ({ x: x / perEdge, y: y / perEdge, radius: radius / perEdge }));
  }

  async #light(recipe: Recipe, longEdge: number): Promise<Float32Array> {
    const print = this.#engine.prepare({ ...recipe, light: { moves: [] } });
    const view = wholeView(print.frame, this.#tiles.size, longEdge);
    await this.#tiles.fetchAll(this.#engine.tilesFor(print, view));
    return this.#engine.renderLight(print, view).slice();
  }
}

/** The negative itself under the recipe's weights: nothing cropped, turned or bent. */
function wholeNegative(
  recipe: Recipe,
  lens: Partial<Recipe["ground"]["lens"]> = {},
  clean: Recipe["ground"]["clean"] = recipe.ground.clean,
): Recipe {
  const plain = defaultRecipe();
  const { fallOffStops } = recipe.ground.lens;
  return {
    ...plain,
    weigh: recipe.weigh,
    ground: {
      ...plain.ground,
      whiteBalance: recipe.ground.whiteBalance,
      clean,
      lens: { ...plain.ground.lens, fallOffStops, ...lens },
    },
  };
}
