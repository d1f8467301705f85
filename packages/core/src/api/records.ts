import type { RecipeChange } from "../recipe/changes.ts";
import type { RevisionStep } from "../recipe/revisions.ts";
import type { Recipe } from "../recipe/schema.ts";
import type { SetMeasure } from "../judge/beside-others.ts";
import type { Meant, Notes } from "../notes/schema.ts";
import type { TonesRead } from "../measure/print-tones.ts";
import type { CaptureInfo } from "../raw/capture-info.ts";
import type { ExportOptions } from "./export-options.ts";

/** A shoot. */
export interface Roll {
  readonly id: string;
  readonly title: string;
  readonly place: string;
  /** When, in the user's words. */
  readonly date: string;
  readonly light: string;
  /** What the roll is meant to say. */
  readonly note: string;
  readonly createdAt: string;
  /** When it was put into the archive; null while it is on the table. */
  readonly archivedAt: string | null;
  readonly negativeCount: number;
  /** The prints that stand for the roll, first is best. */
  readonly coverPrintIds: string[];
}

export const RATINGS = ["keep", "maybe", "no"] as const;
export type Rating = (typeof RATINGS)[number];

/** A capture and what is known of it. */
export interface Negative {
  readonly id: string;
  readonly rollId: string;
  readonly fileName: string;
  readonly title: string;
  /** SHA-256 of the file as it came. */
  readonly hash: string;
  readonly bytes: number;
  readonly width: number;
  readonly height: number;
  readonly takenAt: string | null;
  readonly capture: CaptureInfo;
  readonly rating: Rating | null;
  readonly createdAt: string;
}

/** A negative as a contact sheet of thousands shows it. */
export interface SheetEntry extends Pick<Negative, "id" | "fileName" | "title" | "rating" | "takenAt" | "createdAt"> {
  readonly iso: number | null;
  readonly printCount: number;
  /** The print that stands for it: the highest position, then the latest change. */
  readonly best: Pick<Print, "id" | "head"> | null;
}

/** What came of bringing one file in. */
export interface ImportResult {
  readonly status: "imported" | "duplicate" | "repaired";
  readonly negative: Negative;
}

/** A rendition of a negative. */
export interface Print {
  readonly id: string;
  readonly negativeId: string;
  readonly name: string;
  readonly recipe: Recipe;
  /** The revision that the recipe is. */
  readonly head: string;
  /** Prints with a higher position stand for their roll. */
  readonly position: number;
  readonly createdAt: string;
  readonly updatedAt: string;
}

/** One change of a print; the changes of a print form a tree, so that nothing undone is lost. */
export interface Revision extends RevisionStep {
  readonly id: string;
  readonly label: string;
  readonly station: string;
  /** When it was made, ISO 8601. */
  readonly at: string;
}

/** A print with all its revisions, of one moment, oldest first. */
export interface PrintHistory {
  readonly print: Print;
  readonly revisions: readonly Revision[];
  /** Ids of the head moves and namings that were done. */
  readonly acts: readonly string[];
}

/** A change as it is sent. */
export interface NewRevision {
  readonly id: string;
  /** Revision that it was made from. */
  readonly base: string;
  readonly changes: readonly RecipeChange[];
  readonly label: string;
  readonly station: string;
  /** When it was made, by the sender's clock; it may have waited since. */
  readonly at: string;
}

/** What stands beside a print, of one moment. */
export interface PrintNotes {
  readonly notes: Notes;
  /** The state that the notes are; the next change is made from it. */
  readonly head: string;
  /** When that state was made, ISO 8601. */
  readonly at: string;
  readonly canUndo: boolean;
  readonly canRedo: boolean;
}

/** A change of the notes as it is sent: whole, for they are small. */
export interface NewNotes {
  readonly id: string;
  readonly base: string;
  readonly notes: Notes;
  readonly label: string;
}

/** Goes to another revision, as it is sent; with an id it can be sent again. */
export interface HeadMove {
  readonly id?: string;
  readonly base: string;
  readonly target: string;
}

/** A print's name, as it is sent; with an id it can be sent again. */
export interface Naming {
  readonly id?: string;
  readonly name: string;
}

export type ExportState = "waiting" | "running" | "done" | "failed" | "cancelled";

/** One file being written, or written. */
export interface ExportJob {
  readonly id: string;
  readonly printId: string;
  readonly recipe: Recipe;
  readonly options: ExportOptions;
  readonly state: ExportState;
  /** 0–1. */
  readonly progress: number;
  readonly fileName: string | null;
  readonly bytes: number | null;
  readonly error: string | null;
  readonly createdAt: string;
}

export type ImportState = "waiting" | "running" | "imported" | "duplicate" | "repaired" | "failed" | "cancelled";

/** One file on its way into a roll; it is kept until it is told, so that nothing is lost when the server stops. */
export interface ImportJob {
  readonly id: string;
  readonly rollId: string;
  readonly fileName: string;
  readonly bytes: number;
  readonly origin: "upload" | "card";
  readonly state: ImportState;
  readonly negativeId: string | null;
  readonly error: string | null;
  readonly hint: string | null;
  readonly createdAt: string;
}

