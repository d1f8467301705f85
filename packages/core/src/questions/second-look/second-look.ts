import { FINDING_KINDS, MOST_FINDINGS, type Finding } from "../../judge/finding.ts";
import type { AboutPlan } from "../eye-way.ts";
import type { PictureReader } from "../reader.ts";
import { brightEdgeLook } from "./bright-edge.ts";
import { grainLook } from "./coarse-grain.ts";
import { endsLook } from "./ends.ts";
import { haloLook } from "./halo.ts";
import { keyLook } from "./key.ts";
import { leanLook } from "./lean.ts";
import { openLookedPrint, type LookedPrint } from "./looked-print.ts";
import { mergedLook } from "./merged.ts";
import { noiseLook } from "./noise.ts";
import { skinLook } from "./skin.ts";
import { skyLook } from "./sky.ts";
import { subjectLook } from "./subject.ts";

/** What a second look looks for, one after the other; the costly ones last. */
const LOOKS_FOR = {
  ends: endsLook,
  edges: brightEdgeLook,
  lean: leanLook,
  grain: grainLook,
  key: keyLook,
  halo: haloLook,
  noise: noiseLook,
  subject: subjectLook,
  merged: mergedLook,
  skin: skinLook,
  sky: skyLook,
} satisfies Record<string, (print: LookedPrint) => Finding[] | Promise<Finding[]>>;
export type LookedFor = keyof typeof LOOKS_FOR;
export const LOOKS = Object.keys(LOOKS_FOR) as readonly LookedFor[];

/** What one look at a print finds. */
export async function lookFor(
  reader: PictureReader,
  { look, ...about }: AboutPlan & { readonly look: LookedFor },
): Promise<Finding[]> {
  return LOOKS_FOR[look](await lookedPrint(reader, about));
}

/** What is to be said of a print before it is called done: at most seven findings, the worst first. */
export async function secondLook(reader: PictureReader, about: AboutPlan): Promise<Finding[]> {
  const found: Finding[] = [];
  for (const look of LOOKS) found.push(...(await lookFor(reader, { ...about, look })));
  return worstFirst(found);
}

/** Findings as they are told. */
export function worstFirst(found: readonly Finding[]): Finding[] {
  const rank = (one: Finding) => FINDING_KINDS.indexOf(one.kind);
  return [...found].sort((p, q) => q.weight - p.weight || rank(p) - rank(q)).slice(0, MOST_FINDINGS);
}

/** The print that was last looked at by each reader: its looks follow each other. */
const looked = new WeakMap<PictureReader, { readonly key: string; readonly print: Promise<LookedPrint> }>();

function lookedPrint(reader: PictureReader, { recipe, plan }: AboutPlan): Promise<LookedPrint> {
  const key = JSON.stringify([recipe, plan]);
  const known = looked.get(reader);
  if (known?.key === key) return known.print;
  const print = openLookedPrint(reader, recipe, plan);
  looked.set(reader, { key, print });
  print.catch(() => looked.delete(reader));
  return print;
}
