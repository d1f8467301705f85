import { carryShape, shapeWords } from "../../shapes/shapes.ts";
import type { Part } from "../part.ts";
import { formatStops } from "../words.ts";
import { lightStage } from "./light-stage.ts";
import { prepareLight } from "./print.ts";
import { lightSchema, type Light, type LightMove } from "./schema.ts";

export const lightPart: Part<Light, "light"> = {
  name: "light",
  station: "Light",
  schema: lightSchema,
  prepare: prepareLight,
  stages: [lightStage],
  viewStages: [],
  describe: ({ moves }) => moves.map((move) => ({ id: `move:${move.id}`, text: describeMove(move) })),
  lines: {},
  itemLines: { move: "moves" },
  carry: (light, carry) => ({
    ...light,
    moves: light.moves.map((move) => ({ ...move, shape: carryShape(move.shape, carry) })),
  }),
  copies: [{ id: "moves", name: "moves", fields: ["moves"], usual: true }],
  check: () => null,
};

function describeMove(move: LightMove): string {
  const how = shapeWords(move.shape);
  const part = move.amountPercent === 100 ? "" : ` at ${move.amountPercent} %`;
  const where = move.invert ? `outside the ${how}` : how;
  return `${move.name} ${formatStops(move.stops)}${part}, ${where}${move.on ? "" : " (off)"}`;
}
