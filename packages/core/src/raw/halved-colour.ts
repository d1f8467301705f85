import type { KernelHeap } from "../kernels/heap.ts";

const { floor, max, min } = Math;

/** Cells on each side of the window in which colour follows light. */
const RADIUS = 2;
/** Cells on either side that a cell's pixels depend on: two windows, what is mixed before and the interpolation. */
const HALO = 2 * RADIUS + 3;
/** Pixels worked on at a time, and rows at least and at most. */
const BAND = { pixels: 2e6, least: 16, most: 256 } as const;

/** The cells of pixels of which each has one colour (its light is finer): 2 × 2 of 4:2:0, 2 × 1 of 4:2:2, 1 × 2 of a turned one. */
export interface HalvedCells {
  /** Pixels across and down. */
  readonly width: 1 | 2 | 4;
  readonly height: 1 | 2 | 4;
  /** Where the first whole one begins: 0, or more where the picture was turned or cut amid a cell. */
  readonly left: number;
  readonly top: number;
  /** Directions in which a decoder drew straight lines between the middles of cells, rather than filled them. */
  readonly sloped: { readonly across: boolean; readonly down: boolean };
}

/** Places in each direction that are looked at. */
const LOOKED_AT = 3e5;
/** Squared steps and third differences of colour or light, codes², beyond which they count as this: no single edge decides. */
const MOST = { steps: 400, thirds: 1600 } as const;
/** Blocks of a JPEG are as wide as this: their borders must not be taken for those of cells. */
const BLOCK = 8;
/** Of places that count alike, as many are needed: of fewer, chance could tell. */
const LEAST_PLACES = 800;
/** Changes within cells over those between them are no less, so counted. */
const LEAST_SHARE = 0.05;
/** Unevenness, below which colour was halved: of steps; of third differences in one direction, in both, and where the other is told already. */
const HALVED = { steps: 0.7, alone: 0.85, both: 0.94, besides: 0.97 } as const;

/**
 * Tells by its pixels whether a picture's colour was once stored at half the resolution of its light, whatever it is stored as now. Decoders
 * fill cells of two pixels with one colour, whose steps within cells are then none, or draw straight lines between their middles, whose third
 * differences about a cell's middle are then none; in both, those about borders of cells are what the picture has.
 * @param codes - interleaved red, green, blue, 8 bits sRGB-like.
 * @returns its cells; null when colour is as fine as light, or so smooth that nobody can tell.
 */
export function halvedCellsOf(codes: Uint8Array, width: number, height: number): HalvedCells | null {
  const ways = [unevenness(codes, width, height, true), unevenness(codes, width, height, false)];
  const isTold = ways.map(({ steps, thirds }) => steps.share < HALVED.steps || thirds.share < HALVED.alone);
  const isBoth = ways.every(({ thirds }) => thirds.share < HALVED.both);
  const [left, top] = ways.map(({ steps, thirds }, i) => {
    if (steps.share < HALVED.steps) return steps.begins;
    return isBoth || isTold[i] || (isTold[1 - i] && thirds.share < HALVED.besides) ? thirds.begins : null;
  });
  if (left === null && top === null) return null;
  const [across, down] = [left, top].map((begins, i) => begins !== null && ways[i].thirds.share < ways[i].steps.share);
  return {
    width: left === null ? 1 : 2,
    height: top === null ? 1 : 2,
    left: left ?? 0,
    top: top ?? 0,
    sloped: { across, down },
  };
}

/** How much less colour changes about even or about odd places, against light; 1 when it does not. */
interface Uneven {
  readonly share: number;
  /** The place, 0 or 1, about which it changes less. */
  readonly begins: 0 | 1;
}

/** Of colour along rows, or along columns. */
function unevenness(
  codes: Uint8Array,
  width: number,
  height: number,
  isAcross: boolean,
): Record<keyof typeof MOST, Uneven> {
  const every = max(1, floor((width * height) / LOOKED_AT));
  const [length, lines, next, nextLine] = isAcross ? [width, height, 3, 3 * width] : [height, width, 3 * width, 3];
  const [light, blue, red] = [0, 1, 2].map(() => new Float32Array(length));
  const ofColour = newChanges();
  const ofLight = newChanges();
  // Lines are left out, not places in them, so that each that is looked at counts whole.
  for (let line = 0; line < lines; line += every) {
    for (let k = 0, i = line * nextLine; k < length; k++, i += next) {
      const l = 0.299 * codes[i] + 0.587 * codes[i + 1] + 0.114 * codes[i + 2];
      light[k] = l;
      blue[k] = codes[i + 2] - l;
      red[k] = codes[i] - l;
    }
    addChanges(ofLight, light);
    addChanges(ofColour, blue);
    addChanges(ofColour, red);
  }
  const of = (key: keyof typeof MOST) => {
    const [own, other] = [uneven(ofColour[key]), uneven(ofLight[key])];
    // What was enlarged is as uneven in its light.
    return { ...own, share: max(LEAST_SHARE, own.share) / min(1, max(LEAST_SHARE, other.share)) };
  };
  return { steps: of("steps"), thirds: of("thirds") };
}

/** Squared steps and third differences by their place in a block; the last is the sum of their squares. */
type Changes = Readonly<Record<keyof typeof MOST, Float64Array>>;
const newChanges = (): Changes => ({ steps: new Float64Array(BLOCK + 1), thirds: new Float64Array(BLOCK + 1) });

