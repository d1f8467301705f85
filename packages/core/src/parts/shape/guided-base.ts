import type { GraphPrint, Need, Stage } from "../../graph/stage.ts";
import { SLOT_EDGE } from "../../kernels/heap.ts";
import { gaussianTaps } from "../../maths/gaussian.ts";
import { fromZero, grown, type Rect } from "../../maths/rect.ts";
import { levelCount } from "../../tiles/tiles.ts";

/** Steps smaller than about this (stops) are detail, larger ones are edges of the base. */
const EDGE_STOPS = 0.4;

/** An edge-keeping base of one scale: its stage, and what a rectangle of another level reads of it. */
export interface GuidedBase<P extends GraphPrint> {
  readonly stage: Stage<P>;
  need(print: P, level: number, rect: Rect): Need<P>;
}

/**
 * The edge-keeping base of the light, as the self-guided filter's local line with a Gaussian window (He, Sun, Tang 2010;
 * on a coarser level, as in He and Sun 2015): base = slope·L + offset in stops.
 * @param of - the stage whose light it is the base of.
 * @param window - its standard deviation, as a fraction of the negative's long edge.
 * @param widestPx - the base is computed on the level where the window is at most this wide, pixels.
 */
export function guidedBase<P extends GraphPrint>(
  name: string,
  of: string,
  window: number,
  widestPx: number,
  isActive: (print: P) => boolean,
): GuidedBase<P> {
  const windowPx = ({ negative }: P, level: number) =>
    (window * Math.max(negative.width, negative.height)) / 2 ** level;
  /** The light that one tile of the base reads. */
  const surroundings = (print: P, level: number, rect: Rect): Need<P> => ({
    stage: of,
    level,
    rect: grown(rect, gaussianTaps(windowPx(print, level)).length - 1),
  });
  const stage: Stage<P> = {
    name,
    grid: "frame",
    planes: 2,
    costNs: 40,
    after: of,
    reads: () => [window, EDGE_STOPS],
    isActive,
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
      kernels.padPlane(
        source.pointer, source.stride, source.width, source.height,
        rect.x - 2 * reach - source.x, rect.y - 2 * reach - source.y, stops, width, padded.height,
      ); // prettier-ignore
      kernels.multiplyPlanes(stops, stops, squares, size);
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
  return {
    stage,
    need: (print, level, rect) => {
      // A view between two levels reads the same as those next to it.
      let at = Math.ceil(level);
      while (windowPx(print, at) > widestPx && at < levelCount(print.negative) - 1) at++;
      return { stage: name, level: at, rect: aroundOnLevel(rect, level, at) };
    },
  };
}

/** The pixels of level `at` between which those of a rectangle of a finer `level` lie. */
export function aroundOnLevel({ x, y, width, height }: Rect, level: number, at: number): Rect {
  const ratio = 2 ** (level - at);
  const left = Math.floor(x * ratio) - 1;
  const top = Math.floor(y * ratio) - 1;
  return fromZero({
    x: left,
    y: top,
    width: Math.ceil((x + width) * ratio) + 1 - left,
    height: Math.ceil((y + height) * ratio) + 1 - top,
  });
}
