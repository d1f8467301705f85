import { SLOT_EDGE } from "../kernels/heap.ts";
import type { Stage } from "../render/stage.ts";
import { tileSize } from "../render/tiles.ts";

/** Colour into grey: scene light E = red·R + green·G + blue·B, exposure in the weights. */
export const weighStage: Stage = {
  name: "weigh",
  grid: "negative",
  planes: 1,
  costNs: 4,
  inputs: [],
  reads: ({ weights }) => weights,
  isActive: () => true,
  needs: () => [],
  compute({ heap, print, negativeTile }, level, rect, [out]) {
    const place = { level, column: rect.x / SLOT_EDGE, row: rect.y / SLOT_EDGE };
    const { width, height } = tileSize(print.negative, place);
    const halves = heap.place(negativeTile(place));
    const plane = 2 * width * height;
    heap.kernels.weighHalf(halves, halves + plane, halves + 2 * plane, width, height, out, SLOT_EDGE, ...print.weights);
  },
};