function addChanges({ steps, thirds }: Changes, line: Float32Array): void {
  for (let k = 1; k < line.length - 2; k++) {
    const step = line[k + 1] - line[k];
    const third = line[k + 2] - line[k - 1] - 3 * step;
    const [own, other] = [min(MOST.steps, step * step), min(MOST.thirds, third * third)];
    steps[k % BLOCK] += own;
    steps[BLOCK] += own * own;
    thirds[k % BLOCK] += other;
    thirds[BLOCK] += other * other;
  }
}

/** The most of one parity's places in a block over what is usual of the other's: one border of blocks decides nothing. */
function uneven(all: Float64Array): Uneven {
  const sums = [...all.subarray(0, BLOCK)];
  const sum = sums.reduce((p, q) => p + q, 0);
  if (sum * sum < LEAST_PLACES * all[BLOCK]) return { share: 1, begins: 0 };
  const [even, odd] = [0, 1].map((parity) => sums.filter((_, phase) => phase % 2 === parity).sort((p, q) => p - q));
  const usual = (list: number[]) => (list[1] + list[2]) / 2 + 1e-9;
  const [first, second] = [(even[3] + 1e-9) / usual(odd), (odd[3] + 1e-9) / usual(even)];
  return first <= second ? { share: first, begins: 0 } : { share: second, begins: 1 };
}

/**
 * Rebuilds the colour of a picture that was stored at half its resolution (4:2:0, 4:2:2): in small windows colour is a straight line
 * of brightness, taken from cells of pixels (the guided filter of He, Sun, Tang 2010) whose brightness is as coarse as their colour, so that it turns where
 * brightness does and not a pixel beside it. Brightness stays as it is; what the line does not explain stays as smooth as it was.
 * @param codes - interleaved red, green, blue, 8 bits sRGB-like; changed in place. Pictures of fewer cells than a window has are left alone.
 * @param cells - of two pixels at least.
 */
export function rebuildHalvedColour(
  heap: KernelHeap,
  codes: Uint8Array,
  width: number,
  height: number,
  cells: HalvedCells,
): void {
  if (min(width / cells.width, height / cells.height) < 2 * RADIUS + 1) return;
  const { top: skipped } = cells;
  if (skipped > 0)
    return rebuildHalvedColour(heap, codes.subarray(3 * width * skipped), width, height - skipped, {
      ...cells,
      top: 0,
    });
  const row = 3 * width;
  const bandRows = max(BAND.least, min(BAND.most, floor(BAND.pixels / width) & ~3));
  const halo = HALO * cells.height;
  let before = codes.slice(0, 0);
  for (let top = 0; top < height; top += bandRows) {
    const rows = min(bandRows, height - top);
    const below = min(halo, height - top - rows);
    const own = codes.subarray(top * row, (top + rows + below) * row);
    const source = new Uint8Array(before.length + own.length);
    source.set(before);
    source.set(own, before.length);
    const above = before.length / row;
    // What the next band sees above it is what was there before this one was changed.
    before = source.slice((above + rows - halo) * row, (above + rows) * row);
    rebuildRows(heap, source, width, above, own.subarray(0, rows * row), cells);
  }
}

/** Rebuilds the rows of `source` from `above` on, as many as `out` holds. */
function rebuildRows(
  heap: KernelHeap,
  source: Uint8Array,
  width: number,
  above: number,
  out: Uint8Array,
  { width: cellWidth, height: cellHeight, left, sloped }: HalvedCells,
) {
  const { kernels } = heap;
  const mark = heap.mark();
  const across = floor((width - left) / cellWidth);
  const down = floor(source.length / 3 / width / cellHeight);
  const n = (across * down + 3) & ~3;
  // Rows are read a little beyond their ends.
  const [light, blue, red, mean, square, ...lines] = Array.from({ length: 11 }, () => heap.allocate(4 * n + 16));
  const row = heap.allocate(4 * 4 * (across + 2 * RADIUS + 12));
  const ring = heap.allocate(4 * (across + 4) * (2 * RADIUS + 2));
  const average = (plane: number) => kernels.boxMean(plane, across, down, RADIUS, row, ring);
  const codes = heap.allocate(source.length + 32);
  heap.bytes(codes, source.length).set(source);
  kernels.halvedCells(codes, width, left, cellWidth, cellHeight, across, down, light, blue, red);
  kernels.mixCells(light, across, down, row, Number(sloped.across), Number(sloped.down));
  heap.floats(mean, n).set(heap.floats(light, n));
  kernels.multiplyPlanes(light, light, square, n);
  average(mean);
  average(square);
  [blue, red].forEach((colour, k) => {
    const [slope, product, rest] = lines.slice(3 * k);
    heap.floats(slope, n).set(heap.floats(colour, n));
    kernels.multiplyPlanes(light, colour, product, n);
    kernels.multiplyPlanes(colour, colour, rest, n);
    for (const plane of [slope, product, rest]) average(plane);
    kernels.halvedLines(mean, square, slope, product, rest, n);
    for (const plane of [slope, rest]) average(plane);
    kernels.halvedRest(light, colour, slope, rest, n);
  });
  const [blueSlope, , blueRest, redSlope, , redRest] = lines;
  const room = heap.allocate(8 * 4 * (width + 4) + 16);
  const from = codes + 3 * width * above;
  kernels.rebuildHalved(
    from, width, out.length / 3 / width, blueSlope, blueRest, redSlope, redRest, across, down, room,
    (0.5 - left) / cellWidth - 0.5, (above + 0.5) / cellHeight - 0.5, 1 / cellWidth, 1 / cellHeight,
  ); // prettier-ignore
  out.set(heap.bytes(from, out.length));
  heap.release(mark);
}
