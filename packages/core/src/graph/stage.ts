import type { KernelHeap } from "../kernels/heap.ts";
import type { Rect, Size } from "../maths/rect.ts";
import type { TilePlace } from "../tiles/tiles.ts";

/** What the graph itself has to know of a print; a stage states what more it reads. */
export interface GraphPrint {
  readonly negative: Size;
  /** Size of the straightened and cropped frame. */
  readonly frame: Size;
}

/** One f32 value a pixel in kernel memory, row by row. */
export interface Block extends Rect {
  readonly pointer: number;
  readonly stride: number;
}

/** What a stage reads of another one: a rectangle of pixels of a level. Cut to the level's own size. */
export interface Need<P extends GraphPrint = GraphPrint> {
  readonly stage: string;
  /** Pixels are 2^level of full size; a level may lie between two of the pyramid's. */
  readonly level: number;
  readonly rect: Rect;
  /** Another print of the same negative whose result is read; else the print itself. */
  readonly print?: P;
}

/** What a stage works with while it computes one tile. */
export interface StageContext<P extends GraphPrint> {
  readonly heap: KernelHeap;
  readonly print: P;
  /** The planes of another stage's result; only needs that were declared are answered. Stride as stated. */
  read(this: void, need: Need<P>): readonly Block[];
  /** A tile of the negative: three planes of half floats. */
  negativeTile(this: void, place: TilePlace): Uint16Array;
  /**
   * A part of this stage's work that outlives other parts' changes, kept under a key of its own, which says everything it
   * depends on, its place too: computed when it is not kept, held while `use` runs, and let go.
   * @param as - rough cost of one of its pixels, when that is not the stage's; and what it is the result for, by which of several
   * the one used last is kept longest.
   */
  withKept(
    this: void,
    key: string,
    compute: (out: number) => void,
    use: (plane: number) => void,
    as?: { readonly costNs?: number; readonly place?: string },
  ): void;
  /** Whether {@link withKept} would find a part. */
  isKept(this: void, key: string): boolean;
  /** What the stage notes for itself from one tile to the next: only what saves work, never what changes a result. */
  readonly notes: Map<string, unknown>;
  /**
   * Values of the whole negative that several tiles and changes read, in kernel memory: made when they are not kept under the key. It may
   * be given up when the next one is asked for.
   */
  keptBlock(this: void, key: string, bytes: number, make: (out: number) => void): number;
}

/**
 * One step from capture to print, computed tile by tile. The graph computes a tile only when something that the stage
 * reads for this tile has changed: its `reads` of the print, or the tiles of other stages that it needs.
 */
export interface Stage<P extends GraphPrint> {
  /** Unique among the stages. */
  readonly name: string;
  /** Pixels of the negative, or of the straightened and cropped frame. */
  readonly grid: "negative" | "frame";
  /** Planes of the result. */
  readonly planes: number;
  /** Rough cost of one pixel, for deciding what to keep. */
  readonly costNs: number;
  /** The stage that stands in while this one does nothing; null for one that makes something of nothing. */
  readonly after: string | null;
  /** What of the print changes the result in `rect`. It becomes part of a key: small, and without what does not count. */
  reads(print: P, level: number, rect: Rect): unknown;
  /**
   * A rectangle outside which what it makes of the same inputs is the same for two prints, to the bit; null when it may differ anywhere in
   * `rect`. Without it, it may.
   */
  differsIn?(before: P, after: P, level: number, rect: Rect): Rect | null;
  /** Whether it changes anything for this print on a level. */
  isActive(print: P, level: number): boolean;
  /** What it reads to compute `rect`. Lengths follow from the print, so that every level shows the same picture. */
  needs(print: P, level: number, rect: Rect): readonly Need<P>[];
  /** The tiles of the negative that it reads itself to compute `rect`; none when not stated. */
  negativeTiles?(print: P, level: number, rect: Rect): readonly TilePlace[];
  /** Computes `rect` into `out`, one pointer a plane, each with a stride of SLOT_EDGE. */
  compute(context: StageContext<P>, level: number, rect: Rect, out: readonly number[]): void;
}

/**
 * A step on the view's own pixels, after the tiles: declared like a stage, so that its cost and what it reads are known,
 * but computed anew for every view.
 */
export interface ViewStage<P extends GraphPrint> {
  readonly name: string;
  readonly grid: "view";
  readonly costNs: number;
  reads(print: P): unknown;
  isActive(print: P): boolean;
}

/** A stage that failed, by name; the cause is what it threw. */
export class StageError extends Error {
  readonly stage: string;

  constructor(stage: string, cause: unknown) {
    super(`The picture stopped at “${stage}”: ${cause instanceof Error ? cause.message : String(cause)}`, { cause });
    this.name = "StageError";
    this.stage = stage;
  }
}
