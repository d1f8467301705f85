import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { format } from "date-fns/format";
import { parseISO } from "date-fns/parseISO";
import PDFDocument from "pdfkit";
import {
  applyAffine,
  describeRecipe,
  formatSigned,
  formatStops,
  frameOf,
  invertAffine,
  moveShare,
  regionCells,
  shapeBounds,
  type Negative,
  type PlanMark,
  type Print,
  type Roll,
} from "@yelm/core";
import type { Context } from "./context.ts";
import { findNotes } from "./notes.ts";
import { thumbnail } from "./thumbnails.ts";

const require = createRequire(import.meta.url);
/** The app's serif; what the first part of it has not, the next may have. */
const FACES = ["latin", "latin-ext"].map((part) => `@fontsource/newsreader/files/newsreader-${part}-400-normal.woff`);
/** Signs that the face has not, as it has them. */
const SPELLED: Readonly<Record<string, string>> = { "⅓": "1/3", "⅔": "2/3", "⅙": "1/6", "⅚": "5/6", "→": "to", "≈": "~", "●": "B", "○": "W" }; // prettier-ignore

const MARGIN = 42;
const INK = "#1d1a15";
const QUIET = "#6d6659";
/** Height of a slip with a word on the work print, points, and places above and below its own that are tried. */
const SLIP_HEIGHT = 13;
const SLIP_PLACES = 31;
/** Of more moves than this only the numbers stand on the work print. */
const MOST_STOPS_TOLD = 16;
/** Long edge of the picture on the sheet, pixels. */
const PICTURE_EDGE = 1280;

type Doc = InstanceType<typeof PDFDocument>;

interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/**
 * The sheet of a print, A4: the picture, what it is for, how it was made, and a work print with the plan's marks and the light moves
 * numbered with their stops.
 */
export async function printSheet(context: Context, print: Print, negative: Negative, roll: Roll): Promise<Buffer> {
  const { plan, states, meant } = (await findNotes(context, print.id)).notes;
  const picture = await thumbnail(context, negative, print.recipe, PICTURE_EDGE);
  const frame = frameOf(negative, print.recipe.ground);
  const title = negative.title || negative.fileName;
  const doc = new PDFDocument({ size: "A4", margin: MARGIN, info: { Title: `${title}: ${print.name}` } });
  const chunks: Buffer[] = [];
  doc.on("data", (chunk: Buffer) => chunks.push(chunk));
  const ended = new Promise<void>((done) => doc.on("end", () => done()));
  const faces = FACES.map((file, i) => {
    doc.registerFont(String(i), readFileSync(require.resolve(file)));
    return String(i);
  });
  const page = { width: doc.page.width - 2 * MARGIN, height: doc.page.height - 2 * MARGIN };
  const say = (text: string, size: number, colour = INK, options: PDFKit.Mixins.TextOptions = {}) => {
    doc.fontSize(size).fillColor(colour);
    const runs = runsOf(doc, faces, text);
    runs.forEach(([face, run], i) => {
      doc.font(face).text(run, { lineGap: 1.5, ...options, continued: i < runs.length - 1 });
    });
  };

  const cell = fitted(frame, page.width, frame.height > frame.width ? 470 : 360);
  say(title, 19);
  const taken = negative.takenAt ? format(parseISO(negative.takenAt), "d MMMM yyyy") : "";
  say([print.name, roll.title, taken].filter((word) => word !== "").join("  ·  "), 10, QUIET);
  if (plan.sentence !== "") {
    doc.moveDown(0.5);
    say(`“${plan.sentence}”`, 12);
  }
  doc.moveDown(0.7);
  const at = { x: MARGIN, y: doc.y, ...cell };
  doc.image(picture, at.x, at.y, { width: at.width, height: at.height });
  doc.y = at.y + at.height + 16;

  // The work print on the left, how it was made beside it.
  const small = fitted(frame, 0.46 * page.width, 230);
  const top = doc.y;
  const work = { x: MARGIN, y: top, ...small };
  doc.save().opacity(0.45);
  doc.image(picture, work.x, work.y, { width: small.width, height: small.height });
  doc.restore();
  doc.lineWidth(0.6).strokeColor(QUIET).rect(work.x, work.y, work.width, work.height).stroke();
  drawPlan(doc, say, plan.marks, negative, frame, work);
  drawMoves(doc, say, print, negative, frame, work);
  const left = MARGIN + 0.5 * page.width;
  doc.x = left;
  doc.y = top;
  const column = { width: 0.5 * page.width };
  say("How it was made", 12, INK, column);
  doc.moveDown(0.2);
  const lines = describeRecipe(print.recipe);
  if (lines.length === 0) say("As it comes from the capture.", 9.5, QUIET, column);
  const numbers = new Map(print.recipe.light.moves.map((move, i) => [`move:${move.id}`, i + 1]));
  lines.forEach(({ id, station, text }, i) => {
    if (station !== lines[i - 1]?.station) say(station, 9.5, QUIET, column);
    const number = numbers.get(id);
    say(number === undefined ? text : `${number}  ${text}`, 9.5, INK, { ...column, indent: 8 });
  });
  const key = plan.key === "" ? [] : [`Key wanted: ${plan.key}`];
  const more = [
    ...key,
    ...states.map(({ name, note, at: when }) => `State “${name}”, ${when.slice(0, 10)}${note ? `: ${note}` : ""}`),
    ...meant.map(({ finding, reason }) => `Meant so: ${finding}${reason ? ` (${reason})` : ""}`),
  ];
  if (more.length > 0) {
    doc.moveDown(0.6);
    say("Beside it", 12, INK, column);
    doc.moveDown(0.2);
    for (const line of more) say(line, 9.5, INK, column);
  }
  doc.end();
  await ended;
  return Buffer.concat(chunks);
}

