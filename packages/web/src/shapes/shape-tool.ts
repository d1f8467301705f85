import type { MaskShape } from "@yelm/core";
import type { ComponentType } from "react";
import type { ActFacts } from "../keys/act-facts.ts";
import type { Local, Mapping } from "./mapping.ts";

export interface OutlineProps<S> {
  readonly shape: S;
  readonly colour: string;
  readonly mapping: Mapping;
}

export interface HandleProps<S> {
  readonly shape: S;
  readonly mapping: Mapping;
  readonly local: Local;
  readonly set: (change: (shape: S) => S) => void;
  readonly onEnd: () => void;
}

export interface ControlProps<S> {
  readonly shape: S;
  readonly preview: (shape: S) => void;
  readonly keep: (what: string) => void;
}

type Point = readonly [number, number];

/** How a kind of shape is drawn, seen and pulled on the picture. One file each, one line in `shape-tools.ts`. */
export interface ShapeTool<S extends MaskShape> {
  readonly kind: S["kind"];
  readonly act: ActFacts;
  readonly icon: ComponentType<{ size?: number }>;
  /** How it is drawn, in the words of a hint. */
  readonly hint: string;
  /** Stops that a light move of this shape begins with. */
  readonly firstStops: number;
  /** Drawn by one pull on the picture: how it begins, and how it follows. A brush is painted instead. */
  readonly pull: { begin(from: Point): S; follow(shape: S, from: Point, to: Point): S } | null;
  readonly Outline: ComponentType<OutlineProps<S>>;
  readonly Handles: ComponentType<HandleProps<S>> | null;
  readonly Controls: ComponentType<ControlProps<S>> | null;
  /** Where its label stands, on its edge; pane points. */
  labelAt(shape: S, mapping: Mapping): [number, number];
  /** How far a place is from its outline, long edges. */
  distance(shape: S, x: number, y: number): number;
}
