import { Type, type Static } from "@sinclair/typebox";
import { applyAffine } from "../maths/affine.ts";
import { choice, group, stableId } from "../schema/fields.ts";
import { decodeRuns, encodeRuns } from "./runs.ts";
import { PLACE_RANGE, type Box, type ShapeKind } from "./shape.ts";

const place = Type.Number({ minimum: PLACE_RANGE.lowest, maximum: PLACE_RANGE.highest });

/** Longest edge of a region's mask, cells; finer than that it follows the picture's colours. */
export const REGION_EDGE = 560;

/** Cells and size of one that was not found in any picture, long edges. */
const FRESH_EDGE = 80;
const FRESH_RADIUS = 0.1;

export const REGION_SOURCES = ["strokes", "click", "outline", "sky", "subject", "even"] as const;

export const seedSchema = group(
  {
    id: stableId("Stays with the scribble."),
    inside: Type.Boolean({ default: true, description: "What it crosses lies inside; else outside." }),
    points: Type.Array(Type.Tuple([place, place]), {
      minItems: 1,
      maxItems: 400,
      description: "x, y in long edges from the negative's top left.",
    }),
  },
  "One scribble that says what lies inside or outside.",
);
export type RegionSeed = Static<typeof seedSchema>;

export const regionSchema = group(
  {
    kind: Type.Literal("region"),
    of: choice(REGION_SOURCES, "strokes", "What it was found from."),
    seeds: Type.Array(seedSchema, {
      maxItems: 60,
      noun: "scribbles in one region",
      default: [],
      description: "Scribbles in order, first to last; for an outline its line.",
    }),
    width: Type.Integer({ minimum: 1, maximum: REGION_EDGE, description: "Cells across the whole negative." }),
    height: Type.Integer({ minimum: 1, maximum: REGION_EDGE, description: "Cells down." }),
    runs: Type.String({
      maxLength: 60_000,
      pattern: "^[A-Za-z0-9_-]*$",
      description:
        "Lengths of runs of cells row by row, outside and inside by turns, beginning outside; each as digits of 5 bits, least first, A to _ for 0 to 63, 32 added to all but the last digit.",
    }),
  },
  "A region that was found in the picture: a compact mask, at its edges as sharp as the picture's colours.",
);
export type RegionShape = Static<typeof regionSchema>;

/** A region's cells: 1 inside, 0 outside. */
export interface RegionCells {
  readonly width: number;
  readonly height: number;
  readonly inside: Uint8Array;
}

const known = new WeakMap<RegionShape, Uint8Array>();

/** The cells of a region, width·height, 1 inside; kept as long as the shape. What runs do not say is outside. */
export function regionCells(shape: RegionShape): Uint8Array {
  let cells = known.get(shape);
  if (!cells) known.set(shape, (cells = decodeRuns(shape.runs, shape.width * shape.height)));
  return cells;
}

/** A region of found cells. */
export function regionOf(
  { width, height, inside }: RegionCells,
  of: RegionShape["of"],
  seeds: readonly RegionSeed[],
): RegionShape {
  return { kind: "region", of, seeds: [...seeds], width, height, runs: encodeRuns(inside) };
}

/** Cells in a long edge. */
const cellsOf = ({ width, height }: RegionShape) => Math.max(width, height);

