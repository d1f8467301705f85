import { type WholeShape } from "@yelm/core";
import { Square } from "lucide-react";
import { facts } from "../keys/act-facts.ts";
import type { ShapeTool } from "./shape-tool.ts";

/** The whole picture: a click makes it; there is nothing to pull. */
export const wholeTool: ShapeTool<WholeShape> = {
  kind: "whole",
  act: facts({ "shape-whole": ["Light", "Whole picture", "shift+a"] })["shape-whole"],
  icon: Square,
  hint: "Click the picture: the move acts on all of it; Esc leaves it",
  firstStops: -0.5,
  pull: { begin: () => ({ kind: "whole" }), follow: (shape) => shape },
  Outline: () => null,
  Handles: null,
  Controls: null,
  labelAt: (_shape, mapping) => mapping.toPane(0.05, 0.05),
  distance: () => Infinity,
};
