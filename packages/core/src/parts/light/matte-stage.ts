import type { Need, Stage } from "../../graph/stage.ts";
import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import { grown, intersect, type Rect } from "../../maths/rect.ts";
import { drawMask } from "../../shapes/shapes.ts";
import { maskGrid, prepareShape, type FramedPrint, type MatteOrder } from "../../shapes/prepared.ts";
import { regionWithin, type RegionShape } from "../../shapes/region.ts";
import { levelCount, levelSize } from "../../tiles/tiles.ts";
import { BAND_BYTES, bands, boxFilter, drawCoarse } from "../shape/coarse-line.ts";
import { aroundOnLevel } from "../shape/guided-base.ts";
import { onOverview, wholeFrame } from "../shape/overview.ts";
import { channelOf } from "../weigh/channel-print.ts";
import type { WeighPrint } from "../weigh/print.ts";

/** Half window in which a region's edge is a line of the colours, long edges; smoothed twice. */
const EDGE_WINDOW = 0.006;
/** Colours that vary by less than this share of their mean are one and the same. */
const EVEN = 0.02;
/** What the line leaves between these is an edge; less is outside, more inside. */
const OUTSIDE = 0.12;
const INSIDE = 0.88;
/** Half window in which the colours within a shape are gathered, as a share of its fade, and within which bounds, long edges. */
const LIKE_SHARE = 0.6;
const LIKE_WINDOW = { least: 0.02, most: 0.15 } as const;
/** Colours within a shape are known no better than this, stops; and how many of their own spreads still belong. */
const KNOWN_STOPS = 0.18;
const SPREADS = 2.2;
/** The power of a mask with which its places count: its middle says what it is of. */
const CORE_POWER = 6;
/** Cells about a tile in which the edge may be that the tile shows. */
const ROOM = 0.025;

type MattePrint = WeighPrint & FramedPrint;

/** A tile on which a region lies all inside or all outside needs no colours. */
function evenly(print: MattePrint, { shape, of }: MatteOrder, level: number, rect: Rect): 0 | 1 | null {
  if (of !== "edge") return null;
  const cells = shape as RegionShape;
  const room = Math.ceil(ROOM * Math.max(cells.width, cells.height));
  const how = regionWithin(cells, { ...maskGrid(print, level, rect), width: rect.width }, room);
  return how === "both" ? null : how === "inside" ? 1 : 0;
}

const isActive = ({ matte }: MattePrint) => matte !== undefined;

/**
 * A region's edge is a line of the colours on the finest level whose long edge has at most so many pixels: about as fine as a region's
 * cells, and few enough tiles that the lines of a dozen regions are kept.
 */
const EDGE_LEVEL = 800;

function edgeLevel({ negative }: MattePrint): number {
  let level = 0;
  while (Math.max(negative.width, negative.height) / 2 ** level > EDGE_LEVEL && level < levelCount(negative) - 1)
    level++;
  return level;
}

function radiusOn({ negative }: MattePrint, level: number, share: number): number {
  const { width, height } = levelSize(negative, level);
  return Math.max(2, Math.round(share * Math.max(width, height)));
}

/** What a line is made from: of a region's edge two windows around, of likeness the whole frame. */
function lineSource(print: MattePrint, level: number, rect: Rect): Rect {
  if (print.matte!.of === "likeness") return wholeFrame(print, level);
  return intersect(grown(rect, 2 * radiusOn(print, level, EDGE_WINDOW)), wholeFrame(print, level));
}

/** The part of the line that a rectangle of the plane reads. */
function lineNeed(print: MattePrint, level: number, rect: Rect): Need<MattePrint> {
  if (print.matte!.of === "likeness") return onOverview("matte-line", print, level, rect);
  const at = edgeLevel(print);
  return { stage: "matte-line", level: at, rect: aroundOnLevel(rect, level, at) };
}

/** The three colours over a rectangle, as needs. */
const coloursOver = (print: MattePrint, level: number, rect: Rect) =>
  [0, 1, 2].map((c) => ({ stage: "frame", level, rect, print: channelOf(print, c) }));

/**
 * What a shape and the picture's colours say of each place. For a region's edge: the
 * local line of the colours nearest to its cells, inside = r·R + g·G + b·B + o (He, Sun, Tang 2010). For likeness: the mean
 * colour within the shape (log2 of R, G, B), counted by how much of the shape lies there, and how closely it is to be met; made for the
 * whole frame on its overview.
 */
const matteLineStage: Stage<MattePrint> = {
  name: "matte-line",
  grid: "frame",
  planes: 4,
  costNs: 120,
  after: null,
  reads: ({ matte, frame }) => [matte!.key, matte!.of, frame.toFlat],
  isActive,
  needs: (print, level, rect) => coloursOver(print, level, lineSource(print, level, rect)),
  compute(context, level, rect, out) {
    const { heap, print, read } = context;
    const source = lineSource(print, level, rect);
    const { width, height } = source;
    const n = (width * height + 3) & ~3;
    const plane = () => heap.allocate(4 * n + 16);
    const colours = coloursOver(print, level, source).map((need) => {
      const [block] = read(need);
      const to = plane();
      heap.kernels.copyRect(block.pointer, block.stride, to, width, width, height);
      return to;
    });
    const mask = drawnMask(heap, print, level, source);
    const line = print.matte!.of === "edge" ? edgeLine : likeness;
    const planes = line(heap, colours, mask, source, lineRadius(print, level));
    const first = 4 * ((rect.y - source.y) * width + rect.x - source.x);
    planes.forEach((from, i) => heap.kernels.copyRect(from + first, width, out[i], SLOT_EDGE, rect.width, rect.height));
  },
};

