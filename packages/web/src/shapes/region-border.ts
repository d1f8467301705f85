import type { Rect } from "@yelm/core";
import { contours } from "d3-contour";

/** Cells of a picture, width·height, 1 inside a region. */
export interface BorderedCells {
  readonly width: number;
  readonly height: number;
  readonly cells: Uint8Array;
}

/** A cell counts this many times each of its neighbours when stairs are evened; what is one cell wide still shows then. */
const OWN_WEIGHT = 4;
const ALL_WEIGHTS = (OWN_WEIGHT + 2) ** 2;
const BORDER_LEVEL = 0.44;
/** Cells about a region that its border may reach. */
const MARGIN = 2;

/** The border of a region's cells without their stairs, as an SVG path in cells; empty where there are none. */
export function regionBorder(region: BorderedCells): string {
  const part = around(region);
  const { x, y, width, height } = part;
  if (width <= 0 || height <= 0) return "";
  const rings = contours().size([width, height]).contour(evened(region, part), BORDER_LEVEL).coordinates.flat();
  return rings
    .map((ring) => `M${ring.map(([u, v]) => `${(x + u).toFixed(2)} ${(y + v).toFixed(2)}`).join("L")}Z`)
    .join("");
}

/** What holds a region's cells, with what evening spreads them to: its border is looked for nowhere else. */
function around({ width: across, height: down, cells }: BorderedCells): Rect {
  let [left, right, top, bottom] = [across, -1, down, -1];
  for (let y = 0; y < down; y++) {
    const row = cells.subarray(y * across, (y + 1) * across);
    const first = row.indexOf(1);
    if (first < 0) continue;
    left = Math.min(left, first);
    right = Math.max(right, row.lastIndexOf(1));
    top = Math.min(top, y);
    bottom = y;
  }
  const [x, y] = [Math.max(0, left - MARGIN), Math.max(0, top - MARGIN)];
  const width = Math.min(across, right + 1 + MARGIN) - x;
  return { x, y, width, height: Math.min(down, bottom + 1 + MARGIN) - y };
}

/** A part of a region's cells, each with its neighbours' share; what lies beyond the part is as its rim. */
function evened(region: BorderedCells, { x, y, width, height }: Rect): number[] {
  const out = new Array<number>(width * height);
  const across = (row: number, column: number) => {
    const at = (y + row) * region.width + x;
    const [left, right] = [column > 0 ? column - 1 : 0, column + 1 < width ? column + 1 : column];
    return OWN_WEIGHT * region.cells[at + column] + region.cells[at + left] + region.cells[at + right];
  };
  for (let row = 0, i = 0; row < height; row++) {
    const [above, below] = [row > 0 ? row - 1 : 0, row + 1 < height ? row + 1 : row];
    for (let column = 0; column < width; column++, i++)
      out[i] = (OWN_WEIGHT * across(row, column) + across(above, column) + across(below, column)) / ALL_WEIGHTS;
  }
  return out;
}
