import {
  SENSOR_WHITE_STOPS,
  DEEPEST_BLACK_STOPS,
  type FilmChoice,
  type LightMove,
  type Recipe,
  type WeighArea,
} from "./schema.ts";
import { defaultRecipe } from "./defaults.ts";

/** Stations of the bench, by their fixed number and key. */
export const STATIONS = ["Intend", "Ground", "Weigh", "Shape", "Light", "Finish", "Judge", "Deliver"] as const;
export type Station = (typeof STATIONS)[number];

/** One readable line of a recipe. */
export interface TicketLine {
  /** Stable name of the line, used to switch it and to find its control. */
  readonly id: string;
  readonly station: Station;
  readonly text: string;
}

const FRACTIONS: readonly [number, string][] = [
  [0, ""],
  [1 / 6, "⅙"],
  [1 / 4, "¼"],
  [1 / 3, "⅓"],
  [1 / 2, "½"],
  [2 / 3, "⅔"],
  [3 / 4, "¾"],
  [5 / 6, "⅚"],
  [1, ""],
];

/** A number of stops as a printer writes it: "+⅔", "−1⅓"; what is no common fraction gets two decimals. */
export function formatStops(stops: number): string {
  const size = Math.abs(stops);
  if (size < 0.005) return "0";
  const sign = stops < 0 ? "−" : "+";
  const near = FRACTIONS.find(([value]) => Math.abs((size % 1) - value) < 0.006);
  if (!near) return sign + size.toFixed(2);
  const whole = near[0] === 1 ? Math.ceil(size) : Math.floor(size);
  return sign + (whole > 0 || near[1] === "" ? whole : "") + near[1];
}

/** A signed number with a real minus. */
export function formatSigned(value: number, digits: number): string {
  const text = Math.abs(value).toFixed(digits);
  return Number(text) === 0 ? text : (value < 0 ? "−" : "+") + text;
}

/** Everything that differs from a fresh recipe, as numbered lines in the order in which it is computed. */
export function describeRecipe(recipe: Recipe): TicketLine[] {
  const base = defaultRecipe();
  const { ground, weigh, shape, light, finish } = recipe;
  const lines: TicketLine[] = [];
  const add = (id: string, station: Station, text: string) => lines.push({ id, station, text });

  if (ground.exposureEv !== 0) add("exposure", "Ground", `exposure ${formatStops(ground.exposureEv)}`);
  if (ground.whiteBalance.mode === "set") {
    const { kelvin, tint, follow } = ground.whiteBalance;
    const eased = follow < 1 ? `, followed ${Math.round(100 * follow)} %` : "";
    add("white", "Ground", `white at ${Math.round(kelvin)} K, tint ${formatSigned(tint, 0)}${eased}`);
  }
  const { fallOffStops, distortion, keystoneVertical, keystoneHorizontal } = ground.lens;
  if (fallOffStops) add("fall-off", "Ground", `corners given back ${formatStops(fallOffStops)}`);
  if (distortion)
    add(
      "bending",
      "Ground",
      `${distortion > 0 ? "barrel" : "pincushion"} straightened ${formatSigned(100 * distortion, 1)} %`,
    );
  if (keystoneVertical || keystoneHorizontal) {
    const lines = [keystoneVertical && "uprights", keystoneHorizontal && "levels"].filter(Boolean).join(" and ");
    add("keystone", "Ground", `${lines} made parallel`);
  }
  if (ground.calm) add("calm", "Ground", `noise calmed ${Math.round(100 * ground.calm)} %`);
  const mended = ground.clean.filter((spot) => spot.on).length;
  if (ground.clean.length > 0) add("clean", "Ground", `mended in ${mended} ${mended === 1 ? "place" : "places"}`);
  if (ground.quarterTurns) add("turn", "Ground", `turned ${90 * ground.quarterTurns}°`);
  if (ground.angleDegrees) add("straighten", "Ground", `straightened ${formatSigned(ground.angleDegrees, 1)}°`);
  if (ground.crop) add("crop", "Ground", `cropped to ${formatRatio(ground.crop.width / ground.crop.height)}`);
  if (weigh.by === "film") add("film", "Weigh", describeFilm(weigh.film));
  else if (!isPlainLuminance(weigh)) add("weights", "Weigh", describeWeights(weigh));
  const moved = weigh.families.filter(({ stops }) => stops !== 0).sort((p, q) => Math.abs(q.stops) - Math.abs(p.stops));
  if (moved.length > 0)
    add("families", "Weigh", `${moved.map(({ name, stops }) => `${name} ${formatSigned(stops, 1)}`).join(", ")} stops`);
  for (const area of weigh.areas)
    add(`area:${area.id}`, "Weigh", `${area.name}: ${describeArea(area)}${area.on ? "" : " (off)"}`);
  if (Math.abs(shape.blackPoint - DEEPEST_BLACK_STOPS) > 1e-6)
    add("black-point", "Shape", `black point ${formatSigned(shape.blackPoint, 1)}`);
  if (Math.abs(shape.whitePoint - SENSOR_WHITE_STOPS) > 1e-6)
    add("white-point", "Shape", `white point ${formatSigned(shape.whitePoint, 1)}`);
  if (shape.midPoint) add("mid", "Shape", `mid point ${formatStops(shape.midPoint)}`);
  if (shape.grade !== base.shape.grade) add("grade", "Shape", `grade ${Number(shape.grade.toFixed(2))}`);
  const { low, mid, high } = shape.localContrast;
  if (low || mid || high)
    add(
      "local",
      "Shape",
      `local contrast ${[low, mid, high].map((gain) => formatSigned(100 * gain, 0)).join(" / ")} %`,
    );
  if (shape.characteristic === "film") add("characteristic", "Shape", "film-like toe and shoulder");
  if (JSON.stringify(shape.curve) !== JSON.stringify(base.shape.curve))
    add("curve", "Shape", `curve of ${shape.curve.length} points`);
  for (const move of light.moves) add(`move:${move.id}`, "Light", describeMove(move));
  const { grain, toning, edgeBurn } = finish;
  if (grain.granularity)
    add("grain", "Finish", `grain ${grain.granularity.toFixed(0)}, ${grain.crystalUm} µm, ${grain.format}`);
  if (toning.toner !== "none" && toning.strength)
    add("toning", "Finish", `${toning.toner} ${Math.round(100 * toning.strength)} %`);
  if (edgeBurn.stops)
    add("edges", "Finish", `edges ${edgeBurn.stops < 0 ? "burned" : "lifted"} ${formatStops(edgeBurn.stops)}`);
  return lines;
}

