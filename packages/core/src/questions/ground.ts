import { findDust } from "../parts/ground/dust.ts";
import { proposeExposure, type ExposureProposal } from "../parts/ground/exposure-proposal.ts";
import { measureFallOff, type FallOff } from "../parts/ground/fall-off.ts";
import { findHealSource } from "../parts/ground/heal-source.ts";
import type { CleanSpot, Ground, Lens } from "../parts/ground/schema.ts";
import { traceZones, type ZoneShift } from "../parts/ground/zone-trace.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import { levelCount } from "../tiles/tiles.ts";
import { scaledSize, wholeView, type View } from "../tiles/view.ts";
import { wholeLight, type AboutPrint, type Question } from "./reader.ts";

const TRACE_EDGE = 240;
const FALL_OFF_EDGE = 480;
/** Dust is looked for on the level nearest to this long edge. */
const DUST_EDGE = 2600;
/** Radius of a spot on the picture in which its source is looked for, pixels. */
const SPOT_PIXELS = 10;
const REACH = 8;
/** Lowered by this and raised again, a picture keeps what lies beyond sensor white. */
const LOWERED_EV = -2;

/** A place that looks like dust, in long edges from the negative's top left. */
export interface DustPlace {
  readonly x: number;
  readonly y: number;
  readonly radius: number;
}

/** What white balance does to the zones, and the exposure that suits the picture. */
export interface GroundReading {
  readonly trace: readonly ZoneShift[];
  readonly proposal: ExposureProposal;
}

export const groundQuestions = {
  ground: (async (reader, { recipe }) => {
    const unlit = { ...recipe, light: { ...recipe.light, moves: [] } };
    const asShot = { ...recipe.ground, whiteBalance: defaultRecipe().ground.whiteBalance };
    const before = await wholeLight(reader, { ...unlit, ground: asShot }, TRACE_EDGE);
    const after = await wholeLight(reader, unlit, TRACE_EDGE);
    const plain = { ...defaultRecipe(), ground: { ...recipe.ground, exposureEv: LOWERED_EV } };
    const lowered = await wholeLight(reader, plain, TRACE_EDGE);
    const light = lowered.map((value) => value * 2 ** -LOWERED_EV);
    return { trace: traceZones(before, after), proposal: proposeExposure(light, reader.capture.headroomStops ?? 0) };
  }) satisfies Question<AboutPrint, GroundReading>,

  /** What the lens loses in the corners, measured from the picture. */
  fallOff: (async ({ engine, size, fetch }, { recipe }) => {
    const print = engine.prepare(wholeNegative(recipe, { fallOffStops: 0 }));
    const view = wholeView(print.frame, size, FALL_OFF_EDGE);
    await fetch(engine.tilesForColour(print, view));
    return measureFallOff(engine.renderWorking(print, view), view.width, view.height);
  }) satisfies Question<AboutPrint, FallOff>,

  /** Where a spot is best mended from. */
  healSource: (async ({ engine, size, fetch }, { recipe, spot }) => {
    const edge = Math.max(size.width, size.height);
    const others = recipe.ground.clean.filter(({ id, on }) => on && id !== spot.id);
    const print = engine.prepare(wholeNegative(recipe, {}, []));
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
    await fetch(engine.tilesFor(print, view));
    const light = engine.renderLight(print, view);
    const placed = (one: CleanSpot) => ({
      points: one.points.map(([px, py]) => [px * perEdge - x, py * perEdge - y] as const),
      radius: one.radius * perEdge,
    });
    const [dx, dy] = findHealSource(light, view.width, view.height, placed(spot), others.map(placed));
    return { sourceX: dx / perEdge, sourceY: dy / perEdge };
  }) satisfies Question<AboutPrint & { readonly spot: CleanSpot }, Pick<CleanSpot, "sourceX" | "sourceY">>,

  dust: (async ({ engine, size, fetch }, { recipe }) => {
    const edge = Math.max(size.width, size.height);
    const print = engine.prepare(wholeNegative(recipe));
    const level = Math.max(0, Math.min(levelCount(size) - 1, Math.round(Math.log2(edge / DUST_EDGE))));
    const scale = 2 ** -level;
    const view: View = { x: 0, y: 0, ...scaledSize(print.frame, scale), scale, level };
    await fetch(engine.tilesFor(print, view));
    const found = findDust(engine.renderLight(print, view), view.width, view.height);
    const perEdge = edge * scale;
    return found.map(({ x, y, radius }) => ({ x: x / perEdge, y: y / perEdge, radius: radius / perEdge }));
  }) satisfies Question<AboutPrint, readonly DustPlace[]>,
};

/** The negative itself under the recipe's weights: nothing cropped, turned or bent. */
function wholeNegative(recipe: Recipe, lens: Partial<Lens> = {}, clean: Ground["clean"] = recipe.ground.clean): Recipe {
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
