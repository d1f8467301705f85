import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import type { Stage, StageContext } from "../../graph/stage.ts";
import type { Rect } from "../../maths/rect.ts";
import {
  addCoarse,
  coarseSize,
  halvingsFor,
  reaches,
  withMask,
  withSum,
  type KeptPlane,
} from "../../shapes/kept-mask.ts";
import { bands, drawLine } from "../shape/coarse-line.ts";
import { guidedBase } from "../shape/guided-base.ts";
import type { LightPrint, PreparedToneMove } from "./print.ts";
import { TONE_TABLE } from "./tone-table.ts";

/** A burned edge has ridges along the diagonals, so its fade counts as so much shorter. */
const RIDGED = 0.5;

/** Base of the light that is weighed by tone. */
const lightBase = guidedBase<LightPrint>("light-base", "scatter", 0.004, 3, ({ toneMoves }) => toneMoves.length > 0);
export const lightBaseStage = lightBase.stage;

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
        .map(({ key, gain, invert }) => [key, gain, invert]),
      toneMovesIn(print, level, rect).map(({ key, tableKey, invert }) => [key, tableKey, invert]),
      edgeBurn.stops !== 0 && [edgeBurn, frame.width, frame.height],
    ];
  },
  isActive: ({ moves, toneMoves, recipe }) =>
    moves.length > 0 || toneMoves.length > 0 || recipe.finish.edgeBurn.stops !== 0,
  needs: (print, level, rect) =>
    toneMovesIn(print, level, rect).length > 0
      ? [{ stage: "scatter", level, rect }, lightBase.need(print, level, rect)]
      : [],
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
    addToneMoves(context, level, rect, out);
  },
};

/** The moves by tone that act somewhere in a rectangle. */
function toneMovesIn(print: LightPrint, level: number, rect: Rect): PreparedToneMove[] {
  return print.toneMoves.filter((move) => move.invert || reaches(print, move, level, rect));
}

/** Adds what moves do by tone: the tone of the light's edge-keeping base, so that texture keeps its contrast. */
function addToneMoves(context: StageContext<LightPrint>, level: number, rect: Rect, out: number): void {
  const { heap, print, read } = context;
  const moves = toneMovesIn(print, level, rect);
  if (moves.length === 0) return;
  const [stops] = read({ stage: "scatter", level, rect });
  const need = lightBase.need(print, level, rect);
  const line = read(need);
  const n = SLOT_EDGE * rect.height;
  const base = heap.allocate(4 * n + 64);
  for (const band of bands(rect))
    drawLine(heap, line, need.level, stops, level, band, base + 4 * (band.y - rect.y) * SLOT_EDGE);
  for (const { table, invert, ...move } of moves)
    withMask(context, { ...move, invert }, level, rect, (kept) => {
      const mark = heap.mark();
      let mask = kept.pointer;
      if (kept.halvings > 0) {
        mask = heap.allocate(4 * n + 64);
        heap.floats(mask, n).fill(0);
        addCoarse(heap, mask, rect, kept);
      }
      heap.kernels.addByTone(
        out, SLOT_EDGE, mask, SLOT_EDGE, base, SLOT_EDGE, rect.width, rect.height, heap.place(table),
        TONE_TABLE.lowest, TONE_TABLE.perStop, TONE_TABLE.count, invert ? 1 : 0,
      ); // prettier-ignore
      heap.release(mark);
    });
}

/** How coarse the burned edge may be drawn; null when none is. */
function burnHalvings(print: LightPrint, level: number): number | null {
  const { frame, negative, recipe } = print;
  const { stops, start } = recipe.finish.edgeBurn;
  if (stops === 0) return null;
  const fade = (RIDGED * (1 - start) * Math.min(frame.width, frame.height)) / 2;
  return halvingsFor(print, fade / Math.max(negative.width, negative.height), level);
}

/** Adds the burned edge to a plane over a tile. */
function addBurn(heap: KernelHeap, { frame, recipe }: LightPrint, level: number, tile: Rect, plane: KeptPlane): void {
  const { stops, start, roundness } = recipe.finish.edgeBurn;
  const { pointer, halvings } = plane;
  const step = 2 ** halvings;
  const { width, height } = coarseSize(tile, halvings);
  const [stepX, stepY] = [frame.width, frame.height].map((length) => (2 * step * 2 ** level) / length);
  const before = halvings === 0 ? 0 : 1;
  const [left, top] = [tile.x / step - before, tile.y / step - before];
  heap.kernels.addEdgeBurn(
    pointer, SLOT_EDGE, width, height, (left + 0.5) * stepX - 1, (top + 0.5) * stepY - 1, stepX, stepY,
    start, roundness, stops,
  ); // prettier-ignore
}
