import { regionCells, type RegionShape } from "@yelm/core";
import { WandSparkles } from "lucide-react";
import { useId } from "react";
import { facts } from "../keys/act-facts.ts";
import type { OutlineProps, ShapeTool } from "./shape-tool.ts";
import { useRegionBorder } from "./use-region-border.ts";

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
    const cells = regionCells(shape);
    const { x, y, width, height } = mapping.print;
    const k = Math.max(shape.width, shape.height);
    const paneOf = (cell: number) => mapping.toPane((cell % shape.width) / k, Math.floor(cell / shape.width) / k);
    const seen = (cell: number) => {
      const [px, py] = paneOf(cell);
      return px >= x && py >= y && px < x + width && py < y + height;
    };
    const at = cells.findIndex((value, cell) => value === 1 && seen(cell));
    return paneOf(at < 0 ? cells.indexOf(1) : at);
  },
  distance: () => Infinity,
};

function Outline({ shape, colour, mapping }: OutlineProps<RegionShape>) {
  const k = 1 / Math.max(shape.width, shape.height);
  const [ox, oy] = mapping.toPane(0, 0);
  const [ax, ay] = mapping.toPane(k, 0);
  const [bx, by] = mapping.toPane(0, k);
  const path = useRegionBorder(shape);
  const clip = useId();
  if (!path) return null;
  return (
    <g clipPath={`url(#${clip})`} data-testid="region-border">
      <clipPath id={clip}>
        <rect {...mapping.print} />
      </clipPath>
      <g
        fill="none"
        pointerEvents="none"
        transform={`matrix(${[ax - ox, ay - oy, bx - ox, by - oy, ox, oy].join(" ")})`}
      >
        <path d={path} stroke="#000" strokeOpacity={0.45} strokeWidth={2.5} vectorEffect="non-scaling-stroke" />
        <path d={path} stroke={colour} strokeWidth={1.1} strokeDasharray="5 4" vectorEffect="non-scaling-stroke" />
      </g>
    </g>
  );
}
