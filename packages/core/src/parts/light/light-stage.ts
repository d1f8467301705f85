import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import type { Stage } from "../../graph/stage.ts";
import { grown, type Rect } from "../../maths/rect.ts";
import {
  addCoarse,
  coarseSize,
  halvingsFor,
  keyOver,
  reaches,
  withSum,
  type KeptPlane,
} from "../../shapes/kept-mask.ts";
import { around, differIn, rectOfBox } from "../../shapes/prepared.ts";
import type { Box } from "../../shapes/shape.ts";
import type { LightPrint } from "./print.ts";
import { richNeed } from "./rich-moves.ts";

/** A burned edge has ridges along the diagonals, so its fade counts as so much shorter. */
const RIDGED = 0.5;

/** Light moves and burned edges: the stops by which each place is lifted or burned. */
export const lightStage: Stage<LightPrint> = {
  name: "light",
  grid: "frame",
  planes: 1,
  costNs: 10,
  after: null,
  reads: (print, level, rect) => {
    const { frame, moves, recipe } = print;
    const { edgeBurn } = recipe.finish;
    return [
      frame.toFlat,
      // A move elsewhere adds nothing here, unless it acts outside its shape.
      moves
        .filter((move) => move.invert || reaches(print, move, level, rect))
        .map((move) => [keyOver(print, move, level, rect), move.gain, move.invert]),
      edgeBurn.stops !== 0 && [edgeBurn, frame.width, frame.height],
    ];
  },
  differsIn(before, after, level) {
    const rest = (print: LightPrint) => JSON.stringify([print.frame.toFlat, print.recipe.finish.edgeBurn]);
    if (before.moves.length !== after.moves.length || rest(before) !== rest(after)) return null;
    const boxes: Box[] = [];
    let margin = 1;
    for (const [i, move] of after.moves.entries()) {
      const old = before.moves[i];
      const halvings = halvingsFor(after, move.fade, level);
      const isDrawnAlike = halvingsFor(before, old.fade, level) === halvings;
      if (old.key === move.key && old.gain === move.gain && old.invert === move.invert) continue;
      if (!isDrawnAlike || old.invert !== move.invert) return null;
      if (old.gain !== move.gain) {
        if (move.invert) return null;
        boxes.push(old.bounds, move.bounds);
      }
      const box = differIn(old, move);
      if (box) boxes.push(box);
      margin = Math.max(margin, 2 ** (halvings + 1));
    }
    return boxes.length === 0 ? null : grown(rectOfBox(after, level, around(boxes)), margin);
  },
  isActive: ({ moves, richMoves, recipe }) =>
    moves.length > 0 || richMoves.length > 0 || recipe.finish.edgeBurn.stops !== 0,
  needs: (print, level, rect) => [richNeed(print, level, rect)].filter((need) => need !== null),
  compute(context, level, rect, [out]) {
    const { heap, print } = context;
    // gain · (1 − mask) = gain − gain · mask
    const outside = print.moves.reduce((sum, { gain, invert }) => sum + (invert ? gain : 0), 0);
    const moves = print.moves.map((move) => ({
      ...move,
      gain: move.invert ? -move.gain : move.gain,
      halvings: halvingsFor(print, move.fade, level),
    }));
    const burn = burnHalvings(print, level);
    const steps = new Set(moves.filter((move) => reaches(print, move, level, rect)).map(({ halvings }) => halvings));
    if (burn !== null) steps.add(burn);
    heap.floats(out, SLOT_EDGE * rect.height).fill(outside);
    // What is equally coarse is summed on its own grid, and each grid is stretched to the next finer one.
    let coarser: KeptPlane | null = null;
    for (const halvings of [...steps].sort((p, q) => q - p)) {
      const { height } = coarseSize(rect, halvings);
      const sum = halvings === 0 ? out : heap.allocate(4 * SLOT_EDGE * height);
      if (halvings > 0) heap.floats(sum, SLOT_EDGE * height).fill(0);
      if (coarser) addCoarse(heap, sum, rect, coarser, halvings);
      const group = moves.filter((move) => move.halvings === halvings);
      if (group.length > 0)
        withSum(context, group, level, rect, halvings, ({ pointer }) =>
          heap.kernels.addPlane(sum, pointer, SLOT_EDGE * height),
        );
      if (halvings === burn) addBurn(heap, print, level, rect, { pointer: sum, halvings });
      coarser = { pointer: sum, halvings };
    }
    if (coarser && coarser.halvings > 0) addCoarse(heap, out, rect, coarser);
    const rich = richNeed(print, level, rect);
    if (rich) heap.kernels.addPlane(out, context.read(rich)[0].pointer, SLOT_EDGE * rect.height);
  },
};

/** How coarse the burned edge may be drawn; null when none is. */
function burnHalvings(print: LightPrint, level: number): number | null {
  const { frame, negative, recipe } = print;
  const { stops, start, centreX, centreY } = recipe.finish.edgeBurn;
  if (stops === 0) return null;
  // From a centre elsewhere the nearer edge is so much nearer.
  const nearer = 2 * Math.min(centreX, centreY, 1 - centreX, 1 - centreY);
  const fade = (RIDGED * (1 - start) * nearer * Math.min(frame.width, frame.height)) / 2;
  return halvingsFor(print, fade / Math.max(negative.width, negative.height), level);
}

/** Adds the burned edge to a plane over a tile. */
function addBurn(heap: KernelHeap, { frame, recipe }: LightPrint, level: number, tile: Rect, plane: KeptPlane): void {
  const { stops, start, roundness, centreX, centreY } = recipe.finish.edgeBurn;
  const { pointer, halvings } = plane;
  const step = 2 ** halvings;
  const { width, height } = coarseSize(tile, halvings);
  const [stepX, stepY] = [frame.width, frame.height].map((length) => (2 * step * 2 ** level) / length);
  const before = halvings === 0 ? 0 : 1;
  const [left, top] = [tile.x / step - before, tile.y / step - before];
  heap.kernels.addEdgeBurn(
    pointer, SLOT_EDGE, width, height, (left + 0.5) * stepX - 1, (top + 0.5) * stepY - 1, stepX, stepY,
    start, roundness, stops, 2 * centreX - 1, 2 * centreY - 1,
  ); // prettier-ignore
}
