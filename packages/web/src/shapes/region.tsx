import { regionCells, type RegionShape } from "@yelm/core";
import { contours } from "d3-contour";
import { WandSparkles } from "lucide-react";
import { useId } from "react";
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

const borders = new WeakMap<RegionShape, string>();

/** A cell counts this many times each of its neighbours when stairs are evened; what is one cell wide still shows then. */
const OWN_WEIGHT = 4;
const BORDER_LEVEL = 0.44;

/** The border of a region's cells without their stairs, as an SVG path in cells. */
function borderOf(shape: RegionShape): string {
  let path = borders.get(shape);
  if (path !== undefined) return path;
  const { width, height } = shape;
  const along = evened(Float32Array.from(regionCells(shape)), width, height, 1, width);
  const values = evened(along, height, width, width, 1);
  const rings = contours().size([width, height]).contour(Array.from(values), BORDER_LEVEL).coordinates.flat();
  path = rings.map((ring) => `M${ring.map(([x, y]) => `${x.toFixed(2)} ${y.toFixed(2)}`).join("L")}Z`).join("");
  borders.set(shape, path);
  return path;
}

/** Each of `rows` rows of `length` values with their neighbours' share; what lies beyond an end is as the end. */
function evened(values: Float32Array, length: number, rows: number, step: number, pitch: number): Float32Array {
  const to = new Float32Array(values.length);
  for (let row = 0; row < rows; row++)
    for (let i = 0, at = row * pitch; i < length; i++, at += step) {
      const before = values[i > 0 ? at - step : at];
      const after = values[i + 1 < length ? at + step : at];
      to[at] = (OWN_WEIGHT * values[at] + before + after) / (OWN_WEIGHT + 2);
    }
  return to;
}

function Outline({ shape, colour, mapping }: OutlineProps<RegionShape>) {
  const k = 1 / Math.max(shape.width, shape.height);
  const [ox, oy] = mapping.toPane(0, 0);
  const [ax, ay] = mapping.toPane(k, 0);
  const [bx, by] = mapping.toPane(0, k);
  const path = borderOf(shape);
  const clip = useId();
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