type Say = (text: string, size: number, colour?: string, options?: PDFKit.Mixins.TextOptions) => void;
type Frame = ReturnType<typeof frameOf>;

/** From the flat picture, in long edges, to a place on the sheet. */
function placing(negative: Negative, frame: Frame, on: Box): (x: number, y: number) => [number, number] {
  const edge = Math.max(negative.width, negative.height);
  const fromFlat = invertAffine(frame.toFlat);
  return (x, y) => {
    const [u, v] = applyAffine(fromFlat, x * edge, y * edge);
    return [on.x + (u / frame.width) * on.width, on.y + (v / frame.height) * on.height];
  };
}

/** The plan's marks as drawn on a work print: a line about each area, and its sign. */
function drawPlan(doc: Doc, say: Say, marks: readonly PlanMark[], negative: Negative, frame: Frame, on: Box): void {
  const place = placing(negative, frame, on);
  for (const { kind, shape } of marks) {
    doc.save().rect(on.x, on.y, on.width, on.height).clip();
    doc.lineWidth(kind === "subject" ? 1.8 : 1).strokeColor(INK);
    if (kind === "keep detail") doc.dash(1.5, { space: 2 });
    if (shape.kind === "outline") {
      shape.points.forEach(([x, y], i) => (i === 0 ? doc.moveTo(...place(x, y)) : doc.lineTo(...place(x, y))));
      doc.closePath().stroke();
    } else {
      const cells = regionCells(shape);
      const k = Math.max(shape.width, shape.height);
      const inside = (x: number, y: number) =>
        x >= 0 && y >= 0 && x < shape.width && y < shape.height && cells[y * shape.width + x] === 1;
      for (let y = 0; y < shape.height; y++)
        for (let x = 0; x < shape.width; x++) {
          if (!inside(x, y)) continue;
          for (const [dx, dy, fx, fy, tx, ty] of SIDES)
            if (!inside(x + dx, y + dy))
              doc.moveTo(...place((x + fx) / k, (y + fy) / k)).lineTo(...place((x + tx) / k, (y + ty) / k));
        }
      doc.stroke();
    }
    doc.undash().restore();
    const { left, top } = shapeBounds(shape);
    const highest =
      shape.kind === "outline" ? shape.points.reduce((best, one) => (one[1] < best[1] ? one : best)) : [left, top];
    sign(doc, say, kind, place(Math.max(0, highest[0]), Math.max(0, highest[1])), on);
  }
}

