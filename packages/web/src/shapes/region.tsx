import { regionCells, type Rect, type RegionShape } from "@yelm/core";
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
const ALL_WEIGHTS = (OWN_WEIGHT + 2) ** 2;
const BORDER_LEVEL = 0.44;
/** Cells about a region that its border may reach. */
const MARGIN = 2;

/** The border of a region's cells without their stairs, as an SVG path in cells. */
function borderOf(shape: RegionShape): string {
  let path = borders.get(shape);
  if (path !== undefined) return path;
  const part = around(shape);
  const { x, y, width, height } = part;
  const rings = contours().size([width, height]).contour(evened(shape, part), BORDER_LEVEL).coordinates.flat();
  path = rings
    .map((ring) => `M${ring.map(([u, v]) => `${(x + u).toFixed(2)} ${(y + v).toFixed(2)}`).join("L")}Z`)
    .join("");
  borders.set(shape, path);
  return path;
}

/** What holds a region's cells, with what evening spreads them to: its border is looked for nowhere else. */
function around(shape: RegionShape): Rect {
  const cells = regionCells(shape);
  let [left, right, top, bottom] = [shape.width, 0, shape.height, 0];
  for (let y = 0; y < shape.height; y++) {
    const row = cells.subarray(y * shape.width, (y + 1) * shape.width);
    const first = row.indexOf(1);
    if (first < 0) continue;
    left = Math.min(left, first);
    right = Math.max(right, row.lastIndexOf(1));
    top = Math.min(top, y);
    bottom = y;
  }
  const [x, y] = [Math.max(0, left - MARGIN), Math.max(0, top - MARGIN)];
  const width = Math.min(shape.width, right + 1 + MARGIN) - x;
  return { x, y, width, height: Math.min(shape.height, bottom + 1 + MARGIN) - y };
}

/** A part of a region's cells, each with its neighbours' share; what lies beyond the part is as its rim. */
function evened(shape: RegionShape, { x, y, width, height }: Rect): number[] {
  const cells = regionCells(shape);
  const out = new Array<number>(width * height);
  const across = (row: number, column: number) => {
    const at = (y + row) * shape.width + x;
    const [left, right] = [column > 0 ? column - 1 : 0, column + 1 < width ? column + 1 : column];
    return OWN_WEIGHT * cells[at + column] + cells[at + left] + cells[at + right];
  };
  for (let row = 0, i = 0; row < height; row++) {
    const [above, below] = [row > 0 ? row - 1 : 0, row + 1 < height ? row + 1 : row];
    for (let column = 0; column < width; column++, i++)
      out[i] = (OWN_WEIGHT * across(row, column) + across(above, column) + across(below, column)) / ALL_WEIGHTS;
  }
  return out;
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
