import type { Recipe } from "../recipe/schema.ts";
import type { CaptureInfo } from "./capture.ts";
import type { ExportOptions } from "./export-options.ts";

/** A shoot. */
export interface Roll {
  readonly id: string;
  readonly title: string;
  readonly place: string;
  readonly note: string;
  readonly createdAt: string;
  readonly negativeCount: number;
  /** The prints that stand for the roll, first is best. */
  readonly coverPrintIds: string[];
}

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
  readonly createdAt: string;
}

/** What came of bringing one file in. */
export interface ImportResult {
  readonly status: "imported" | "duplicate";
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

/** One step of a JSON patch (RFC 6902; add, remove and replace only). */
export interface PatchOperation {
  readonly op: "add" | "remove" | "replace";
  readonly path: string;
  readonly value?: unknown;
}

/** One change of a print; the changes of a print form a tree, so that nothing undone is lost. */
export interface Revision {
  readonly id: string;
  readonly parent: string | null;
  readonly patch: PatchOperation[];
  readonly inverse: PatchOperation[];
  readonly label: string;
  readonly station: string;
  readonly at: string;
}

/** A change as it is sent. */
export interface NewRevision {
  readonly id: string;
  /** Revision that it was made from. */
  readonly base: string;
  readonly patch: PatchOperation[];
  readonly label: string;
  readonly station: string;
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

/** What listening screens are told. */
export type ServerEvent =
  | { readonly kind: "export"; readonly id: string }
  | { readonly kind: "negatives"; readonly rollId: string }
  | { readonly kind: "prints"; readonly negativeId: string };

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
