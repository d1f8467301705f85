import type { GraphPrint, Stage } from "../../graph/stage.ts";
import { levelSize } from "../../tiles/tiles.ts";
import { boxFilter, localLine } from "./coarse-line.ts";
import { wholeFrame } from "./overview.ts";

/** Cell of the grid, as a fraction of the negative's long edge: forms narrower than about this are texture. */
const CELL = 0.032;
/** Layer of the grid, stops: steps of less than about this are texture, how wide they may be. */
const LAYER_STOPS = 0.6;
/** Tones the grid covers, scene stops. */
const LOWEST_STOPS = -13;
const HIGHEST_STOPS = 7;
const LAYERS = Math.ceil((HIGHEST_STOPS - LOWEST_STOPS) / LAYER_STOPS) + 3;
/** Box windows of three pixels that smooth the guide. */
const GUIDE_PASSES = 3;
/** Distance from the smoothed light, stops, from which on a pixel lies beside an edge, and by which it surely does. */
const BESIDE_EDGE = [0.6, 1.2] as const;
/** The line that carries the base to finer pixels; its ridge, stops squared, keeps it from following noise. */
const FOLLOWING = { radius: 2, passes: 2, ridge: 0.03 ** 2 } as const;

/**
 * The base of light on which shadows are opened and highlights held: texture smoothed away whatever its contrast, large
 * steps kept where they are. A cross bilateral filter (Petschnigg et al., Eisemann and Durand 2004) by its grid (Chen, Paris,
 * Durand 2007), guided by the light smoothed over a few pixels, so that what is fine does not guide. It is made for the whole
 * frame on its overview and carried to finer pixels by local lines (He, Sun, Tang 2010): base = slope·L + offset in stops.
 */
export function toneBaseStage<P extends GraphPrint>(isActive: (print: P) => boolean): Stage<P> {
  return {
    name: "tone-base",
    grid: "frame",
    planes: 2,
    costNs: 90,
    after: "haze",
    reads: () => [CELL, LAYER_STOPS],
    isActive,
    needs: (print, level) => [{ stage: "haze", level, rect: wholeFrame(print, level) }],
    compute({ heap, print, read }, level, rect, [slope, offset]) {
      const { kernels } = heap;
      const { width, height } = rect;
      const n = width * height;
      const plane = () => heap.allocate(4 * (n + 4));
      const [source] = read({ stage: "haze", level, rect });
      const [stops, base] = [plane(), plane()];
      for (const to of [stops, base]) kernels.copyRect(source.pointer, source.stride, to, width, width, height);
      boxFilter(heap, width, height, 1)(base, 1, GUIDE_PASSES);
      kernels.guideByEdges(base, stops, (n + 3) & ~3, ...BESIDE_EDGE);
      const whole = levelSize(print.negative, level);
      const perPixel = 1 / (CELL * Math.max(whole.width, whole.height));
      const across = Math.ceil(width * perPixel) + 3;
      const down = Math.ceil(height * perPixel) + 3;
      // Two values a cell; one row of cells is left free at both ends, for blurring reads a step beyond.
      const row = 2 * across * LAYERS;
      const cells = (row * down + 3) & ~3;
      const [grid, other] = [0, 1].map(() => {
        const from = heap.allocate(4 * (cells + 2 * row));
        heap.floats(from, cells + 2 * row).fill(0);
        return from + 4 * row;
      });
      const places = [width, height, across, LAYERS, perPixel, LOWEST_STOPS, 1 / LAYER_STOPS] as const;
      const [w, h, ...cell] = places;
      kernels.splatGrid(stops, base, w, h, grid, ...cell);
      kernels.blurGrid(grid, other, cells, 8);
      kernels.blurGrid(other, grid, cells, 8 * LAYERS);
      kernels.blurGrid(grid, other, cells, 4 * row);
      kernels.sliceGrid(other, base, base, w, h, ...cell);

      localLine(heap, stops, base, width, height, FOLLOWING, [slope, offset]);
    },
  };
}
