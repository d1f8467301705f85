import { Type, type Static } from "@sinclair/typebox";
import { group, number, stableId, switchedOn } from "../../schema/fields.ts";
import { shapeUnion } from "../../shapes/shapes.ts";

export const lightMoveSchema = group(
  {
    id: stableId("Stays with the move."),
    name: Type.String({ maxLength: 80, description: "What the user calls it." }),
    on: switchedOn(),
    stops: number(-4, 4, 0, "stops", "Lift (+) or burn (−) where the shape is full."),
    amountPercent: number(0, 200, 100, "percent", "Scales the whole move."),
    invert: Type.Boolean({ default: false, description: "Acts outside the shape." }),
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

export type Light = Static<typeof lightSchema>;
export type LightMove = Static<typeof lightMoveSchema>;
