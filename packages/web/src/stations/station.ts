import type { Frame, Negative, Recipe, Station } from "@yelm/core";
import type { ComponentType } from "react";
import type { ActFacts } from "../keys/act-facts.ts";
import type { Placement } from "../picture/placement.ts";

export interface SheetProps {
  readonly negative: Negative;
}

/** What lies over the picture while a station is open. */
export interface OverlayProps {
  readonly negative: Negative;
  readonly frame: Frame;
  readonly placement: Placement;
}

/** A control that can be found by its name. */
export interface Findable {
  /** As it stands in the sheet. */
  readonly name: string;
  /** Other words for it. */
  readonly words: string;
  /** The group that it is in. */
  readonly group: string;
  /** Shows the page of the sheet that it is on. */
  readonly reveal?: () => void;
}

/** A station of the bench. Everything about it lies in its folder; `stations.ts` lists them. */
export interface StationDef {
  readonly name: Station;
  readonly Sheet: ComponentType<SheetProps>;
  readonly Overlay: ComponentType<OverlayProps> | null;
  /** What to do with a tool, said on the picture, by tool. */
  readonly hints: Readonly<Record<string, string>>;
  readonly acts: Readonly<Record<string, ActFacts>>;
  readonly controls: readonly Findable[];
  /** What can be laid out where the picture is, in its stead. */
  readonly Stage?: ComponentType<SheetProps>;
  /** The print as it is to be seen while a tool is in hand, such as uncropped while cropping. */
  shownWith?(recipe: Recipe, tool: string): Recipe;
}
