import { curveThrough } from "../../maths/curve-points.ts";
import { hashOf } from "../../maths/hash-of.ts";
import { prepareShape, type FramedPrint, type PreparedShape } from "../../shapes/prepared.ts";
import { regionsOf } from "../../shapes/shapes.ts";
import type { Finish } from "../finish/schema.ts";
import type { Shape } from "../shape/schema.ts";
import type { Keep, PrintSource } from "../part.ts";
import { prepareShare, type WeighPrint } from "../weigh/print.ts";
import { actsOnTones, byToneTable, toneByToneTable, zoneLimitTable } from "./tone-table.ts";
import type { Light, LightEffects, LightLimits, LightMove } from "./schema.ts";

/** A move that only lifts or burns where its shape is, ready to be drawn. */
export interface PreparedMove extends PreparedShape {
  /** Stops where the shape is full: stops × amount. */
  readonly gain: number;
}

/** A move that looks at the picture: by tone, by colour, along its edges, or with more effects than stops. */
export interface PreparedRichMove extends PreparedShape {
  /** Stops added for the tone of the base, as `byToneTable`; null when nothing depends on it. */
  readonly byTone: Float32Array | null;
  /** Stops added for the tone itself, as `toneByToneTable`; null when there are none. */
  readonly grade: Float32Array | null;
  /** Share − 1 of the mask that is left to effects beyond stops, by the tone of the base; null when all of it is. */
  readonly zoneLimit: Float32Array | null;
  readonly limits: LightLimits;
  /** The print whose light is twice as strong where a limiting family is, and the one where it is not; null without such a limit. */
  readonly share: { readonly lifted: WeighPrint; readonly plain: WeighPrint } | null;
  /** Strengths of the effects in space, amount included. */
  readonly space: Pick<LightEffects, "local" | "fine" | "softness" | "haze">;
  /** Names everything but the shape and the picture. */
  readonly richKey: string;
}

/** What Light adds to a print made ready. */
export interface LightPrint extends WeighPrint, FramedPrint {
  readonly recipe: WeighPrint["recipe"] & {
    readonly light: Light;
    readonly shape: Shape;
    readonly finish: Pick<Finish, "edgeBurn">;
  };
  readonly frame: WeighPrint["frame"];
  readonly moves: readonly PreparedMove[];
  readonly richMoves: readonly PreparedRichMove[];
  /** Whether some move clears haze or lays it in. */
  readonly clearsHaze: boolean;
}

/** Share of its strength with which a move counts, 0–4: its own amount and its group's; 0 when either is off. */
export function moveShare(light: Pick<Light, "groups">, move: LightMove): number {
  const group = move.group === "" ? undefined : light.groups.find(({ id }) => id === move.group);
  if (!move.on || group?.on === false) return 0;
  return (move.amountPercent * (group?.amountPercent ?? 100)) / 10_000;
}

/** Whether a move does more than lift or burn within a geometric shape. */
export function isRich({ zones, byZone, curve, limits, effects, shape }: LightMove): boolean {
  return (
    actsOnTones({ zones, byZone }) ||
    curveThrough(curve) !== null ||
    limits.families.length > 0 ||
    limits.edges !== 0 ||
    limits.follow > 0 ||
    hasEffects(effects) ||
    regionsOf(shape).length > 0
  );
}

/** Whether a move does anything to the light beyond stops; tone and grain come after the light. */
export function hasEffects({ gradeZone: _zone, tone: _tone, grain: _grain, ...strengths }: LightEffects): boolean {
  return Object.values(strengths).some((strength) => strength !== 0);
}

export function prepareLight(
  print: PrintSource & Pick<LightPrint, "recipe">,
  keep: Keep,
): Pick<LightPrint, "moves" | "richMoves" | "clearsHaze"> {
  const { light, shape } = print.recipe;
  const acting = light.moves.map((move) => ({ move, share: moveShare(light, move) })).filter(({ share }) => share > 0);
  const even = acting.filter(({ move }) => !isRich(move) && move.stops !== 0);
  const rich = acting
    .filter(({ move }) => isRich(move))
    .map(({ move, share }) => prepareRich(print as WeighPrint & typeof print, move, share, shape, keep));
  return {
    moves: even.map(({ move, share }) => ({ ...prepareShape(move.shape, move.invert), gain: move.stops * share })),
    richMoves: rich,
    clearsHaze: rich.some(({ space }) => space.haze !== 0),
  };
}

function prepareRich(
  print: WeighPrint & Pick<LightPrint, "recipe">,
  move: LightMove,
  amount: number,
  shape: Shape,
  keep: Keep,
): PreparedRichMove {
  const { limits, effects, zones } = move;
  const known = print.recipe.weigh.families;
  const families = limits.families.filter((id) => known.some((family) => family.id === id));
  const byTone = byToneTable(move, shape, amount);
  const grade = toneByToneTable(move, shape, amount);
  const { local, fine, softness, haze } = effects;
  const space = { local: amount * local, fine: amount * fine, softness: amount * softness, haze: amount * haze };
  const inSpace = Object.values(space).some((strength) => strength !== 0);
  const zoneLimit = grade || inSpace ? zoneLimitTable(zones, shape) : null;
  return {
    ...prepareShape(move.shape, move.invert),
    byTone,
    grade,
    zoneLimit,
    limits,
    share: families.length > 0 ? prepareShare(print, keep, families) : null,
    space,
    richKey: hashOf(
      [byTone?.join(), grade?.join(), zoneLimit?.join(), limits.edges, limits.follow, JSON.stringify(space)].join(";"),
    ),
  };
}
