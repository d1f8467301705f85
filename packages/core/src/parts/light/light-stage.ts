import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { Stage } from "../../graph/stage.ts";
import { addCoarse, halvingsFor, reaches, withSum, type GainedShape } from "../../shapes/kept-mask.ts";
import type { LightPrint } from "./print.ts";

/** A burned edge has ridges along the diagonals, so its fade counts as so much shorter. */
const RIDGED = 0.5;

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
        .filter((move) => move.invert || reaches(print, move, level, rect))
        .map(({ key, gain, invert }) => [key, gain, invert]),
      edgeBurn.stops !== 0 && [edgeBurn, frame.width, frame.height],
    ];
  },
  isActive: ({ moves, recipe }) => moves.length > 0 || recipe.finish.edgeBurn.stops !== 0,
  needs: () => [],
  compute(context, level, rect, [out]) {
    const { heap, print } = context;
    const { moves, frame, recipe, negative } = print;
    // gain · (1 − mask) = gain − gain · mask
    const outside = moves.reduce((sum, { gain, invert }) => sum + (invert ? gain : 0), 0);
    heap.floats(out, SLOT_EDGE * rect.height).fill(outside);
    // Moves of one coarseness are summed on their own grid and stretched together.
    const groups = new Map<number, GainedShape[]>();
    for (const move of moves) {
      const halvings = halvingsFor(print, move.fade, level);
      const group = groups.get(halvings) ?? [];
      group.push({ ...move, gain: move.invert ? -move.gain : move.gain });
      groups.set(halvings, group);
    }
    for (const [halvings, group] of groups)
      if (group.some((move) => reaches(print, move, level, rect)))
        withSum(context, group, level, rect, halvings, (sum) => {
          if (halvings > 0) addCoarse(heap, out, rect, sum);
          else heap.kernels.addPlane(out, sum.pointer, SLOT_EDGE * rect.height);
        });
    const { stops, start, roundness } = recipe.finish.edgeBurn;
    if (stops === 0) return;
    const span = ((1 - start) * Math.min(frame.width, frame.height)) / 2;
    const halvings = halvingsFor(print, (RIDGED * span) / Math.max(negative.width, negative.height), level);
    const step = 2 ** halvings;
    const [stepX, stepY] = [frame.width, frame.height].map((length) => (2 * step * 2 ** level) / length);
    const [left, top] = halvings === 0 ? [rect.x, rect.y] : [rect.x / step - 1, rect.y / step - 1];
    const height = halvings === 0 ? rect.height : Math.ceil(rect.height / step) + 2;
    const burn = halvings === 0 ? out : heap.allocate(4 * SLOT_EDGE * height);
    if (halvings > 0) heap.floats(burn, SLOT_EDGE * height).fill(0);
    heap.kernels.addEdgeBurn(
      burn, SLOT_EDGE, halvings === 0 ? SLOT_EDGE : Math.ceil(rect.width / step) + 2, height,
      (left + 0.5) * stepX - 1, (top + 0.5) * stepY - 1, stepX, stepY, start, roundness, stops,
    ); // prettier-ignore
    if (halvings > 0) addCoarse(heap, out, rect, { pointer: burn, halvings });
  },
};
