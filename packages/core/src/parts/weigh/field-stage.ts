import { IDENTITY3 } from "../../colour/matrix.ts";
import { REC2020 } from "../../colour/rgb-space.ts";
import type { Need, Stage } from "../../graph/stage.ts";
import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import { gaussianTaps } from "../../maths/gaussian.ts";
import type { Rect, Size } from "../../maths/rect.ts";
import { levelSize, TILE_SIZE, tileSize, type TilePlace } from "../../tiles/tiles.ts";
import { bakeLattice } from "./colour-lattice.ts";
import { holdForNoise } from "./colour-noise.ts";
import type { GreyModel } from "./grey-model.ts";
import type { ColourMoves, WeighPrint } from "./print.ts";
import { voteLevel, votingTiles } from "./vote-tiles.ts";

/** Pixels along a cell of the grid of the fit, which lies two levels above the votes. */
const CELL = 4;
const CELL_LEVELS = Math.log2(CELL);
/** Deviation of the window over which the fit is local, cells. */
const WINDOW = gaussianTaps(1.5);
/** Products that `gatherVotes` sums for each target. */
const PRODUCTS = 10;
/** Planes that `solveVotes` makes of the last target's. */
const SOLVED = 21;
/** Rows of cells for which a kernel is called: one call goes to its end in code that is not optimised yet, if it began in it. */
const ROWS = 16;
/** Planes of votes smoothed together. */
const TOGETHER = 32;
/** Planes of what is bright about a cell. */
const BRIGHT = 6;
/** Four of the line, two of the gains that it stays between, three of what is bright, its gain, how far that is known. */
type Planes = [number, number, number, number, number, number, number, number, number, number, number];
/** Which product is the first of red, green, blue. */
const RED = 6;

/**
 * The light that families and film give to materials, as a function of the picture's own colours that is linear at each
 * place: E = x·(R, G, B) + offset. Where materials mix (edges, soft focus, hair), the mixture of their colours then becomes the
 * mixture of their lights, which no function of a pixel's own colour can do. Fitted as in the guided filter with a
 * colour guide (He, Sun, Tang 2010) with Gaussian windows on a coarse grid, to the light of pure pixels; materials too thin to
 * have any vote by their family's colour. Lies on one level of the negative, whatever the view's.
 */
export const fieldStage: Stage<WeighPrint> = {
  name: "field",
  grid: "negative",
  planes: 11,
  costNs: 1700,
  after: null,
  reads: ({ grey, colourMoves: moves }) => [grey.weights, moves && [moves.key, [...moves.gains]]],
  isActive: ({ colourMoves }) => colourMoves !== null,
  needs: () => [],
  negativeTiles: ({ negative }) => votingTiles(negative),
  compute({ heap, print, negativeTile, keptBlock }, _level, rect, outs) {
    const { negative, grey } = print;
    const moves = print.colourMoves!;
    const { colours, lights } = moves.palette;
    const { stride, planeBytes } = planesOf(cellsOf(negative));
    const planes = planesFor(moves);
    const values = keptBlock(moves.key, planes * planeBytes, (out) =>
      gatherAll(heap, negative, moves, grey, negativeTile, out),
    );
    const channels = Float32Array.from(moves.toChannels ?? IDENTITY3);
    const [gains, ofColours, ofLights] = [moves.gains, colours, lights].map((list) => heap.place(list));
    heap.kernels.fitVotes(
      values + 4 * planes * (rect.y * stride + rect.x), planes, gains, moves.targets, stride, rect.width, rect.height,
      ofColours, ofLights, lights.length, ...(outs as Planes), SLOT_EDGE, heap.place(channels), ...grey.weights, ...REC2020.luminance,
    ); // prettier-ignore
  },
};

/** The part of the field that weighing a rectangle reads. */
export function fieldNeed({ negative }: WeighPrint, level: number, { x, y, width, height }: Rect): Need<WeighPrint> {
  const at = voteLevel(negative) + CELL_LEVELS;
  const ratio = 2 ** (level - at);
  const left = Math.max(0, Math.floor((x + 0.5) * ratio - 0.5));
  const top = Math.max(0, Math.floor((y + 0.5) * ratio - 0.5));
  const right = Math.ceil((x + width - 0.5) * ratio - 0.5) + 1;
  const bottom = Math.ceil((y + height - 0.5) * ratio - 0.5) + 1;
  return { stage: "field", level: at, rect: { x: left, y: top, width: right - left, height: bottom - top } };
}

function cellsOf(negative: Size): Size {
  return levelSize(negative, voteLevel(negative) + CELL_LEVELS);
}

/** How planes of cells lie: rows of whole vectors. */
function planesOf({ width, height }: Size) {
  const stride = (width + 3) & ~3;
  return { stride, planeBytes: 4 * stride * height };
}