/** "orthochromatic through deep yellow, tungsten". */
export function describeFilm(choice: FilmChoice): string {
  const film = choice.film === "own" ? (choice.ownFilm?.name ?? "own film") : choice.film;
  const filter = choice.filter === "own" ? (choice.ownFilter?.name ?? "own filter") : choice.filter;
  const through = choice.filter === "none" ? "" : ` through ${filter}`;
  return `${film}${through}, ${choice.light}`;
}

function isPlainLuminance({ red, green, blue }: Weights): boolean {
  const base = defaultRecipe().weigh;
  return red === base.red && green === base.green && blue === base.blue;
}

type Weights = Pick<Recipe["weigh"], "red" | "green" | "blue">;

function describeWeights({ red, green, blue }: Weights): string {
  const [r, g, b] = [red, green, blue].map((weight) => formatSigned(weight, 2).replace("+", ""));
  return `red ${r}, green ${g}, blue ${b}`;
}

function describeArea(area: WeighArea): string {
  if (area.by === "film") return describeFilm(area.film);
  return isPlainLuminance(area) ? "plain luminance" : describeWeights(area);
}

function describeMove(move: LightMove): string {
  const how =
    move.shape.kind === "ellipse"
      ? "ellipse"
      : `brush, ${move.shape.strokes.length} stroke${move.shape.strokes.length === 1 ? "" : "s"}`;
  const part = move.amountPercent === 100 ? "" : ` at ${move.amountPercent} %`;
  const where = move.invert ? `outside the ${how}` : how;
  return `${move.name} ${formatStops(move.stops)}${part}, ${where}${move.on ? "" : " (off)"}`;
}

function formatRatio(ratio: number): string {
  const wide = ratio >= 1 ? ratio : 1 / ratio;
  const known: [number, string, string][] = [
    [1, "1:1", "1:1"],
    [5 / 4, "5:4", "4:5"],
    [4 / 3, "4:3", "3:4"],
    [7 / 5, "7:5", "5:7"],
    [3 / 2, "3:2", "2:3"],
    [16 / 9, "16:9", "9:16"],
  ];
  const hit = known.find(([value]) => Math.abs(value - wide) < 0.005);
  if (!hit) return `${ratio.toFixed(2)}:1`;
  return ratio >= 1 ? hit[1] : hit[2];
}