/** Half window of a line, pixels of a level. */
function lineRadius(print: MattePrint, level: number): number {
  if (print.matte!.of === "edge") return radiusOn(print, level, EDGE_WINDOW);
  const { fade } = prepareShape(print.matte!.shape, false);
  return radiusOn(print, level, Math.min(LIKE_WINDOW.most, Math.max(LIKE_WINDOW.least, LIKE_SHARE * fade)));
}

/** The plane itself at any level. */
const matteStage: Stage<MattePrint> = {
  name: "matte",
  grid: "frame",
  planes: 1,
  costNs: 14,
  after: null,
  reads: (print, level, rect) => [print.matte!.of, evenly(print, print.matte!, level, rect)],
  isActive,
  needs: (print, level, rect) =>
    evenly(print, print.matte!, level, rect) === null
      ? [...coloursOver(print, level, rect), lineNeed(print, level, rect)]
      : [],
  compute(context, level, rect, [out]) {
    const { heap, print, read } = context;
    const { kernels } = heap;
    const even = evenly(print, print.matte!, level, rect);
    if (even !== null) {
      heap.floats(out, SLOT_EDGE * rect.height).fill(even);
      return;
    }
    const [red, green, blue] = coloursOver(print, level, rect).map((need) => read(need)[0]);
    const need = lineNeed(print, level, rect);
    const line = read(need);
    const planes = line.map(() => heap.allocate(BAND_BYTES));
    for (const band of bands(rect)) {
      line.forEach((coarse, i) => drawCoarse(heap, coarse, need.level, level, band, planes[i]));
      const row = band.y - rect.y;
      const at = 4 * row * red.stride;
      const [r, g, b, o] = planes;
      const to = out + 4 * row * SLOT_EDGE;
      const colours = [red.pointer + at, green.pointer + at, blue.pointer + at, red.stride] as const;
      if (print.matte!.of === "edge")
        kernels.matteOfColours(
          ...colours, r, g, b, o, SLOT_EDGE, to, SLOT_EDGE, band.width, band.height, OUTSIDE, 1 / (INSIDE - OUTSIDE),
        ); // prettier-ignore
      else kernels.likenessOfColours(...colours, r, g, b, o, SLOT_EDGE, to, SLOT_EDGE, band.width, band.height);
    }
  },
};

/** The shape over a rectangle, without gaps. */
function drawnMask(heap: KernelHeap, print: MattePrint, level: number, rect: Rect): number {
  const stride = (rect.width + 3) & ~3;
  const drawn = heap.allocate(4 * stride * rect.height);
  drawMask(heap, print.matte!.shape, { ...maskGrid(print, level, rect), width: stride }, drawn);
  const mask = heap.allocate(4 * rect.width * rect.height + 32);
  heap.kernels.copyRect(drawn, stride, mask, rect.width, rect.width, rect.height);
  return mask;
}

type Size = Pick<Rect, "width" | "height">;

/** Least squares of the mask by the colours in each window, 3 × 3 unknowns and a mean. */
function edgeLine(
  heap: KernelHeap,
  colours: readonly number[],
  mask: number,
  { width, height }: Size,
  radius: number,
): readonly number[] {
  const { kernels } = heap;
  const n = (width * height + 3) & ~3;
  const smooth = boxFilter(heap, width, height, radius);
  const product = (a: number, b: number) => {
    const to = heap.allocate(4 * n + 16);
    kernels.multiplyPlanes(a, b, to, n);
    smooth(to, radius, 1);
    return to;
  };
  const [r, g, b] = colours;
  const squares = [product(r, r), product(r, g), product(r, b), product(g, g), product(g, b), product(b, b)];
  const withMask = colours.map((colour) => product(colour, mask));
  for (const plane of [...colours, mask]) smooth(plane, radius, 1);
  const [rr, rg, rb, gg, gb, bb] = squares;
  const [rm, gm, bm] = withMask;
  kernels.lineOfColours(rr, rg, rb, gg, gb, bb, r, g, b, rm, gm, bm, mask, n, EVEN);
  const line = [rm, gm, bm, mask];
  for (const plane of line) smooth(plane, radius, 1);
  return line;
}

/** Mean colour within the shape about each place, and how closely it is to be met. */
function likeness(
  heap: KernelHeap,
  colours: readonly number[],
  mask: number,
  { width, height }: Size,
  radius: number,
): readonly number[] {
  const { kernels } = heap;
  const n = (width * height + 3) & ~3;
  const smooth = boxFilter(heap, width, height, radius);
  const weights = heap.floats(mask, n);
  weights.forEach((v, i) => (weights[i] = v ** CORE_POWER + 1e-6));
  const squares = heap.allocate(4 * n + 16);
  const own = heap.allocate(4 * n + 16);
  heap.floats(squares, n).fill(0);
  for (const colour of colours) {
    kernels.logOfColour(colour, n);
    kernels.multiplyPlanes(colour, colour, own, n);
    kernels.addPlane(squares, own, n);
  }
  for (const plane of [...colours, squares]) kernels.multiplyPlanes(plane, mask, plane, n);
  for (const plane of [...colours, squares, mask]) smooth(plane, radius, 2);
  const [r, g, b, s, w] = [...colours, squares, mask].map((plane) => heap.floats(plane, n));
  for (let i = 0; i < width * height; i++) {
    const weight = Math.max(1e-9, w[i]);
    [r[i], g[i], b[i]] = [r[i] / weight, g[i] / weight, b[i] / weight];
    const spread = Math.max(0, s[i] / weight - r[i] * r[i] - g[i] * g[i] - b[i] * b[i]);
    s[i] = 1 / (SPREADS ** 2 * (spread + KNOWN_STOPS ** 2));
  }
  return [...colours, squares];
}

export const MATTE_STAGES = [matteLineStage, matteStage];
