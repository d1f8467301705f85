import type { TSchema } from "@sinclair/typebox";
import type { GraphPrint, Stage, ViewStage } from "../graph/stage.ts";
import type { Size } from "../maths/rect.ts";
import type { Carry } from "../shapes/shape.ts";
import type { NegativeFacts } from "./ground/facts.ts";
import type { Station } from "./stations.ts";

/** One readable line of a part. */
export interface PartLine {
  /** Stable name of the line, used to switch it and to find its control. */
  readonly id: string;
  readonly text: string;
}

/** How a line is taken out and put back. */
export type LineSwitch<V> =
  /** Its fields go to their defaults; paths within the part, such as "lens.distortion". */
  | readonly string[]
  | {
      /** The part without the line. */
      strike(value: V): V;
      /** The part with the line as it stands in `source`. */
      restore(value: V, source: V): V;
    };

/** Something wrong that a schema cannot say: what was expected, and what came. */
export interface Fault {
  /** Path within the part, such as "curve.3". */
  readonly field: string;
  readonly expected: string;
  readonly received: string;
}

/** Fields of a part that are copied to other prints together. */
export interface CopyGroup {
  /** Unique among all parts'. */
  readonly id: string;
  readonly name: string;
  /** Fields of the part, at its first depth; every field belongs to one group. */
  readonly fields: readonly string[];
  /** Whether it goes along unless it is left out; what belongs to one capture alone is copied only when asked for. */
  readonly usual: boolean;
}

/** What a print is prepared from. */
export interface PrintSource {
  readonly negative: Size;
  readonly facts: NegativeFacts;
}

/**
 * Keeps the last result of a costly preparation under a name, made anew when what it reads has changed.
 */
export type Keep = <T>(name: string, reads: unknown, make: () => T) => T;

/**
 * One part of a recipe, and everything that the rest of Yelm has to know of it. A folder each, one line in
 * `recipe/parts.ts`.
 */
export interface Part<V, Name extends string = string> {
  /** The field of the recipe, and the name under which the part is merged and copied. */
  readonly name: Name;
  readonly station: Station;
  readonly schema: TSchema;
  /** What it adds to a print made ready for rendering; earlier parts' additions are in `print` already. */
  prepare(print: PrintSource, keep: Keep): object;
  /** Its stages on tiles; the pipeline puts all parts' in order. */
  readonly stages: readonly Stage<GraphPrint>[];
  readonly viewStages: readonly ViewStage<GraphPrint>[];
  /** Everything that differs from `fresh`, a line each, in the order in which it is computed. */
  describe(value: V, fresh: V): PartLine[];
  /** How the lines are switched, by id. */
  readonly lines: Readonly<Record<string, LineSwitch<V>>>;
  /** Items that are lines of their own and are switched by their `on`: the lines' prefix → the field of the list. */
  readonly itemLines: Readonly<Record<string, string>>;
  /** The part after the lens was corrected otherwise: what lies on the flat picture goes along. */
  carry(value: V, carry: Carry): V;
  readonly copies: readonly CopyGroup[];
  /**
   * Fields that a part of an earlier version lacks and that the present defaults would print otherwise; what else is not there
   * is filled in by its default. `value` is as it came, unchecked.
   */
  earlier?(value: Readonly<Record<string, unknown>>): object;
  /** What its schema cannot say; null when all is well. */
  check(value: V): Fault | null;
}