/** The least box about the cells inside, in cells; null when there are none. */
function cellBox(shape: RegionShape): { x0: number; y0: number; x1: number; y1: number } | null {
  const cells = regionCells(shape);
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  cells.forEach((inside, i) => {
    if (!inside) return;
    const [x, y] = [i % shape.width, Math.floor(i / shape.width)];
    [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
  });
  return x1 < x0 ? null : { x0, y0, x1, y1 };
}

const NOTHING: Box = { left: Infinity, right: -Infinity, top: Infinity, bottom: -Infinity };
const boxes = new WeakMap<RegionShape, Box>();

export const region: ShapeKind<RegionShape> = {
  kind: "region",
  schema: regionSchema,
  fresh(x, y) {
    const inside = Uint8Array.from({ length: FRESH_EDGE ** 2 }, (_, i) => {
      const [column, row] = [i % FRESH_EDGE, Math.floor(i / FRESH_EDGE)];
      return Math.hypot((column + 0.5) / FRESH_EDGE - x, (row + 0.5) / FRESH_EDGE - y) < FRESH_RADIUS ? 1 : 0;
    });
    return regionOf({ width: FRESH_EDGE, height: FRESH_EDGE, inside }, "strokes", []);
  },
  /** Straight lines between the cells' middles: what the colours make of it at the edges is the stage's. */
  draw(heap, shape, { width, height, toFlat }, out, matte) {
    const guided = matte?.(shape);
    if (guided) {
      heap.kernels.copyRect(guided.pointer, guided.stride, out, width, width, height);
      return;
    }
    const mask = heap.floats(out, width * height);
    const cells = regionCells(shape);
    const { width: w, height: h } = shape;
    const k = cellsOf(shape);
    for (let y = 0, at = 0; y < height; y++) {
      const [rowX, rowY] = [toFlat.bx * y + toFlat.cx, toFlat.by * y + toFlat.cy];
      for (let x = 0; x < width; x++, at++) {
        const u = k * (toFlat.ax * x + rowX) - 0.5;
        const v = k * (toFlat.ay * x + rowY) - 0.5;
        const i = Math.floor(u);
        const j = Math.floor(v);
        const left = i < 0 ? 0 : i < w ? i : w - 1;
        const right = i < -1 ? 0 : i + 1 < w ? i + 1 : w - 1;
        const top = w * (j < 0 ? 0 : j < h ? j : h - 1);
        const bottom = w * (j < -1 ? 0 : j + 1 < h ? j + 1 : h - 1);
        const first = cells[top + left];
        // Most places lie among cells that are all inside or all outside.
        if (cells[top + right] === first && cells[bottom + left] === first && cells[bottom + right] === first) {
          mask[at] = first;
          continue;
        }
        const above = first + (cells[top + right] - first) * (u - i);
        const below = cells[bottom + left] + (cells[bottom + right] - cells[bottom + left]) * (u - i);
        mask[at] = above + (below - above) * (v - j);
      }
    }
  },
  /** Beyond the negative's edges it goes on as at the edge. */
  bounds(shape) {
    let box = boxes.get(shape);
    if (box) return box;
    const found = cellBox(shape);
    const k = cellsOf(shape);
    box = found
      ? {
          left: found.x0 === 0 ? -Infinity : (found.x0 - 1) / k,
          top: found.y0 === 0 ? -Infinity : (found.y0 - 1) / k,
          right: found.x1 === shape.width - 1 ? Infinity : (found.x1 + 2) / k,
          bottom: found.y1 === shape.height - 1 ? Infinity : (found.y1 + 2) / k,
        }
      : NOTHING;
    boxes.set(shape, box);
    return box;
  },
  fade: () => 0,
  /** Each new cell looks where it came from: the way back is found by a few steps of a fixed point. */
  carry(shape, carry) {
    const { width, height } = shape;
    const k = cellsOf(shape);
    const cells = regionCells(shape);
    const inside = new Uint8Array(width * height);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [to, down] = [(x + 0.5) / k, (y + 0.5) / k];
        let [fx, fy] = [to, down];
        for (let step = 0; step < 4; step++) {
          const [cx, cy] = carry(fx, fy);
          [fx, fy] = [fx + to - cx, fy + down - cy];
        }
        const i = Math.min(width - 1, Math.max(0, Math.floor(fx * k)));
        const j = Math.min(height - 1, Math.max(0, Math.floor(fy * k)));
        inside[y * width + x] = cells[j * width + i];
      }
    const seeds = shape.seeds.map((seed) => ({ ...seed, points: seed.points.map(([x, y]) => carry(x, y)) }));
    return regionOf({ width, height, inside }, shape.of, seeds);
  },
  words: ({ of }) => (of === "sky" || of === "subject" ? `found region: ${of}` : "found region"),
  isDrawn: (shape) => cellBox(shape) !== null,
};

/** How a region's cells lie within a rectangle of a mask's grid: all outside, all inside, or both. */
export function regionWithin(
  shape: RegionShape,
  { width, height, toFlat }: Parameters<typeof region.draw>[2],
  room: number,
): "outside" | "inside" | "both" {
  const k = cellsOf(shape);
  const corners = [[0, 0], [width, 0], [0, height], [width, height]].map(([x, y]) => applyAffine(toFlat, x, y)); // prettier-ignore
  const xs = corners.map(([x]) => k * x);
  const ys = corners.map(([, y]) => k * y);
  const bound = (v: number, most: number) => Math.min(most, Math.max(0, v));
  const x0 = bound(Math.floor(Math.min(...xs)) - room, shape.width - 1);
  const x1 = bound(Math.ceil(Math.max(...xs)) + room, shape.width - 1);
  const y0 = bound(Math.floor(Math.min(...ys)) - room, shape.height - 1);
  const y1 = bound(Math.ceil(Math.max(...ys)) + room, shape.height - 1);
  const cells = regionCells(shape);
  const first = cells[y0 * shape.width + x0];
  for (let y = y0; y <= y1; y++) for (let x = x0; x <= x1; x++) if (cells[y * shape.width + x] !== first) return "both";
  return first ? "inside" : "outside";
}

/** Whether a place of the flat picture, long edges, lies in a region. */
export function isInRegion(shape: RegionShape, x: number, y: number): boolean {
  const k = cellsOf(shape);
  const [i, j] = [Math.floor(k * x), Math.floor(k * y)];
  return i >= 0 && j >= 0 && i < shape.width && j < shape.height && regionCells(shape)[j * shape.width + i] === 1;
}
