import { Type, type Static } from "@sinclair/typebox";
import { fraction, group, number, stableId, switchedOn } from "../../schema/fields.ts";
import { defaultOf } from "../../schema/defaults.ts";
import { PLACE_RANGE } from "../../shapes/shape.ts";
import { shapeUnion } from "../../shapes/shapes.ts";
import { STRAIGHT_CURVE } from "../../maths/curve-points.ts";

/** Zones 0 to X. */
export const ZONE_COUNT = 11;

export const zonesSchema = group(
  {
    from: number(0, 10, 0, "zones", "The darkest zone it acts on."),
    to: number(0, 10, 10, "zones", "The lightest zone it acts on."),
  },
  "The zones the move acts on, by the print without light moves; its ends are a zone soft.",
);

/** Most families that a move is limited to. */
export const MOST_LIMITING = 8;

export const limitsSchema = group(
  {
    families: Type.Array(stableId("A colour family of the recipe."), {
      maxItems: MOST_LIMITING,
      default: [],
      description: "Acts on these colour families only; on all when there are none, or none of them is left.",
    }),
    edges: number(-1, 1, 0, "share", "Near edges only (+1), away from edges only (−1), or both alike (0)."),
    follow: fraction(0, "How strictly it keeps to the colours under its middle: 0 spills over edges, 1 stops at them."),
  },
  "Limits beyond zones, by what the picture shows.",
);

export const effectsSchema = group(
  {
    grade: number(-0.9, 2, 0, "gain", "More (+) or less (−) contrast about a zone, tone by tone."),
    gradeZone: number(0, 10, 5, "zones", "The zone about which the contrast turns."),
    open: number(-1, 1, 0, "strength", "Opens what is dark on an edge-keeping base; negative closes it."),
    hold: number(-1, 1, 0, "strength", "Holds what is light; negative lets it go."),
    local: number(-1, 2, 0, "gain", "Contrast of what is up to a hundredth of the long edge wide."),
    fine: number(-1, 2, 0, "gain", "Contrast of the finest detail."),
    softness: fraction(0, "Share of the light that is scattered narrowly."),
    haze: number(-1, 1, 0, "strength", "Takes haze out (+) or lays it in (−)."),
    tone: number(-1, 1, 0, "share", "How much weaker (−1: none) or stronger (+1: twice) the print's tone is there."),
    grain: number(-1, 1, 0, "share", "How much weaker (−1: none) or stronger (+1: twice) the print's grain is there."),
  },
  "What the move does beyond stops; all of it scaled by its amount.",
);

const reference = (description: string) =>
  Type.String({ maxLength: 40, pattern: "^[A-Za-z0-9_-]*$", default: "", description });

export const lightMoveSchema = group(
  {
    id: stableId("Stays with the move."),
    name: Type.String({ maxLength: 80, description: "What the user calls it." }),
    on: switchedOn(),
    stops: number(-4, 4, 0, "stops", "Lift (+) or burn (−) where the shape is full."),
    amountPercent: number(0, 200, 100, "percent", "Scales the whole move."),
    invert: Type.Boolean({ default: false, description: "Acts outside the shape." }),
    zones: zonesSchema,
    byZone: Type.Array(Type.Number({ minimum: -3, maximum: 3 }), {
      minItems: ZONE_COUNT,
      maxItems: ZONE_COUNT,
      default: new Array<number>(ZONE_COUNT).fill(0),
      unit: "stops",
      description:
        "Stops for the tones of each zone, 0 to X, beyond those of the whole move; in between in straight lines.",
    }),
    curve: Type.Array(Type.Tuple([Type.Number({ minimum: 0, maximum: 1 }), Type.Number({ minimum: 0, maximum: 1 })]), {
      minItems: 2,
      maxItems: 16,
      default: STRAIGHT_CURVE,
      description:
        "Its own curve, tone by tone: points (print lightness without light moves, print lightness it makes of it), L*/100, x rising; monotone cubic.",
    }),
    limits: limitsSchema,
    effects: effectsSchema,
    group: reference("Id of the group it belongs to; none when empty."),
    link: reference("Moves with the same link are changed together; none when empty."),
    shape: shapeUnion,
  },
  "One light move.",
);

export const lightGroupSchema = group(
  {
    id: stableId("Stays with the group."),
    name: Type.String({ maxLength: 80, description: "What the user calls it." }),
    on: switchedOn(),
    amountPercent: number(0, 200, 100, "percent", "Scales all moves of the group."),
  },
  "A group of light moves with an amount of its own.",
);

const place = Type.Number({ minimum: PLACE_RANGE.lowest, maximum: PLACE_RANGE.highest });

export const contourSchema = group(
  {
    id: stableId("Stays with the line."),
    lift: Type.Boolean({ default: true, description: "Drawn with the pen that lifts; else with the one that burns." }),
    points: Type.Array(Type.Tuple([place, place]), {
      minItems: 1,
      maxItems: 400,
      description: "x, y in long edges from the negative's top left.",
    }),
  },
  "One line of the contour plan.",
);

export const lightSchema = group(
  {
    moves: Type.Array(lightMoveSchema, {
      maxItems: 64,
      noun: "light moves",
      default: [],
      description: "In order, first to last.",
    }),
    groups: Type.Array(lightGroupSchema, {
      maxItems: 16,
      noun: "groups of light moves",
      default: [],
      description: "Groups of moves.",
    }),
    contours: Type.Array(contourSchema, {
      maxItems: 200,
      noun: "lines of the contour plan",
      default: [],
      description: "A plan of where to lift and where to burn, drawn before it is done; it changes nothing by itself.",
    }),
  },
  "Light: dodging and burning.",
);

/** A move that acts on all tones alike. */
export const evenZones = (): Pick<LightMove, "zones" | "byZone"> => ({
  zones: { from: 0, to: 10 },
  byZone: new Array<number>(ZONE_COUNT).fill(0),
});

export type Light = Static<typeof lightSchema>;
export type LightMove = Static<typeof lightMoveSchema>;
export type LightGroup = Static<typeof lightGroupSchema>;
export type LightLimits = Static<typeof limitsSchema>;
export type LightEffects = Static<typeof effectsSchema>;
export type Contour = Static<typeof contourSchema>;

/** What a move has beyond its stops, amount and shape. */
type Beyond = Pick<LightMove, "zones" | "byZone" | "curve" | "limits" | "effects" | "group" | "link">;

/** A move without limits, effects, curve, group or link: stops alone. */
export const plainMove = (): Beyond => ({
  ...evenZones(),
  curve: STRAIGHT_CURVE,
  limits: defaultOf(limitsSchema) as LightLimits,
  effects: defaultOf(effectsSchema) as LightEffects,
  group: "",
  link: "",
});
