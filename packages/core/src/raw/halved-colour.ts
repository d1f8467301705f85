import type { KernelHeap } from "../kernels/heap.ts";

const { floor, max, min } = Math;

/** Cells of 2 × 2 pixels on each side of the window in which colour follows light. */
const RADIUS = 2;
/** Rows on either side that a row depends on: two windows and the interpolation. Even, as is what is worked on at a time. */
const HALO_ROWS = 4 * RADIUS + 4;
/** Pixels worked on at a time, and rows at least and at most. */
const BAND = { pixels: 2e6, least: 16, most: 256 } as const;

/** Where the cells of 2 × 2 pixels of a picture whose colour is halved begin: 0, or 1 where it was cut at an odd place. */
export interface HalvedCells {
  readonly left: 0 | 1;
  readonly top: 0 | 1;
}

/** Squared step of colour, codes², beyond which it counts as this: no single edge decides. */
const MOST_STEP = 400;
/** Pairs of pixels in each direction that are looked at. */
const LOOKED_AT = 6e5;
/** Steps within cells over those between, of colour and against the same of brightness, that tell halved colour: across, and down. */
const HALVED = { across: 0.9, down: 0.97 } as const;
/** Where those of brightness itself are less than this, pixels were doubled, whatever had colour of its own. */
const DOUBLED = 0.25;

/**
 * Tells by its pixels whether a picture's colour was once stored at half the resolution of its light, whatever it is stored as now: colour
 * then steps less within cells of 2 × 2 pixels than from cell to cell.
 * @param codes - interleaved red, green, blue, 8 bits sRGB-like.
 * @returns where its cells begin; null when colour is as fine as light.
 */
export function halvedCellsOf(codes: Uint8Array, width: number, height: number): HalvedCells | null {
  const every = max(1, floor((width * height) / LOOKED_AT));
  const across = inCells(codes, width, height, 3, every);
  const down = inCells(codes, width, height, 3 * width, every);
  const tells = (ratio: number, below: number) => ratio < below || ratio > 1 / below;
  if (!tells(across, HALVED.across) || !tells(down, HALVED.down)) return null;
  return { left: across < 1 ? 0 : 1, top: down < 1 ? 0 : 1 };
}

/**
 * Squared steps of colour from even places on over those from odd ones, against the same of brightness; 1 of doubled pixels. `next` codes lie
 * between pixels.
 */
function inCells(codes: Uint8Array, width: number, height: number, next: number, every: number): number {
  const [colour, light] = [0, 1].map(() => [1e-9, 1e-9]);
  const isAcross = next === 3;
  const step = (value: number) => min(MOST_STEP, value * value);
  const brightness = (i: number) => 0.299 * codes[i] + 0.587 * codes[i + 1] + 0.114 * codes[i + 2];
  // Lines across what is compared are left out, so that each that is looked at counts whole.
  for (let y = 0; y < height - 1; y += isAcross ? every : 1)
    for (let x = 0; x < width - 1; x += isAcross ? 1 : every) {
      const i = 3 * (y * width + x);
      const odd = (isAcross ? x : y) & 1;
      const l = brightness(i + next) - brightness(i);
      colour[odd] += step(codes[i + next + 2] - codes[i + 2] - l) + step(codes[i + next] - codes[i] - l);
      light[odd] += step(l);
    }
  const own = light[0] / light[1];
  return own < DOUBLED || own > 1 / DOUBLED ? 1 : colour[0] / colour[1] / own;
}

/**
 * Rebuilds the colour of a picture that was stored at half its resolution (4:2:0): in small windows colour is a straight line
 * of brightness, taken from cells of 2 × 2 pixels (the guided filter of He, Sun, Tang 2010), so that it turns where
 * brightness does and not a pixel beside it. Brightness stays as it is; what the line does not explain stays as smooth as it was.
 * @param codes - interleaved red, green, blue, 8 bits sRGB-like; changed in place. Pictures below 10 pixels are left alone.
 * @param cells - where they begin.
 */
export function rebuildHalvedColour(
  heap: KernelHeap,
  codes: Uint8Array,
  width: number,
  height: number,
  cells: HalvedCells = { left: 0, top: 0 },
): void {
  if (min(width, height) < 2 * (2 * RADIUS + 1)) return;
  if (cells.top === 1)
    return rebuildHalvedColour(heap, codes.subarray(3 * width), width, height - 1, { ...cells, top: 0 });
  const row = 3 * width;
  const bandRows = max(BAND.least, min(BAND.most, floor(BAND.pixels / width) & ~1));
  let before = codes.slice(0, 0);
  for (let top = 0; top < height; top += bandRows) {
    const rows = min(bandRows, height - top);
    const below = min(HALO_ROWS, height - top - rows);
    const own = codes.subarray(top * row, (top + rows + below) * row);
    const source = new Uint8Array(before.length + own.length);
    source.set(before);
    source.set(own, before.length);
    const above = before.length / row;
    // What the next band sees above it is what was there before this one was changed.
    before = source.slice((above + rows - HALO_ROWS) * row, (above + rows) * row);
    rebuildRows(heap, source, width, above, own.subarray(0, rows * row), cells.left);
  }
}

/** Rebuilds the rows of `source` from `above` on, as many as `out` holds. */
function rebuildRows(
  heap: KernelHeap,
  source: Uint8Array,
  width: number,
  above: number,
  out: Uint8Array,
  left: number,
) {
  const { kernels } = heap;
  const mark = heap.mark();
  const across = (width - left) >> 1;
  const down = floor(source.length / 3 / width) >> 1;
  const n = (across * down + 3) & ~3;
  // Rows are read a little beyond their ends.
  const [light, blue, red, mean, square, ...lines] = Array.from({ length: 11 }, () => heap.allocate(4 * n + 16));
  const row = heap.allocate(4 * 4 * (across + 2 * RADIUS + 12));
  const ring = heap.allocate(4 * (across + 4) * (2 * RADIUS + 2));
  const average = (plane: number) => kernels.boxMean(plane, across, down, RADIUS, row, ring);
  const codes = heap.allocate(source.length + 32);
  heap.bytes(codes, source.length).set(source);
  kernels.halvedCells(codes, width, left, across, down, light, blue, red);
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
    (-0.5 - left) / 2, (above - 0.5) / 2,
  ); // prettier-ignore
  out.set(heap.bytes(from, out.length));
  heap.release(mark);
}
