import { Type, type Static } from "@sinclair/typebox";
import { group, number, stableId, switchedOn } from "../../schema/fields.ts";
import { shapeUnion } from "../../shapes/shapes.ts";

/** Zones 0 to X. */
export const ZONE_COUNT = 11;

export const zonesSchema = group(
  {
    from: number(0, 10, 0, "zones", "The darkest zone it acts on."),
    to: number(0, 10, 10, "zones", "The lightest zone it acts on."),
  },
  "The zones the move acts on, by the print without light moves; its ends are a zone soft.",
);

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
    shape: shapeUnion,
  },
  "One light move.",
);

export const lightSchema = group(
  {
    moves: Type.Array(lightMoveSchema, {
      maxItems: 64,
      noun: "light moves",
      default: [],
      description: "In order, first to last.",
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
