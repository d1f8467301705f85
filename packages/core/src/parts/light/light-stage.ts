import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { Stage } from "../../graph/stage.ts";
import { maskGrid, touches } from "../../shapes/prepared.ts";
import { drawMask } from "../../shapes/shapes.ts";
import type { LightPrint } from "./print.ts";

/** Light moves and burned edges: the stops by which each place is lifted or burned. */
export const lightStage: Stage<LightPrint> = {
  name: "light",
  grid: "frame",
  planes: 1,
  costNs: 20,
  after: null,
  reads: (print, level, rect) => {
    const { frame, moves, recipe } = print;
    const { edgeBurn } = recipe.finish;
    return [
      frame.toFlat,
      // A move elsewhere adds nothing here, unless it acts outside its shape.
      moves
        .filter((move) => move.invert || touches(print, move, level, rect))
        .map(({ key, gain, invert }) => [key, gain, invert]),
      edgeBurn.stops !== 0 && [edgeBurn, frame.width, frame.height],
    ];
  },
  isActive: ({ moves, recipe }) => moves.length > 0 || recipe.finish.edgeBurn.stops !== 0,
  needs: () => [],
  compute({ heap, print, withKept }, level, rect, [out]) {
    const n = SLOT_EDGE * rect.height;
    heap.floats(out, n).fill(0);
    const grid = maskGrid(print, level, rect);
    const map = JSON.stringify(print.frame.toFlat);
    for (const move of print.moves) {
      const { shape, gain, invert, key } = move;
      if (!touches(print, move, level, rect)) {
        if (invert) heap.kernels.addConstant(out, n, gain);
        continue;
      }
      // A move's shape is kept apart from its stops, so that changing the stops draws nothing again.
      withKept(
        `mask ${key} ${map}`,
        (to) => drawMask(heap, shape, grid, to),
        (mask) => heap.kernels.addScaled(out, mask, n, gain, invert ? 1 : 0),
      );
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
