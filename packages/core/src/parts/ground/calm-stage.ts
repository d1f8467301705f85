import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { Stage } from "../../graph/stage.ts";
import type { NoisyPrint } from "./print.ts";
import { grown } from "../../maths/rect.ts";

/** Radius of the windows at full size, pixels. */
const RADIUS = 3;

/**
 * Calms the noise of the light itself: in windows that hold nothing but noise it is drawn to their mean, in others left.
 * Coarse levels have averaged it away already, so the windows shrink with them until nothing is left to do.
 */
export const calmStage: Stage<NoisyPrint> = {
  name: "calm",
  grid: "negative",
  planes: 1,
  costNs: 24,
  after: "clean",
  reads: ({ recipe, lightNoise }) => [recipe.ground.calm, lightNoise],
  isActive: ({ recipe, lightNoise }, level) => recipe.ground.calm > 0 && lightNoise !== null && radiusAt(level) > 0,
  needs: (_print, level, rect) => [{ stage: "clean", level, rect: grown(rect, 2 * radiusAt(level)) }],
  compute({ heap, print, read }, level, rect, [out]) {
    const { kernels } = heap;
    const radius = radiusAt(level);
    const [source] = read({ stage: "clean", level, rect: grown(rect, 2 * radius) });
    const from = source.pointer + 4 * ((rect.y - source.y) * source.stride + rect.x - source.x);
    const { width, height } = source;
    const n = (width * height + 3) & ~3;
    const mean = heap.allocate(4 * n);
    const square = heap.allocate(4 * n);
    const rows = heap.allocate(4 * 4 * (width + 2 * radius + 12));
    const ring = heap.allocate(4 * (width + 4) * (2 * radius + 2));
    kernels.copyRect(source.pointer, source.stride, mean, width, width, height);
    kernels.multiplyPlanes(mean, mean, square, n);
    const smooth = (plane: number) => kernels.boxMean(plane, width, height, radius, rows, ring);
    smooth(mean);
    smooth(square);
    const { slope, offset } = print.lightNoise!;
    const share = 4 ** -level;
    kernels.calmLines(mean, square, n, slope * share, offset * share, print.recipe.ground.calm);
    smooth(mean);
    smooth(square);
    const corner = 4 * ((rect.y - source.y) * width + rect.x - source.x);
    kernels.applyLines(
      from, source.stride, mean + corner, square + corner, width, out, SLOT_EDGE, rect.width, rect.height,
    ); // prettier-ignore
  },
};

function radiusAt(level: number): number {
  return Math.floor(RADIUS / 2 ** level);
}