/**
 * Planes of the fit: at first ten of votes a target, one of how firmly noise holds the fit, and two of mixtures for each colour of the
 * palette; last what is bright. Once it is solved, of the last target and what follows it what `solveVotes` makes of them.
 */
function planesFor({ targets, palette }: ColourMoves): number {
  const count = palette.lights.length;
  const solved = SOLVED + count + Math.min(count, targets - 1);
  return (targets - 1) * PRODUCTS + Math.max(PRODUCTS + 1 + 2 * count, solved) + BRIGHT;
}

/** Everything of the fit that does not change while families or weights are moved: all planes, smoothed, interleaved and solved at `out`. */
function gatherAll(
  heap: KernelHeap,
  negative: Size,
  moves: ColourMoves,
  grey: GreyModel,
  negativeTile: (place: TilePlace) => Uint16Array,
  out: number,
): void {
  const cells = cellsOf(negative);
  const { targets, palette, toChannels } = moves;
  const { stride, planeBytes } = planesOf(cells);
  const count = palette.lights.length;
  const mark = heap.mark();
  const votes = targets * PRODUCTS;
  const planes = heap.allocate(Math.max(votes + 1 + BRIGHT, 2 * count) * planeBytes);
  const bright = votes + 1;
  const channels = heap.place(Float32Array.from(toChannels ?? IDENTITY3));
  const samples = heap.allocate(64 * stride * cells.height);
  const table = bakeLattice(heap, grey, moves);
  for (const place of votingTiles(negative)) {
    const inner = heap.mark();
    const { width, height } = tileSize(negative, place);
    const halves = heap.place(negativeTile(place));
    const plane = 2 * width * height;
    const colour = [halves, halves + plane, halves + 2 * plane] as const;
    const ratioStride = TILE_SIZE + 16;
    const [toRed, toBlue] = [0, 1].map(() => heap.allocate(4 * ratioStride * (height + 2)));
    heap.kernels.colourRatios(...colour, width, height, toRed, toBlue, ratioStride);
    const at = (place.row * TILE_SIZE * stride + place.column * TILE_SIZE) / CELL;
    for (let y = 0; y < height; y += ROWS * CELL) {
      const [first, down] = [at + (y / CELL) * stride, 4 * ratioStride * y];
      const [r, g, b] = colour.map((from) => from + 2 * width * y);
      heap.kernels.gatherVotes(
        r, g, b, width, Math.min(ROWS * CELL, height - y), table, 4 * moves.nodeLength, targets, grey.floor, toRed + down, toBlue + down, ratioStride,
        planes + 4 * first, planeBytes, planes + bright * planeBytes + 4 * first, samples + 64 * first, stride, channels, moves.pureStops, ...REC2020.luminance,
      ); // prettier-ignore
    }
    heap.release(inner);
  }
  const taps = heap.place(WINDOW);
  const room = heap.allocate(4 * (stride + WINDOW.length + 19 + TOGETHER * stride));
  const all = planesFor(moves);
  const held = heap.floats(planes + votes * planeBytes, planeBytes / 4);
  const plainSums = heap.floats(planes + (targets - 1) * PRODUCTS * planeBytes, (PRODUCTS * planeBytes) / 4);
  if (moves.heedsNoise) holdForNoise(plainSums, stride, cells, held);
  else held.fill(0);
  const smooth = (from: number, count: number, first: number) => {
    for (let k = 0; k < count; k += TOGETHER)
      for (let y = 0; y < cells.height; y += ROWS)
        heap.kernels.smoothVotes(
          planes + (from + k) * planeBytes, planeBytes, Math.min(TOGETHER, count - k), stride, cells.width, cells.height,
          y, Math.min(y + ROWS, cells.height), taps, WINDOW.length, out, first + k, all, room,
        ); // prettier-ignore
  };
  smooth(0, votes + 1, 0);
  smooth(bright, BRIGHT, all - BRIGHT);
  const pure = out + 16 * ((targets - 1) * PRODUCTS + RED);
  heap.kernels.gatherMixtures(
    pure, all, stride, samples, stride, cells.width, cells.height, heap.place(palette.colours), count,
    planes, planeBytes, stride, heap.allocate(32 * count), ...REC2020.luminance,
  ); // prettier-ignore
  smooth(0, 2 * count, votes + 1);
  const colours = heap.place(palette.colours);
  const ofFour = heap.allocate(16 * (count + targets));
  for (let y = 0; y < cells.height; y += ROWS)
    heap.kernels.solveVotes(
      out + 4 * all * y * stride, all, targets, stride, cells.width, Math.min(ROWS, cells.height - y), colours, count, ofFour,
      ...REC2020.luminance,
    ); // prettier-ignore
  heap.release(mark);
}
