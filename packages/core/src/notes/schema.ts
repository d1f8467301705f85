import { Type, type Static } from "@sinclair/typebox";
import { defaultOf } from "../schema/defaults.ts";
import { choice, closed, group, stableId } from "../schema/fields.ts";
import { outlineSchema } from "../shapes/outline.ts";
import { regionSchema } from "../shapes/region.ts";

/** What a mark of the plan says about its area. */
export const MARK_KINDS = ["subject", "bring up", "hold back", "keep detail", "may go black", "may go white"] as const;
export type MarkKind = (typeof MARK_KINDS)[number];

export const planMarkSchema = group(
  {
    id: stableId("Stays with the mark."),
    kind: choice(MARK_KINDS, "subject", "What it says about its area."),
    shape: Type.Union([outlineSchema, regionSchema], { description: "The area, on the flat picture." }),
  },
  "One mark of the plan.",
);

export const planSchema = group(
  {
    sentence: Type.String({ maxLength: 400, default: "", description: "What the picture is to say." }),
    key: choice(["", "low", "normal", "high"] as const, "", "The key it is to have; empty is not said."),
    marks: Type.Array(planMarkSchema, { maxItems: 40, default: [], description: "Marks on the picture." }),
  },
  "What a print is for.",
);

export const namedStateSchema = group(
  {
    id: stableId("Stays with the state."),
    name: Type.String({ minLength: 1, maxLength: 80, description: "What the user calls it." }),
    note: Type.String({ maxLength: 400, default: "", description: "Why it is kept." }),
    revision: Type.String({ minLength: 1, maxLength: 64, description: "The revision of the print that it names." }),
    at: Type.String({ maxLength: 40, description: "When it was named, ISO 8601." }),
  },
  "A state of the print with a name.",
);

export const meantSchema = group(
  {
    finding: Type.String({ minLength: 1, maxLength: 80, description: "Which finding." }),
    reason: Type.String({ maxLength: 400, default: "", description: "Why it is meant so." }),
    at: Type.String({ maxLength: 40, description: "When it was said, ISO 8601." }),
  },
  "A finding that was looked at and is meant so.",
);

/** What stands beside a print's recipe and changes nothing of the picture. */
export const notesSchema = Type.Object(
  {
    plan: planSchema,
    states: Type.Array(namedStateSchema, { maxItems: 60, default: [] }),
    meant: Type.Array(meantSchema, { maxItems: 100, default: [] }),
  },
  { ...closed, description: "What stands beside a print's recipe." },
);

export type PlanMark = Static<typeof planMarkSchema>;
export type Plan = Static<typeof planSchema>;
export type NamedState = Static<typeof namedStateSchema>;
export type Meant = Static<typeof meantSchema>;
export type Notes = Static<typeof notesSchema>;

export const defaultNotes = (): Notes => defaultOf(notesSchema) as Notes;

/** Whether a plan says nothing yet. */
export const isEmptyPlan = ({ sentence, key, marks }: Plan): boolean =>
  sentence.trim() === "" && key === "" && marks.length === 0;
