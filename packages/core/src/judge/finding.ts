import type { Recipe } from "../recipe/schema.ts";

/** What a second look can find. */
export const FINDING_KINDS = [
  "clipped white",
  "clipped black",
  "merged",
  "halo",
  "noise",
  "bright edge",
  "lean",
  "harsh skin",
  "ink sky",
  "coarse grain",
  "key",
  "subject",
  "habit",
  "set",
] as const;
export type FindingKind = (typeof FINDING_KINDS)[number];

/** Something that a second look found in a print. */
export interface Finding {
  /** The same as long as it is the same finding: its kind, and what it is about. */
  readonly id: string;
  readonly kind: FindingKind;
  /** What is found, with its measure, as a sentence. */
  readonly text: string;
  /** How bad it is beside what is just noticed: 1 is just noticed. */
  readonly weight: number;
  /** Where, 0–1 of the frame; null where it is the whole print. */
  readonly place: { readonly x: number; readonly y: number } | null;
  /** What would mend it, as an act with the print it makes; null where only the hand can. */
  readonly mend: { readonly label: string; readonly recipe: Recipe } | null;
}

/** More findings than this are not told: the worst come first. */
export const MOST_FINDINGS = 7;
