import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { GraphPrint, Stage } from "../../graph/stage.ts";

/** Light as scene stops: from here on everything is sums of stops. */
export const stopsStage: Stage<GraphPrint> = {
  name: "stops",
  grid: "frame",
  planes: 1,
  costNs: 3,
  after: "areas",
  reads: () => null,
  isActive: () => true,
  needs: (_print, level, rect) => [{ stage: "areas", level, rect }],
  compute({ heap, read }, level, rect, [out]) {
    const [light] = read({ stage: "areas", level, rect });
    heap.kernels.stopsOfLight(light.pointer, light.stride, out, SLOT_EDGE, rect.width, rect.height);
  },
};
