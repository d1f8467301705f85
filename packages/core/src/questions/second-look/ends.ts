import type { Finding } from "../../judge/finding.ts";
import { mended, type LookedPrint } from "./looked-print.ts";
import { percent, where } from "../../judge/words.ts";
import { boxMeans } from "../../maths/box-means.ts";
import { BARE, DEEPEST, pointAtFirstSpeck, toneEnds } from "../../measure/tone-ends.ts";
import { shapeSchema } from "../../parts/shape/schema.ts";
import { rangeOf } from "../../schema/defaults.ts";

/** Shares less than these are not told. */
const TOLD = { white: 0.0015, black: 0.01, kept: 0.0003 } as const;
/** Light of sensor white that is black in a file of eight bits. */
const NOTHING = 2 ** -13;

/** What prints as bare paper or as the deepest black and is not meant to. */
export function endsLook(print: LookedPrint): Finding[] {
  const { view, reflectance, light } = print.ends;
  const { shape } = print.recipe;
  const found: Finding[] = [];
  for (const end of ["white", "black"] as const) {
    const isMeant = end === "white" ? shape.letWhite : shape.letBlack;
    const clips = new Float32Array(reflectance.length);
    let [all, kept, keptAll] = [0, 0, 0];
    for (let i = 0; i < reflectance.length; i++) {
      const [x, y] = [((i % view.width) + 0.5) / view.width, (Math.floor(i / view.width) + 0.5) / view.height];
      const keep = print.markAt("keep detail", x, y) > 0.5;
      if (keep) keptAll++;
      if (end === "white" ? reflectance[i] <= BARE : reflectance[i] >= DEEPEST) continue;
      // What the capture has as nothing cannot be printed as something.
      if (end === "black" && light[i] < NOTHING) continue;
      if (!keep && (isMeant || print.markAt(end === "white" ? "may go white" : "may go black", x, y) > 0.5)) continue;
      clips[i] = 1;
      all++;
      if (keep) kept++;
    }
    const share = all / reflectance.length;
    const keptShare = keptAll > 0 ? kept / keptAll : 0;
    if (share < TOLD[end] && keptShare < TOLD.kept) continue;
    const place = densest(clips, view.width, view.height);
    const ends = toneEnds(light, view.width, view.height);
    const field = end === "white" ? ("whitePoint" as const) : ("blackPoint" as const);
    const point = pointAtFirstSpeck(ends, shape, end, rangeOf(shapeSchema, field));
    const inKept = keptShare >= TOLD.kept;
    const what = end === "white" ? "is bare paper" : "is the deepest black";
    found.push({
      id: `clipped ${end}`,
      kind: `clipped ${end}`,
      text: inKept
        ? `${percent(keptShare)} of what must keep detail ${what}, first at ${where(place)}.`
        : `${percent(share)} of the print ${what}, most at ${where(place)}.`,
      weight: Math.max(share / TOLD[end], (2 * keptShare) / TOLD.kept) ** 0.5,
      place,
      mend:
        point === null
          ? null
          : mended(print.recipe, `${end === "white" ? "White" : "Black"} point at the first speck`, (old) => ({
              ...old,
              shape: { ...old.shape, [field]: point },
            })),
    });
  }
  return found;
}

/** Where most of a mark lies within a tenth of the picture. */
function densest(marks: Float32Array, width: number, height: number): { x: number; y: number } {
  const dense = boxMeans(marks, width, height, Math.max(1, Math.round(0.03 * Math.max(width, height))));
  let at = 0;
  for (let i = 1; i < dense.length; i++) if (dense[i] > dense[at]) at = i;
  return { x: ((at % width) + 0.5) / width, y: (Math.floor(at / width) + 0.5) / height };
}
