import { SENSOR_WHITE_STOPS } from "../../colour/stops.ts";
import { bakeStopsTable, densityTableOf } from "../../kernels/light-table.ts";
import { withinPlaces } from "../../shapes/shape.ts";
import type { Keep, Part, PartLine, PrintSource } from "../part.ts";
import { risingFault } from "../rising.ts";
import { formatSigned, formatStops } from "../words.ts";
import { HAZE_STAGES } from "./haze-stage.ts";
import { LOCAL_STAGES } from "./local-stage.ts";
import { SCATTER_STAGES } from "./scatter-stage.ts";
import { sharpenStage } from "./sharpen-stage.ts";
import { stopsStage } from "./stops-stage.ts";
import { DEEPEST_BLACK_STOPS, shapeSchema, type Shape } from "./schema.ts";
import { toneCurve } from "./tone-curve.ts";
import { developStage } from "./develop-stage.ts";

/** What Shape adds to a print made ready. */
export interface ShapePrint {
  readonly recipe: { readonly shape: Shape };
  /** Scene stops → print reflectance. */
  readonly toneTable: Float32Array;
  /** Scene stops → the print's density in octaves: what is not averaged afterwards need not go through reflectance. */
  readonly densityTable: Float32Array;
}

export const shapePart: Part<Shape, "shape"> = {
  name: "shape",
  station: "Shape",
  schema: shapeSchema,
  prepare: (
    { recipe: { shape } }: PrintSource & Pick<ShapePrint, "recipe">,
    keep: Keep,
  ): Pick<ShapePrint, "toneTable" | "densityTable"> =>
    keep("tone", shape, () => {
      const toneTable = bakeStopsTable(toneCurve(shape));
      return { toneTable, densityTable: densityTableOf(toneTable) };
    }),
  stages: [sharpenStage, stopsStage, ...HAZE_STAGES, ...LOCAL_STAGES, ...SCATTER_STAGES],
  viewStages: [developStage],
  describe,
  lines: {
    "black-point": ["blackPoint"],
    "white-point": ["whitePoint"],
    mid: ["midPoint"],
    grade: ["grade"],
    open: ["openShadows"],
    hold: ["holdHighlights"],
    local: ["localContrast"],
    detail: ["detail"],
    sharpening: ["sharpening"],
    haze: ["haze"],
    scatter: ["scatter"],
    characteristic: ["characteristic"],
    paper: ["paperWhite", "paperBlack"],
    curve: ["curve"],
    spots: ["spots"],
    "let-black": ["letBlack"],
    "let-white": ["letWhite"],
  },
  itemLines: {},
  carry: (shape, carry) => ({
    ...shape,
    spots: shape.spots.map((spot) => {
      const [x, y] = carry(spot.x, spot.y);
      return { ...spot, x: withinPlaces(x), y: withinPlaces(y) };
    }),
  }),
  copies: [
    {
      id: "points",
      name: "points and grade",
      fields: ["blackPoint", "whitePoint", "midPoint", "grade", "letBlack", "letWhite"],
      usual: true,
    },
    { id: "open", name: "open and hold", fields: ["openShadows", "holdHighlights"], usual: true },
    {
      id: "characteristic",
      name: "characteristic and curve",
      fields: ["characteristic", "toe", "shoulder", "paperWhite", "paperBlack", "curve"],
      usual: true,
    },
    { id: "spots", name: "spots", fields: ["spots"], usual: false },
    { id: "space", name: "contrast in space", fields: ["localContrast", "detail", "haze", "scatter"], usual: true },
    { id: "sharpening", name: "capture sharpening", fields: ["sharpening"], usual: true },
  ],
  check: ({ curve }) => risingFault(curve, "curve", "x"),
};

function describe(shape: Shape, fresh: Shape): PartLine[] {
  const lines: PartLine[] = [];
  const add = (id: string, text: string) => lines.push({ id, text });
  if (Math.abs(shape.blackPoint - DEEPEST_BLACK_STOPS) > 1e-6)
    add("black-point", `black point ${formatSigned(shape.blackPoint, 1)}`);
  if (Math.abs(shape.whitePoint - SENSOR_WHITE_STOPS) > 1e-6)
    add("white-point", `white point ${formatSigned(shape.whitePoint, 1)}`);
  if (shape.midPoint) add("mid", `mid point ${formatStops(shape.midPoint)}`);
  if (shape.grade !== fresh.grade) add("grade", `grade ${Number(shape.grade.toFixed(2))}`);
  const strength = (value: number, more: string, less: string) =>
    `${value > 0 ? more : less} ${Math.round(100 * Math.abs(value))} %`;
  const { sharpening, scatter } = shape;
  if (sharpening.amount)
    add(
      "sharpening",
      `capture sharpened ${Math.round(100 * sharpening.amount)} %, radius ${Number(sharpening.radius.toFixed(2))} px`,
    );
  if (shape.haze) add("haze", strength(shape.haze, "haze taken out", "haze laid in"));
  if (shape.openShadows) add("open", strength(shape.openShadows, "shadows opened", "shadows closed"));
  if (shape.holdHighlights) add("hold", strength(shape.holdHighlights, "highlights held", "highlights let go"));
  const { low, mid, high } = shape.localContrast;
  if (low || mid || high)
    add("local", `local contrast ${[low, mid, high].map((gain) => formatSigned(100 * gain, 0)).join(" / ")} %`);
  const { fine, middle, broad } = shape.detail;
  if (fine || middle || broad)
    add(
      "detail",
      `detail fine / middle / broad ${[fine, middle, broad].map((gain) => formatSigned(100 * gain, 0)).join(" / ")} %`,
    );
  if (scatter.glow)
    add(
      "scatter",
      `glow ${Math.round(100 * scatter.glow)} %${scatter.softness ? `, softness ${Math.round(100 * scatter.softness)} %` : ""}`,
    );
  else if (scatter.softness) add("scatter", `softness ${Math.round(100 * scatter.softness)} %`);
  if (shape.characteristic === "film") add("characteristic", "film-like toe and shoulder");
  if (shape.paperWhite !== fresh.paperWhite || shape.paperBlack !== fresh.paperBlack)
    add("paper", `paper from ${shape.paperWhite.toFixed(2)} to ${shape.paperBlack.toFixed(2)} density`);
  if (JSON.stringify(shape.curve) !== JSON.stringify(fresh.curve))
    add("curve", `curve of ${shape.curve.length} points`);
  if (shape.spots.length > 0) add("spots", `${shape.spots.length} spot${shape.spots.length === 1 ? "" : "s"} pinned`);
  if (shape.letBlack) add("let-black", "the deepest black is wanted");
  if (shape.letWhite) add("let-white", "bare paper is wanted");
  return lines;
}
