import { gaussianTaps } from "../../maths/gaussian.ts";
import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { GraphPrint } from "../../graph/stage.ts";
import type { Shape } from "./schema.ts";
import type { Need, Stage } from "../../graph/stage.ts";
import { levelCount } from "../../tiles/tiles.ts";
import type { Rect } from "../../maths/rect.ts";

type LocalPrint = GraphPrint & { readonly recipe: { readonly shape: Pick<Shape, "localContrast"> } };

/** Standard deviation of the window over which "local" is meant, as a fraction of the negative's long edge. */
const WINDOW = 0.008;
/** Steps smaller than about this (stops) are detail, larger ones are edges of the base. */
const EDGE_STOPS = 0.4;
/** The base is computed on the level where the window is at most this wide, pixels. */
const WIDEST_PX = 5;

/**
 * The edge-keeping base of the light, as the self-guided filter's local line with a Gaussian window (He, Sun, Tang 2010;
 * on a coarser level, as in He and Sun 2015): base = slope·L + offset in stops.
 */
export const baseStage: Stage<LocalPrint> = {
  name: "base",
  grid: "frame",
  planes: 2,
  costNs: 40,
  after: "stops",
  reads: () => [WINDOW, EDGE_STOPS],
  isActive: (print) => localStage.isActive(print),
  needs: (print, level, rect) => [surroundings(print, level, rect)],
  compute({ heap, print, read }, level, rect, [slope, offset]) {
    const { kernels } = heap;
    const need = surroundings(print, level, rect);
    const taps = gaussianTaps(windowPx(print, level));
    const reach = (taps.length - 1) / 2;
    const weights = heap.place(taps);
    // Two windows follow each other, so the first result is needed one reach beyond the tile; borders are repeated.
    const [source] = read(need);
    const padded = { width: rect.width + 4 * reach + 4, height: rect.height + 4 * reach };
    const width = (padded.width + 3) & ~3;
    const size = width * padded.height;
    const [stops, squares, rows] = [heap.allocate(4 * size), heap.allocate(4 * size), heap.allocate(4 * size)];
    kernels.padWithSquares(
      source.pointer, source.stride, source.width, source.height,
      rect.x - 2 * reach - source.x, rect.y - 2 * reach - source.y, stops, squares, width, padded.height,
    ); // prettier-ignore
    const filter = (plane: number, fromWidth: number, outWidth: number, outHeight: number, out: number) => {
      kernels.convolveRows(plane, fromWidth, rows, outWidth, outHeight + 2 * reach, weights, taps.length);
      kernels.convolveColumns(rows, out, outWidth, outHeight, weights, taps.length);
    };
    const middle = (rect.width + 2 * reach + 3) & ~3;
    const middleHeight = rect.height + 2 * reach;
    for (const plane of [stops, squares]) filter(plane, width, middle, middleHeight, plane);
    kernels.guidedLine(stops, squares, middle * middleHeight, EDGE_STOPS ** 2);
    const inner = (rect.width + 3) & ~3;
    [stops, squares].forEach((plane, i) => {
      filter(plane, middle, inner, rect.height, plane);
      kernels.copyRect(plane, inner, [slope, offset][i], SLOT_EDGE, rect.width, rect.height);
    });
  },
};

/** Local contrast: detail about the base is strengthened or softened, by the tone of the base. No halos at its edges. */
export const localStage: Stage<LocalPrint> = {
  name: "local",
  grid: "frame",
  planes: 1,
  costNs: 6,
  after: "stops",
  reads: ({ recipe }) => recipe.shape.localContrast,
  isActive: ({ recipe }) => Object.values(recipe.shape.localContrast).some((gain) => gain !== 0),
  needs: (print, level, rect) => [{ stage: "stops", level, rect }, coarse(print, level, rect)],
  compute({ heap, print, read }, level, rect, [out]) {
    const [stops] = read({ stage: "stops", level, rect });
    const need = coarse(print, level, rect);
    const [slope, offset] = read(need);
    const ratio = 2 ** (level - need.level);
    const { low, mid, high } = print.recipe.shape.localContrast;
    heap.kernels.localContrast(
      stops.pointer, stops.stride, out, SLOT_EDGE, rect.width, rect.height,
      slope.pointer, offset.pointer, slope.stride, slope.width, slope.height,
      heap.allocate(20 * ((rect.width + 3) & ~3)),
      (rect.x + 0.5) * ratio - 0.5 - slope.x, (rect.y + 0.5) * ratio - 0.5 - slope.y, ratio,
      low, mid, high,
    ); // prettier-ignore
  },
};

function windowPx({ negative }: LocalPrint, level: number): number {
  return (WINDOW * Math.max(negative.width, negative.height)) / 2 ** level;
}

/** The light that one tile of the base reads. */
function surroundings(print: LocalPrint, level: number, { x, y, width, height }: Rect): Need<LocalPrint> {
  const margin = gaussianTaps(windowPx(print, level)).length - 1;
  const rect = { x: x - margin, y: y - margin, width: width + 2 * margin, height: height + 2 * margin };
  return { stage: "stops", level, rect: shifted(rect) };
}

/** The part of the base, on its own level, that a rectangle reads. */
function coarse(print: LocalPrint, level: number, { x, y, width, height }: Rect): Need<LocalPrint> {
  let at = level;
  while (windowPx(print, at) > WIDEST_PX && at < levelCount(print.negative) - 1) at++;
  const ratio = 2 ** (level - at);
  const left = Math.floor(x * ratio) - 1;
  const top = Math.floor(y * ratio) - 1;
  const rect = {
    x: left,
    y: top,
    width: Math.ceil((x + width) * ratio) + 1 - left,
    height: Math.ceil((y + height) * ratio) + 1 - top,
  };
  return { stage: "base", level: at, rect: shifted(rect) };
}

/** Cuts what lies left of or above the picture. */
function shifted({ x, y, width, height }: Rect): Rect {
  const left = Math.max(0, x);
  const top = Math.max(0, y);
  return { x: left, y: top, width: width + x - left, height: height + y - top };
}
