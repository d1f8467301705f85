import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { Need, Stage } from "../../graph/stage.ts";
import type { Rect } from "../../maths/rect.ts";
import { addCoarse, reaches, withMask } from "../../shapes/kept-mask.ts";
import { regionNeeds } from "../../shapes/matte.ts";
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
    return [
      base,
      ...areasIn(print, level, rect).flatMap((area) => [
        { ...base, print: area.print },
        ...regionNeeds(print, area.shape, level, rect),
      ]),
    ];
  },
  compute(context, level, rect, [out]) {
    const { heap, print, read } = context;
    const { kernels } = heap;
    const [base] = read({ stage: "frame", level, rect });
    kernels.copyRect(base.pointer, base.stride, out, SLOT_EDGE, rect.width, rect.height);
    for (const area of areasIn(print, level, rect))
      withMask(context, area, level, rect, (kept) => {
        const [own] = read({ stage: "frame", level, rect, print: area.print });
        let mask = kept.pointer;
        if (kept.halvings > 0) {
          mask = heap.allocate(4 * SLOT_EDGE * rect.height);
          heap.floats(mask, SLOT_EDGE * rect.height).fill(0);
          addCoarse(heap, mask, rect, kept);
        }
        const inverted = area.invert ? 1 : 0;
        kernels.mixByMask(out, own.pointer, own.stride, mask, SLOT_EDGE, rect.width, rect.height, inverted);
      });
  },
};

/** The areas that claim anything of a rectangle. */
function areasIn(print: WeighPrint, level: number, rect: Rect): PreparedArea[] {
  return print.areas.filter((area) => area.invert || reaches(print, area, level, rect));
}
