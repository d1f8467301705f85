import { SLOT_EDGE } from "../kernels/heap.ts";
import { maskGrid } from "../light/mask-grid.ts";
import { drawMask } from "../light/moves.ts";
import { hashOf } from "../render/stage-key.ts";
import type { Need, Stage } from "../render/stage.ts";

/** Areas weighed otherwise: each laid over those before it by its mask, light mixing with light. */
export const areasStage: Stage = {
  name: "areas",
  grid: "frame",
  planes: 1,
  costNs: 25,
  inputs: ["frame"],
  reads: ({ areas, frame }) => [
    frame.toFlat,
    areas.map(({ shape, invert, print }) => [shape, invert, print.grey.weights, print.lattice?.key, print.overShare]),
  ],
  isActive: ({ areas }) => areas.length > 0,
  needs: ({ areas }, level, rect) => {
    const base: Need = { stage: "frame", level, rect };
    return [base, ...areas.map(({ print }) => ({ ...base, print }))];
  },
  compute({ heap, print, read, keep }, level, rect, [out]) {
    const { kernels } = heap;
    const n = SLOT_EDGE * rect.height;
    const [base] = read({ stage: "frame", level, rect });
    kernels.copyRect(base.pointer, base.stride, out, SLOT_EDGE, rect.width, rect.height);
    const grid = maskGrid(print, level, rect);
    for (const { shape, invert, print: inside } of print.areas) {
      const key = hashOf(JSON.stringify([shape, print.frame.toFlat]));
      const mask = keep(`mask ${key}`, (to) => drawMask(heap, shape, grid, to));
      if (heap.floats(mask, n).every((share) => share === (invert ? 1 : 0))) continue;
      const [own] = read({ stage: "frame", level, rect, print: inside });
      kernels.mixByMask(out, own.pointer, own.stride, mask, SLOT_EDGE, rect.width, rect.height, invert ? 1 : 0);
    }
  },
};