/** The folder that stands in for a camera's card, and the simulated camera that shoots into it. */
export interface Card {
  readonly folder: string;
  /** The roll that takes what arrives; null while the card is not read. */
  readonly rollId: string | null;
  readonly scenes: readonly CardScene[];
}

/** Something to photograph. */
export interface CardScene {
  readonly name: string;
  readonly title: string;
  readonly width: number;
  readonly height: number;
  /** Exposure that suits it, stops. */
  readonly exposureStops: number;
}

/** How the simulated camera shoots. */
export interface CardShot {
  readonly scene: string;
  readonly iso: number;
  readonly exposureStops: number;
  /** Frames of a bracket: 1, 3 or 5. */
  readonly frames: number;
  readonly stepStops: number;
}

/** What listening screens are told. */
export type ServerEvent =
  | { readonly kind: "export"; readonly id: string }
  | { readonly kind: "import" }
  | { readonly kind: "negatives"; readonly rollId: string }
  | { readonly kind: "prints"; readonly negativeId: string }
  /** How far a look has been fitted to many prints; `id` is the look's. */
  | { readonly kind: "look"; readonly id: string; readonly done: number; readonly of: number }
  /** What stands beside a print was changed. */
  | { readonly kind: "notes"; readonly id: string; readonly head: string }
  /** One print was changed, and is this now. */
  | ({ readonly kind: "print"; readonly id: string } & Pick<Print, "head" | "name">);

/** Rolls and prints found by part of their names, newest first. */
export interface FoundByName {
  readonly rolls: readonly { readonly id: string; readonly title: string }[];
  readonly prints: readonly {
    readonly id: string;
    readonly name: string;
    /** Titles of its negative and roll. */
    readonly negative: string;
    readonly roll: string;
  }[];
}

/** The one shape of every error answer. */
export interface ErrorBody {
  readonly error: {
    readonly code: string;
    readonly message: string;
    readonly field?: string;
    readonly hint?: string;
    readonly current?: unknown;
  };
}

/** Parts of one recipe for many prints. */
export interface PastedParts {
  readonly recipe: Recipe;
  /** Ids of {@link COPIED_PARTS}. */
  readonly groups: readonly string[];
  readonly to: readonly string[];
  /** What it is called in the prints' histories. */
  readonly label: string;
  /** The negative that they come from: on prints of others, moves and areas are fitted to the picture. */
  readonly from?: CopiedFrom;
}

/** A negative whose print parts were copied of, with its size in pixels. */
export interface CopiedFrom {
  readonly negativeId: string;
  readonly width: number;
  readonly height: number;
}

/** What came in from an archive. */
export interface ArchiveAnswer {
  readonly roll: Roll;
  /** Captures of it that are in the library now, and prints that were made. */
  readonly negatives: number;
  readonly prints: number;
  /** Captures that could not be brought in, and why. */
  readonly failed: readonly { readonly fileName: string; readonly reason: string }[];
}

/** A print among those of its roll: what can be compared. */
export interface SetEntry {
  readonly id: string;
  readonly head: string;
  readonly negativeId: string;
  /** Titles of negative and print. */
  readonly negative: string;
  readonly name: string;
  readonly tones: TonesRead;
  readonly grade: number;
  /** Mean chroma of its tone, OKLab. */
  readonly chroma: number;
  readonly granularity: number;
  /** Width over height. */
  readonly ratio: number;
  /** In what it lies far from the others. */
  readonly outlying: readonly SetMeasure[];
}

/** What matching would make of a print, or has made. */
export interface MatchPlan {
  readonly id: string;
  readonly negative: string;
  readonly name: string;
  readonly before: TonesRead;
  readonly after: TonesRead;
  /** What changes, in words. */
  readonly changes: readonly string[];
}

/** What was done to one print. */
export interface LoggedPrint {
  readonly print: string;
  readonly negative: string;
  readonly ticket: readonly string[];
  readonly plan: string;
  /** Oldest first. */
  readonly decisions: readonly {
    readonly at: string;
    readonly station: string;
    readonly label: string;
    /** Whether it is still in the print. */
    readonly kept: boolean;
  }[];
  readonly meant: readonly Meant[];
  readonly states: readonly { readonly name: string; readonly note: string; readonly at: string }[];
}

/** What was done to some prints, and in which sessions. */
export interface WorkLog {
  readonly title: string;
  readonly sessions: readonly {
    readonly from: string;
    readonly to: string;
    readonly minutes: number;
    readonly decisions: number;
  }[];
  readonly minutes: number;
  readonly prints: readonly LoggedPrint[];
}

/** What pasting did to each print that it changed: its head before and after, and the groups that differed. */
export interface PasteAnswer {
  readonly changed: readonly {
    readonly id: string;
    readonly before: string;
    readonly after: string;
    readonly groups: readonly string[];
  }[];
  readonly unchanged: number;
  /** Regions that were found anew in other pictures, and those that lie where they lay; when there were any. */
  readonly regions?: { readonly found: number; readonly placed: number };
}