/** Neighbours of a cell, and the side towards each. */
const SIDES = [
  [-1, 0, 0, 0, 0, 1],
  [1, 0, 1, 0, 1, 1],
  [0, -1, 0, 0, 1, 0],
  [0, 1, 0, 1, 1, 1],
] as const;

/** Every light move with its number and stops, in the middle of what of it lies in the frame. */
function drawMoves(doc: Doc, say: Say, { recipe }: Print, negative: Negative, frame: Frame, on: Box): void {
  const place = placing(negative, frame, on);
  const edge = Math.max(negative.width, negative.height);
  const [most, down] = [negative.width / edge, negative.height / edge];
  const taken: Box[] = [];
  // Where there are many, their stops are told beside it.
  const isFull = recipe.light.moves.length > MOST_STOPS_TOLD;
  recipe.light.moves.forEach((move, i) => {
    const share = moveShare(recipe.light, move);
    if (share === 0) return;
    const box = shapeBounds(move.shape);
    const x = (Math.max(0, box.left) + Math.min(most, box.right)) / 2;
    const y = (Math.max(0, box.top) + Math.min(down, box.bottom)) / 2;
    if (!Number.isFinite(x) || !Number.isFinite(y)) return;
    const stops = move.stops * share;
    const words = Math.abs(share - 1) < 1e-9 ? formatStops(stops) : formatSigned(stops, 2);
    sign(doc, say, isFull ? String(i + 1) : `${i + 1}  ${words}`, place(x, y), on, taken);
  });
}

/** A word on a slip, kept inside the work print and off those that lie there already, as far as there is room. */
function sign(doc: Doc, say: Say, text: string, [x, y]: [number, number], on: Box, taken: Box[] = []): void {
  const width = 7 + doc.fontSize(8).widthOfString(text);
  const left = Math.min(on.x + on.width - width - 2, Math.max(on.x + 2, x - width / 2));
  const tops = Array.from({ length: SLIP_PLACES }, (_, k) => y - 6 + (k % 2 ? -1 : 1) * Math.ceil(k / 2) * SLIP_HEIGHT)
    .map((top) => Math.min(on.y + on.height - 14, Math.max(on.y + 2, top))); // prettier-ignore
  const isFree = (top: number) =>
    taken.every((box) => left >= box.x + box.width || left + width <= box.x || Math.abs(top - box.y) >= SLIP_HEIGHT);
  const top = tops.find(isFree) ?? tops[0];
  taken.push({ x: left, y: top, width, height: SLIP_HEIGHT });
  const [ownX, ownY] = [doc.x, doc.y];
  doc
    .save()
    .fillColor("#ffffff")
    .opacity(0.85)
    .rect(left, top, width, SLIP_HEIGHT - 1)
    .fill()
    .restore();
  doc.x = left + 3;
  doc.y = top + 1.5;
  say(text, 8, INK, { lineBreak: false });
  doc.x = ownX;
  doc.y = ownY;
}

/** The largest size of a picture within a width and a height. */
function fitted(frame: Frame, width: number, height: number) {
  const scale = Math.min(width / frame.width, height / frame.height);
  return { width: frame.width * scale, height: frame.height * scale };
}

/** Runs of letters by the face that has them. */
function runsOf(doc: Doc, faces: readonly string[], text: string): [face: string, text: string][] {
  const runs: [string, string][] = [];
  const spelled = text.replace(/(\d)?([⅓⅔⅙⅚])/g, (_all, whole: string | undefined, part: string) => `${whole ? `${whole} ` : ""}${SPELLED[part]}`); // prettier-ignore
  for (const letter of spelled.replace(/[→≈●○]/g, (one) => SPELLED[one])) {
    const face = faces.find((name) => has(doc, name, letter));
    const shown = face ? letter : "?";
    const last = runs.at(-1);
    if (last && last[0] === (face ?? faces[0])) last[1] += shown;
    else runs.push([face ?? faces[0], shown]);
  }
  return runs.length > 0 ? runs : [[faces[0], " "]];
}

function has(doc: Doc, face: string, letter: string): boolean {
  const { font } = (doc.font(face) as unknown as { _font: { font: { hasGlyphForCodePoint(code: number): boolean } } })
    ._font;
  return font.hasGlyphForCodePoint(letter.codePointAt(0)!);
}
