import type { BrushShape } from "@yelm/core";
import { Brush } from "lucide-react";
import { facts } from "../keys/act-facts.ts";
import type { OutlineProps, ShapeTool } from "./shape-tool.ts";

export const brushTool: ShapeTool<BrushShape> = {
  kind: "brush",
  act: facts({ "shape-brush": ["Light", "Brush", "p"] })["shape-brush"],
  icon: Brush,
  hint: "Paint; Q and W change the radius, R takes away again; Esc leaves it",
  firstStops: -0.5,
  pull: null,
  Outline,
  Handles: null,
  Controls: null,
  labelAt({ strokes }, mapping) {
    const places = strokes.flatMap(({ points }) => points.map(([x, y]) => mapping.toPane(x, y)));
    if (places.length === 0) return [0, 0];
    return places.reduce((top, place) => (place[1] < top[1] ? place : top));
  },
  distance({ strokes }, x, y) {
    // From its dotted line, not from its rim: a large brush would be pointed at everywhere.
    return Math.min(...strokes.flatMap(({ points }) => points.map(([px, py]) => Math.hypot(px - x, py - y))), Infinity);
  },
};

function Outline({ shape, colour, mapping }: OutlineProps<BrushShape>) {
  return (
    <g fill="none" pointerEvents="none" opacity={0.7}>
      {shape.strokes.map((stroke) => (
        <polyline
          key={stroke.id}
          points={stroke.points.map(([x, y]) => mapping.toPane(x, y).join()).join(" ")}
          stroke={colour}
          strokeWidth={1.25}
          strokeDasharray="1 5"
          strokeLinecap="round"
        />
      ))}
    </g>
  );
}
