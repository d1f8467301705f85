import { REC2020 } from "../../colour/rgb-space.ts";
import type { Need, Stage } from "../../graph/stage.ts";
import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import { gaussianTaps } from "../../maths/gaussian.ts";
import { intersect, type Rect, type Size } from "../../maths/rect.ts";
import { levelSize, TILE_SIZE, tileSize, type TilePlace } from "../../tiles/tiles.ts";
import { placesIn } from "../../tiles/view.ts";
import type { WeighPrint } from "./print.ts";

/** Votes are taken on the finest level on which the picture's long edge is no longer than this, pixels. */
const LONGEST_EDGE = 2400;
/** Levels from the votes to the grid of the fit: cells of 4 × 4 votes. */
const CELL_LEVELS = 2;
/** Deviation of the window over which the fit is local, cells. */
const WINDOW = gaussianTaps(1.5);
const REACH = (WINDOW.length - 1) / 2;
/** What the kernel `gatherVotes` sums. */
const VOTE_PLANES = 14;
/** Coefficients of the fit: for red, green, blue, and an offset. */
const FIELD_PLANES = 4;

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
  planes: FIELD_PLANES,
  costNs: 900,
  after: null,
  reads: ({ grey, lattice }) => [grey.weights, lattice?.key],
  isActive: ({ lattice }) => lattice !== null,
  needs: () => [],
  negativeTiles: (print, level, rect) => placesIn(votingPixels(print, rect), level - CELL_LEVELS),
  compute({ heap, print, negativeTile }, level, rect, out) {
    const places = placesIn(votingPixels(print, rect), level - CELL_LEVELS);
    const cells = cellsOf(print.negative, places);
    const votes = padded(heap, cells, VOTE_PLANES);
    const samples = heap.allocate(64 * votes.stride * cells.height);
    for (const place of places) {
      const mark = heap.mark();
      gather(heap, print, negativeTile(place), place, cells, votes, samples);
      heap.release(mark);
    }
    const smoothVotes = smooth(heap, votes);
    const { colours, lights } = print.lattice!.palette;
    const count = lights.length;
    const palette = heap.place(colours);
    const mixtures = padded(heap, cells, 2 * count);
    const [lr, lg, lb] = REC2020.luminance;
    heap.kernels.gatherMixtures(
      smoothVotes.pointer, smoothVotes.planeBytes, smoothVotes.stride, samples, votes.stride, cells.width, cells.height,
      palette, count, mixtures.first, mixtures.planeBytes, mixtures.stride, heap.allocate(32 * count), lr, lg, lb,
    ); // prettier-ignore
    const smoothMixtures = smooth(heap, mixtures);
    const offset = 4 * ((rect.y - cells.y) * smoothVotes.stride + rect.x - cells.x);
    heap.kernels.fitVotes(
      smoothVotes.pointer + offset, smoothVotes.planeBytes, smoothMixtures.pointer + offset, smoothMixtures.planeBytes,
      smoothVotes.stride, rect.width, rect.height, palette, heap.place(lights), count,
      out[0], out[1], out[2], out[3], SLOT_EDGE, ...print.grey.weights, lr, lg, lb,
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

/** The level whose pixels vote: a matter of the negative alone, so that every view has the same field. */
function voteLevel({ width, height }: Size): number {
  return Math.max(0, Math.ceil(Math.log2(Math.max(width, height) / LONGEST_EDGE)));
}

/** The pixels whose votes a rectangle of the field reads. */
function votingPixels({ negative }: WeighPrint, { x, y, width, height }: Rect): Rect {
  const edge = 2 ** CELL_LEVELS;
  const around = (start: number, length: number) => [edge * (start - REACH), edge * (length + 2 * REACH)];
  const [left, across] = around(x, width);
  const [top, down] = around(y, height);
  const whole = levelSize(negative, voteLevel(negative));
  const rect = { x: left, y: top, width: across, height: down };
  return intersect(rect, { x: 0, y: 0, ...whole });
}

/** The cells of some tiles, which lie side by side in rows. */
function cellsOf(negative: Size, places: readonly TilePlace[]): Rect {
  const edge = 2 ** CELL_LEVELS;
  const [first, last] = [places[0], places[places.length - 1]];
  const { width, height } = tileSize(negative, last);
  const x = (first.column * TILE_SIZE) / edge;
  const y = (first.row * TILE_SIZE) / edge;
  return {
    x,
    y,
    width: Math.ceil((last.column * TILE_SIZE + width) / edge) - x,
    height: Math.ceil((last.row * TILE_SIZE + height) / edge) - y,
  };
}

/** Planes of cells with a border of zeros, as wide as the window reaches. */
interface Padded {
  readonly pointer: number;
  /** Of the first cell inside the border. */
  readonly first: number;
  readonly stride: number;
  readonly planeBytes: number;
  readonly count: number;
  readonly cells: Size;
}

function padded(heap: KernelHeap, cells: Size, count: number): Padded {
  const stride = (cells.width + 2 * REACH + 7) & ~3;
  const planeBytes = 4 * stride * (cells.height + 2 * REACH);
  const pointer = heap.allocate(count * planeBytes);
  heap.bytes(pointer, count * planeBytes).fill(0);
  return { pointer, first: pointer + 4 * (REACH * stride + REACH), stride, planeBytes, count, cells };
}

/** The planes smoothed by the window, without the border. */
function smooth(heap: KernelHeap, planes: Padded): Pick<Padded, "pointer" | "stride" | "planeBytes"> {
  const { cells, count } = planes;
  const stride = (cells.width + 3) & ~3;
  const planeBytes = 4 * stride * cells.height;
  const pointer = heap.allocate(count * planeBytes);
  const mark = heap.mark();
  const taps = heap.place(WINDOW);
  const rows = heap.allocate(4 * stride * (cells.height + 2 * REACH));
  for (let k = 0; k < count; k++) {
    const from = planes.pointer + k * planes.planeBytes;
    heap.kernels.convolveRows(from, planes.stride, rows, stride, cells.height + 2 * REACH, taps, WINDOW.length);
    heap.kernels.convolveColumns(rows, pointer + k * planeBytes, stride, cells.height, taps, WINDOW.length);
  }
  heap.release(mark);
  return { pointer, stride, planeBytes };
}

/** One tile's votes into its cells. */
function gather(
  heap: KernelHeap,
  { grey, lattice, negative }: WeighPrint,
  tile: Uint16Array,
  place: TilePlace,
  cells: Rect,
  votes: Padded,
  samples: number,
): void {
  const { width, height } = tileSize(negative, place);
  const halves = heap.place(tile);
  const plane = 2 * width * height;
  const planes = [halves, halves + plane, halves + 2 * plane] as const;
  const light = heap.allocate(4 * SLOT_EDGE * height);
  const table = heap.place(lattice!.table);
  heap.kernels.weighByColour(...planes, width, height, light, SLOT_EDGE, ...grey.weights, table, grey.floor);
  const ratioStride = SLOT_EDGE + 16;
  const ratioBytes = 4 * ratioStride * (height + 2);
  const toRed = heap.allocate(ratioBytes);
  const toBlue = heap.allocate(ratioBytes);
  heap.kernels.colourRatios(...planes, width, height, toRed, toBlue, ratioStride);
  const edge = 2 ** CELL_LEVELS;
  const at = ((place.row * TILE_SIZE) / edge - cells.y) * votes.stride + (place.column * TILE_SIZE) / edge - cells.x;
  heap.kernels.gatherVotes(
    ...planes, width, height, light, SLOT_EDGE, toRed, toBlue, ratioStride,
    votes.first + 4 * at, votes.planeBytes, samples + 64 * at, votes.stride, ...REC2020.luminance,
  ); // prettier-ignore
}
