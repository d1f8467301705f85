import { SLOT_EDGE } from "../kernels/heap.ts";
import type { Stage } from "../render/stage.ts";
import { hashOf } from "../render/stage-key.ts";
import { maskGrid } from "./mask-grid.ts";
import { drawMask, moveGain } from "./moves.ts";

/** Light moves and burned edges: the stops by which each place is lifted or burned. */
export const lightStage: Stage = {
  name: "light",
  grid: "frame",
  planes: 1,
  costNs: 20,
  inputs: [],
  reads: ({ recipe, frame }) => [
    recipe.light.moves.filter((move) => moveGain(move) !== 0),
    recipe.finish.edgeBurn,
    [frame.width, frame.height, frame.toFlat],
  ],
  isActive: ({ recipe }) =>
    recipe.finish.edgeBurn.stops !== 0 || recipe.light.moves.some((move) => moveGain(move) !== 0),
  needs: () => [],
  compute({ heap, print, keep }, level, rect, [out]) {
    const n = SLOT_EDGE * rect.height;
    heap.floats(out, n).fill(0);
    const grid = maskGrid(print, level, rect);
    for (const move of print.recipe.light.moves) {
      const gain = moveGain(move);
      if (gain === 0) continue;
      // A move's shape is kept apart from its stops, so that changing the stops draws nothing again.
      const key = hashOf(JSON.stringify([move.shape, print.frame.toFlat]));
      const mask = keep(`mask ${key}`, (to) => drawMask(heap, move.shape, grid, to));
      heap.kernels.addScaled(out, mask, n, gain, move.invert ? 1 : 0);
    }
    const { stops, start, roundness } = print.recipe.finish.edgeBurn;
    if (stops === 0) return;
    const stepX = 2 ** (level + 1) / print.frame.width;
    const stepY = 2 ** (level + 1) / print.frame.height;
    heap.kernels.addEdgeBurn(
      out, SLOT_EDGE, rect.height, (rect.x + 0.5) * stepX - 1, (rect.y + 0.5) * stepY - 1, stepX, stepY,
      start, roundness, stops,
    ); // prettier-ignore
  },
};
