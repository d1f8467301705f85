import { carryShape, shapeWords } from "../../shapes/shapes.ts";
import type { Part } from "../part.ts";
import { risingFault } from "../rising.ts";
import { curveThrough } from "../../maths/curve-points.ts";
import { formatStops, formatZone } from "../words.ts";
import { effectWords } from "./effect-words.ts";
import { lightStage } from "./light-stage.ts";
import { prepareLight } from "./print.ts";
import { RICH_STAGES } from "./rich-moves.ts";
import { lightSchema, type Light, type LightMove } from "./schema.ts";

export const lightPart: Part<Light, "light"> = {
  name: "light",
  station: "Light",
  schema: lightSchema,
  prepare: prepareLight,
  stages: [...RICH_STAGES, lightStage],
  viewStages: [],
  describe: ({ moves, groups }) => [
    ...groups
      .filter(({ on, amountPercent }) => !on || amountPercent !== 100)
      .map(({ id, name, on, amountPercent }) => ({
        id: `group:${id}`,
        text: `Group ${name} at ${amountPercent} %${on ? "" : " (off)"}`,
      })),
    ...moves.map((move) => ({ id: `move:${move.id}`, text: describeMove(move) })),
  ],
  lines: {},
  itemLines: { move: "moves", group: "groups" },
  carry: (light, carry) => ({
    ...light,
    contours: light.contours.map((line) => ({ ...line, points: line.points.map(([x, y]) => carry(x, y)) })),
    moves: light.moves.map((move) => ({ ...move, shape: carryShape(move.shape, carry) })),
  }),
  copies: [
    { id: "moves", name: "moves", fields: ["moves", "groups"], usual: true },
    { id: "contours", name: "contour plan", fields: ["contours"], usual: false },
  ],
  check: ({ moves }) => {
    for (const [i, { curve }] of moves.entries()) {
      const fault = risingFault(curve, `moves.${i}.curve`, "x");
      if (fault) return fault;
    }
    return null;
  },
};

function describeMove(move: LightMove): string {
  const how = shapeWords(move.shape);
  const part = move.amountPercent === 100 ? "" : ` at ${move.amountPercent} %`;
  const where = move.invert ? `outside the ${how}` : how;
  const { from, to } = move.zones;
  const zones = from > 0 || to < 10 ? `, zones ${formatZone(from)} to ${formatZone(to)} only` : "";
  const own = move.byZone.filter((stops) => stops !== 0).length;
  const built = own > 0 ? `, ${own} ${own === 1 ? "zone" : "zones"} by itself` : "";
  const curve = curveThrough(move.curve) ? `, curve of ${move.curve.length} points` : "";
  const more = [...effectWords(move.effects), ...limitWords(move)].map((word) => `, ${word}`).join("");
  return `${move.name} ${formatStops(move.stops)}${part}, ${where}${zones}${built}${curve}${more}${move.on ? "" : " (off)"}`;
}

function limitWords({ limits }: LightMove): string[] {
  const { families, edges, follow } = limits;
  const words = [
    families.length > 0 && `${families.length} ${families.length === 1 ? "family" : "families"} only`,
    edges !== 0 && (edges > 0 ? "near edges" : "away from edges"),
    follow > 0 && `follows edges ${Math.round(100 * follow)} %`,
  ];
  return words.filter((word) => word !== false);
}
