import { regionCells, type RegionShape } from "@yelm/core";
import { WandSparkles } from "lucide-react";
import { facts } from "../keys/act-facts.ts";
import type { OutlineProps, ShapeTool } from "./shape-tool.ts";

/** A region that is found in the picture from a click or a scribble. */
export const regionTool: ShapeTool<RegionShape> = {
  kind: "region",
  act: facts({ "shape-region": ["Light", "Found region", "shift+v"] })["shape-region"],
  icon: WandSparkles,
  hint: "Click or scribble on what is meant; with Alt on what is not, or all around it; Esc leaves it",
  firstStops: -0.5,
  pull: null,
  Outline,
  Handles: null,
  Controls: null,
  labelAt(shape, mapping) {
    const at = regionCells(shape).indexOf(1);
    const k = Math.max(shape.width, shape.height);
    return mapping.toPane((at % shape.width) / k, Math.floor(at / shape.width) / k);
  },
  distance: () => Infinity,
};

const borders = new WeakMap<RegionShape, string>();

/** The border of a region's cells, as an SVG path in cells. */
function borderOf(shape: RegionShape): string {
  let path = borders.get(shape);
  if (path !== undefined) return path;
  const { width, height } = shape;
  const cells = regionCells(shape);
  const at = (x: number, y: number) => (x < 0 || y < 0 || x >= width || y >= height ? 0 : cells[y * width + x]);
  const parts: string[] = [];
  // Runs of sides along each row and each column of corners.
  for (let y = 0; y <= height; y++)
    for (let x = 0, from = -1; x <= width; x++) {
      const side = x < width && at(x, y - 1) !== at(x, y);
      if (side && from < 0) from = x;
      if (!side && from >= 0) {
        parts.push(`M${from} ${y}H${x}`);
        from = -1;
      }
    }
  for (let x = 0; x <= width; x++)
    for (let y = 0, from = -1; y <= height; y++) {
      const side = y < height && at(x - 1, y) !== at(x, y);
      if (side && from < 0) from = y;
      if (!side && from >= 0) {
        parts.push(`M${x} ${from}V${y}`);
        from = -1;
      }
    }
  path = parts.join("");
  borders.set(shape, path);
  return path;
}

function Outline({ shape, colour, mapping }: OutlineProps<RegionShape>) {
  const k = 1 / Math.max(shape.width, shape.height);
  const [ox, oy] = mapping.toPane(0, 0);
  const [ax, ay] = mapping.toPane(k, 0);
  const [bx, by] = mapping.toPane(0, k);
  const path = borderOf(shape);
  return (
    <g
      fill="none"
      pointerEvents="none"
      transform={`matrix(${[ax - ox, ay - oy, bx - ox, by - oy, ox, oy].join(" ")})`}
      data-testid="region-border"
    >
      <path d={path} stroke="#000" strokeOpacity={0.45} strokeWidth={2.5} vectorEffect="non-scaling-stroke" />
      <path d={path} stroke={colour} strokeWidth={1.1} strokeDasharray="5 4" vectorEffect="non-scaling-stroke" />
    </g>
  );
}
