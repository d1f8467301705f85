import { liesIn, readEye, type Area, type EyeReading } from "../judge/eye.ts";
import { where } from "../judge/words.ts";
import { applyAffine } from "../maths/affine.ts";
import { squint, type Pull, type Squint } from "../measure/pulls.ts";
import type { Plan } from "../notes/schema.ts";
import type { LightMove } from "../parts/light/schema.ts";
import type { Recipe } from "../recipe/schema.ts";
import { wholeView } from "../tiles/view.ts";
import { markedAs, moveOf, withMoves } from "./plan-areas.ts";
import { withoutGrain, type AboutPrint, type PictureReader } from "./reader.ts";

const SQUINT_EDGE = 260;

/** What is to be known beside the recipe. */
export interface AboutPlan extends AboutPrint {
  readonly plan: Plan;
}

/** Where the eye goes, and how that agrees with the plan. */
export interface SeenByEye extends Squint, EyeReading {}

/** Moves that bring the subject first, with what they make of the print. */
export interface EyeMend {
  readonly label: string;
  readonly recipe: Recipe;
}

/** Shares of the stops for lifting the subject and for burning what pulls more, the gentlest first. */
const MOST_SIXTHS = 15;
const MOST_RIVALS = 6;
const MENDS = [[0, 1], [0.5, 0.5], [1, 1]] as const; // prettier-ignore

/** The area of the plan's subject; null where none is marked. */
export const subjectOf = (reader: PictureReader, recipe: Recipe, plan: Plan) =>
  markedAs(reader, recipe, plan.marks, "subject", SQUINT_EDGE);

/** A print by squinting eyes, with the subject's place among what pulls. */
export async function seenByEye(
  { engine, size, fetch }: PictureReader,
  recipe: Recipe,
  subject: Area | null,
): Promise<SeenByEye> {
  const print = engine.prepare(withoutGrain(recipe));
  const view = wholeView(print.frame, size, SQUINT_EDGE);
  await fetch(engine.tilesFor(print, view));
  const seen = squint(engine.renderReflectance(print, view), view);
  return { ...seen, ...readEye(seen, subject) };
}

/** The smallest moves that bring the subject first; null when it is first, is not marked, or two and a half stops do not do it. */
export async function mendEye(reader: PictureReader, { recipe, plan }: AboutPlan): Promise<EyeMend | null> {
  const subject = await subjectOf(reader, recipe, plan);
  const mark = plan.marks.find(({ kind }) => kind === "subject");
  if (!subject || !mark) return null;
  const before = await seenByEye(reader, recipe, subject);
  if (before.subject === 1) return null;
  for (let sixths = 1; sixths <= MOST_SIXTHS; sixths++)
    for (const [lift, burn] of MENDS) {
      const [up, down] = [lift, burn].map((share) => Math.round(sixths * share) / 6);
      const moves = up > 0 ? [moveOf("Lift the subject", mark.shape, up)] : [];
      const held: Pull[] = [];
      let { pulls, subject: rank } = before;
      // What is held back lets something else come first, which is held back too.
      for (let round = 0; round <= MOST_RIVALS; round++) {
        if (round > 0 || up > 0)
          ({ pulls, subject: rank } = await seenByEye(reader, withMoves(recipe, moves), subject));
        if (rank === 1) break;
        const [rival] = pulls;
        const again = held.some((one) => Math.hypot(one.x - rival.x, one.y - rival.y) < 0.06);
        if (!rival || down === 0 || again || liesIn(rival, subject)) break;
        held.push(rival);
        // A dark spot pulls less when it is lifted.
        const stops = rival.contrast > 0 ? -down : down;
        const shape = ellipseAt(reader, recipe, rival);
        moves.push(moveOf(`${stops < 0 ? "Hold back" : "Open"} ${where(rival)}`, shape, stops, held.length));
      }
      if (rank !== 1 || moves.length === 0) continue;
      const words = [
        up > 0 && `the subject lifted by ${up.toFixed(2)}`,
        held.length > 0 &&
          `${held.length === 1 ? where(held[0]) : `${held.length} places`} held back by ${down.toFixed(2)}`,
      ];
      return { label: `${words.filter(Boolean).join(", ")} stop`, recipe: withMoves(recipe, moves) };
    }
  return null;
}

/** A soft ellipse about a place of the frame, on the flat picture. */
function ellipseAt(
  { engine, size }: PictureReader,
  recipe: Recipe,
  { x, y }: { x: number; y: number },
  radius = 0.12,
): LightMove["shape"] {
  const { frame } = engine.prepare(withoutGrain(recipe));
  const edge = Math.max(size.width, size.height);
  const [px, py] = applyAffine(frame.toFlat, x * frame.width, y * frame.height);
  const share = (radius * Math.max(frame.width, frame.height)) / edge;
  return {
    kind: "ellipse",
    x: px / edge,
    y: py / edge,
    radiusX: share,
    radiusY: share,
    angleDegrees: 0,
    softness: 0.8,
  };
}
