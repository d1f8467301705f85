import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { Need, Stage } from "../../graph/stage.ts";
import type { Rect } from "../../maths/rect.ts";
import { maskGrid, touches } from "../../shapes/prepared.ts";
import { drawMask } from "../../shapes/shapes.ts";
import type { PreparedArea, WeighPrint } from "./print.ts";

/** Areas weighed otherwise: each laid over those before it by its mask, light mixing with light. */
export const areasStage: Stage<WeighPrint> = {
  name: "areas",
  grid: "frame",
  planes: 1,
  costNs: 25,
  after: "frame",
  reads: (print, level, rect) => [
    print.frame.toFlat,
    areasIn(print, level, rect).map(({ key, invert }) => [key, invert]),
  ],
  isActive: ({ areas }) => areas.length > 0,
  needs: (print, level, rect) => {
    const base: Need<WeighPrint> = { stage: "frame", level, rect };
    return [base, ...areasIn(print, level, rect).map((area) => ({ ...base, print: area.print }))];
  },
  compute({ heap, print, read, withKept }, level, rect, [out]) {
    const { kernels } = heap;
    const [base] = read({ stage: "frame", level, rect });
    kernels.copyRect(base.pointer, base.stride, out, SLOT_EDGE, rect.width, rect.height);
    const grid = maskGrid(print, level, rect);
    const map = JSON.stringify(print.frame.toFlat);
    for (const { shape, key, invert, print: inside } of areasIn(print, level, rect)) {
      withKept(
        `mask ${key} ${map}`,
        (to) => drawMask(heap, shape, grid, to),
        (mask) => {
          const [own] = read({ stage: "frame", level, rect, print: inside });
          kernels.mixByMask(out, own.pointer, own.stride, mask, SLOT_EDGE, rect.width, rect.height, invert ? 1 : 0);
        },
      );
    }
  },
};

/** The areas that claim anything of a rectangle. */
function areasIn(print: WeighPrint, level: number, rect: Rect): PreparedArea[] {
  return print.areas.filter((area) => area.invert || touches(print, area, level, rect));
}
