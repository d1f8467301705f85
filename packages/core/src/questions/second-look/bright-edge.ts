import type { Area } from "../../judge/eye.ts";
import type { Finding } from "../../judge/finding.ts";
import { where } from "../../judge/words.ts";
import type { Pull, Squint } from "../../measure/pulls.ts";
import { seenByEye } from "../eye-way.ts";
import { mended, type LookedPrint } from "./looked-print.ts";

/** Only what comes so early to the eye leads it out. */
const EARLY = 2;
/** Less contrast with what is around, and less lightness, do not lead out, L*. */
const TOLD = { contrast: 24, lightness: 70 } as const;
/** Shares of the picture and of its border that a spot has at most: skies and white grounds have more. */
const SPOT = { area: 0.05, border: 0.1 } as const;
/** A spot ends where half of its contrast is lost, or so much, L*. */
const LEAST_FALL = 6;

/** A bright spot that the frame cuts and that the eye goes to before anything it is meant to see. */
export async function brightEdgeLook(print: LookedPrint): Promise<Finding[]> {
  const subject = print.marks.get("subject");
  const seen = await seenByEye(print.reader, print.recipe, subject ?? null);
  const early = seen.pulls.slice(0, subject ? Math.min(EARLY, (seen.subject ?? EARLY + 1) - 1) : EARLY);
  const worst = early.find(
    (pull) =>
      pull.contrast >= TOLD.contrast &&
      pull.lightness >= TOLD.lightness &&
      print.markAt("may go white", pull.x, pull.y) < 0.5 &&
      print.markAt("subject", pull.x, pull.y) < 0.5 &&
      isCutSpot(seen, pull),
  );
  if (!worst) return [];
  const stops = Math.min(1, Math.max(1 / 3, worst.contrast / 45));
  const centre = centreOf(subject);
  return [
    {
      id: "bright edge",
      kind: "bright edge",
      text: `A bright spot at ${where(worst)} is cut by the frame, ${worst.contrast.toFixed(0)} L* lighter than what is around it: it leads out.`,
      weight: worst.contrast / TOLD.contrast,
      place: { x: worst.x, y: worst.y },
      mend: mended(print.recipe, `Burn the edges by ${stops.toFixed(2)} stop`, (old) => {
        const { edgeBurn } = old.finish;
        const burnt = { ...edgeBurn, ...centre, stops: Math.max(-2, edgeBurn.stops - stops) };
        return { ...old, finish: { ...old.finish, edgeBurn: burnt } };
      }),
    },
  ];
}

/** Whether a pull is a small light patch that reaches the border of the frame. */
function isCutSpot({ seen, width, height }: Squint, { x, y, contrast, lightness }: Pull): boolean {
  const level = lightness - Math.max(LEAST_FALL, contrast / 2);
  const middle = Math.min(height - 1, Math.floor(y * height)) * width + Math.min(width - 1, Math.floor(x * width));
  const own = new Set([middle]);
  let border = 0;
  // A set gives what is added while it is gone through, too.
  for (const i of own) {
    const column = i % width;
    if (column === 0 || column === width - 1 || i < width || i >= width * (height - 1)) border++;
    for (const j of [column > 0 ? i - 1 : -1, column < width - 1 ? i + 1 : -1, i - width, i + width])
      if (j >= 0 && j < seen.length && seen[j] > level) own.add(j);
  }
  return border > 0 && border < SPOT.border * 2 * (width + height) && own.size < SPOT.area * seen.length;
}

/** Middle of the subject, within what an edge burn's centre may be. */
function centreOf(subject: Area | undefined): { centreX: number; centreY: number } {
  let [x, y, weight] = [0, 0, 0];
  subject?.mask.forEach((share, i) => {
    x += share * (i % subject.width);
    y += share * Math.floor(i / subject.width);
    weight += share;
  });
  const within = (v: number) => Math.min(0.9, Math.max(0.1, Math.round(100 * v) / 100));
  if (!subject || weight === 0) return { centreX: 0.5, centreY: 0.5 };
  return { centreX: within(x / weight / subject.width), centreY: within(y / weight / subject.height) };
}
