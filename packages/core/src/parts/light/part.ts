import { carryShape, shapeWords } from "../../shapes/shapes.ts";
import type { Part } from "../part.ts";
import { formatStops, formatZone } from "../words.ts";
import { lightBaseStage, lightStage } from "./light-stage.ts";
import { prepareLight } from "./print.ts";
import { lightSchema, type Light, type LightMove } from "./schema.ts";

export const lightPart: Part<Light, "light"> = {
  name: "light",
  station: "Light",
  schema: lightSchema,
  prepare: prepareLight,
  stages: [lightBaseStage, lightStage],
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
  const { from, to } = move.zones;
  const zones = from > 0 || to < 10 ? `, zones ${formatZone(from)} to ${formatZone(to)} only` : "";
  const own = move.byZone.filter((stops) => stops !== 0).length;
  const built = own > 0 ? `, ${own} ${own === 1 ? "zone" : "zones"} by itself` : "";
  return `${move.name} ${formatStops(move.stops)}${part}, ${where}${zones}${built}${move.on ? "" : " (off)"}`;
}
