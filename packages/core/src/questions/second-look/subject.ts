import type { Finding } from "../../judge/finding.ts";
import { type LookedPrint } from "./looked-print.ts";
import { ORDINALS, where } from "../../judge/words.ts";
import { mendEye, seenByEye, subjectOf } from "../eye-way.ts";

/** A subject that does not pull first. */
export async function subjectLook(print: LookedPrint): Promise<Finding[]> {
  const area = await subjectOf(print.reader, print.recipe, print.plan);
  if (!area) return [];
  const seen = await seenByEye(print.reader, print.recipe, area);
  if (seen.subject === 1 || seen.pulls.length === 0) return [];
  const [first] = seen.pulls;
  const mend = await mendEye(print.reader, { recipe: print.recipe, plan: print.plan });
  const place = ORDINALS[(seen.subject ?? 0) - 1];
  return [
    {
      id: "subject",
      kind: "subject",
      text: `${place ? `The subject is ${place}` : "The subject hardly pulls"}; ${where(first)} is first.`,
      weight: seen.subject === null ? 2.5 : 1.5,
      place: { x: first.x, y: first.y },
      mend: mend && { label: `With ${mend.label}`, recipe: mend.recipe },
    },
  ];
}
