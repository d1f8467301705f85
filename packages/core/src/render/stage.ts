import type { KernelHeap } from "../kernels/heap.ts";
import type { PreparedPrint } from "./prepare.ts";
import type { TilePlace } from "./tiles.ts";
import type { Rect } from "./view.ts";

/** Names of the stages, in the order in which they work. */
export type StageName = "weigh" | "clean" | "calm" | "frame" | "areas" | "base" | "local" | "light";

/** One f32 value a pixel in kernel memory, row by row. */
export interface Block extends Rect {
  readonly pointer: number;
  readonly stride: number;
}

/** What a stage reads of another one: a rectangle of pixels of a level. Cut to the level's own size. */
export interface Need {
  readonly stage: StageName;
  readonly level: number;
  readonly rect: Rect;
  /** Another print of the same negative whose result is read; else the print itself. */
  readonly print?: PreparedPrint;
}

/** What a stage works with while it computes one tile. */
export interface StageContext {
  readonly heap: KernelHeap;
  readonly print: PreparedPrint;
  /** The planes of another stage's result; only needs that were declared are answered. Stride as stated. */
  readonly read: (need: Need) => readonly Block[];
  /** A tile of the negative: three planes of half floats. */
  readonly negativeTile: (place: TilePlace) => Uint16Array;
  /** A part of this stage's work that outlives other parts' changes, kept under a key of its own for this tile. */
  readonly keep: (key: string, compute: (out: number) => void) => number;
}

/**
 * One step from capture to print, computed tile by tile. The graph computes a tile only when something that the stage
 * reads has changed: its `reads` of the recipe, or the results of its `inputs`.
 */
export interface Stage {
  readonly name: StageName;
  /** Pixels of the negative, or of the straightened and cropped frame. */
  readonly grid: "negative" | "frame";
  /** Planes of the result. */
  readonly planes: number;
  /** Rough cost of one pixel, for deciding what to keep. */
  readonly costNs: number;
  /** Stages whose results go in; the first is taken in this stage's stead when it is not active. */
  readonly inputs: readonly StageName[];
  /** The parts of the recipe that change the result. */
  reads(print: PreparedPrint): unknown;
  /** Whether it changes anything for this print. */
  isActive(print: PreparedPrint): boolean;
  /** What it reads to compute `rect`. Lengths follow from the print, so that every level shows the same picture. */
  needs(print: PreparedPrint, level: number, rect: Rect): readonly Need[];
  /** Computes `rect` into `out`, one pointer a plane, each with a stride of SLOT_EDGE. */
  compute(context: StageContext, level: number, rect: Rect, out: readonly number[]): void;
}

/** A stage that failed, by name; the cause is what it threw. */
export class StageError extends Error {
  readonly stage: StageName;

  constructor(stage: StageName, cause: unknown) {
    super(`The picture stopped at “${stage}”: ${cause instanceof Error ? cause.message : String(cause)}`, { cause });
    this.name = "StageError";
    this.stage = stage;
  }
}
