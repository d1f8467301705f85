import type { Size } from "../maths/rect.ts";
import { INSIDE, UNKNOWN } from "./find-region.ts";
import { leastCut } from "./least-cut.ts";
import type { Lab } from "./superpixels.ts";

/** A border may move by so many cells; by fewer when more than MOST cells would lie so near to it. */
const BAND = 10;
const MOST = 9000;
/** Half window in which a cell's colour is compared with those on both sides, cells, and every how many one is asked. */
const WINDOW = 13;
const EVERY = 2;
/** Difference of colour at which a cell speaks for another by a quarter. */
const ALIKE = 0.045;
/** Cells of a side count in full from so far from the border on: nearer they may be on the wrong one. */
const SURE = 6;
/** A colour that a side does not have, and the most by which a cell speaks for a side. */
const STRANGE = 0.02;
const MOST_CERTAIN = 3;
/** What one cell side of a border costs where colours are even, and at the band's rim, beyond which all stays. */
const BORDER = 6;
const RIM = 4;
/** What it costs a cell to leave the side that it is given on: where colours are even a border would else draw in. */
const GIVEN = 0.6;
/** What leaves less than this of a region has found no border of it, but drawn it together. */
const LEAST_LEFT = 0.5;
const ROUNDS = 2;
const CERTAIN = 1e6;

/** Steps to half of the cells around, the others being the other way, and how long they are. */
const STEPS = [[1, 0, 1], [0, 1, 1], [1, 1, Math.SQRT2], [-1, 1, Math.SQRT2]] as const; // prettier-ignore

/**
 * Moves a region's border to where the picture's colours part, cell by cell: the least cut (Boykov, Jolly 2001) of the cells near
 * the border, each speaking for the side whose colours near it are more like its own. Patches, which a region is found in, are larger than
 * what ends a small thing. Where no colours part a region, it stays as it was given.
 * @param colours - of the cells, as patches are made of.
 * @param inside - 1 for cells that are inside at first.
 * @param known - INSIDE and OUTSIDE for cells that a hand has said to be so, which stay; UNKNOWN for all others.
 */
export function cutCells(colours: Lab, size: Size, inside: Uint8Array, known: Uint8Array): Uint8Array {
  let cells = inside;
  for (let round = 0; round < ROUNDS; round++) {
    const far = farFromBorder(cells, size);
    const band = bandOf(far);
    if (band.length === 0) break;
    cells = cutBand(colours, size, inside, cells, known, far, band);
  }
  return countOf(cells) < LEAST_LEFT * countOf(inside) ? inside : cells;
}

const countOf = (cells: Uint8Array) => cells.reduce((sum, cell) => sum + cell, 0);

function cutBand(
  colours: Lab,
  { width, height }: Size,
  given: Uint8Array,
  inside: Uint8Array,
  known: Uint8Array,
  far: Uint8Array,
  band: Int32Array,
): Uint8Array {
  const count = band.length;
  const node = new Int32Array(inside.length).fill(-1);
  band.forEach((i, k) => (node[i] = k));
  const [toNear, toFar] = [new Float64Array(count), new Float64Array(count)];
  const claim = (k: number, side: number, strength: number) => ((side ? toFar : toNear)[k] += strength);
  const most = STEPS.length * count;
  const [from, to, parting] = [new Int32Array(most), new Int32Array(most), new Float64Array(most)];
  const lengths = new Float64Array(most);
  let [edges, sum] = [0, 0];
  for (let k = 0; k < count; k++) {
    const i = band[k];
    const [x, y] = [i % width, Math.floor(i / width)];
    if (known[i] === UNKNOWN) {
      const speaks = nearerSide(colours, { width, height }, inside, known, far, x, y);
      claim(k, speaks > 0 ? 1 : 0, Math.abs(speaks));
      claim(k, given[i], GIVEN);
    } else claim(k, known[i] === INSIDE ? 1 : 0, CERTAIN);
    for (const [dx, dy, length] of STEPS)
      for (const way of [1, -1]) {
        const [u, v] = [x + way * dx, y + way * dy];
        if (u < 0 || v < 0 || u >= width || v >= height) continue;
        const j = v * width + u;
        if (node[j] < 0) claim(k, inside[j], RIM);
        else if (way === 1) {
          [from[edges], to[edges], lengths[edges]] = [k, node[j], length];
          sum += parting[edges++] = apart(colours, i, j);
        }
      }
  }
  const usual = 2 * Math.max(1e-8, sum / Math.max(1, edges));
  for (let e = 0; e < edges; e++) parting[e] = (BORDER * Math.exp(-parting[e] / usual)) / lengths[e];
  const of = <T extends Int32Array | Float64Array>(list: T) => list.subarray(0, edges);
  const cut = leastCut({ count, toNear, toFar, from: of(from), to: of(to), parting: of(parting) });
  const out = inside.slice();
  band.forEach((i, k) => (out[i] = cut[k]));
  return out;
}

/** Squared difference of two cells' colours. */
function apart([l, a, b]: Lab, i: number, j: number): number {
  const [dl, da, db] = [l[i] - l[j], a[i] - a[j], b[i] - b[j]];
  return dl * dl + da * da + db * db;
}

/** By how much a cell's colour is more like those inside, near it, than those outside: the logarithm of the odds, kept in bounds. */
function nearerSide(
  [l, a, b]: Lab,
  { width, height }: Size,
  inside: Uint8Array,
  known: Uint8Array,
  far: Uint8Array,
  x: number,
  y: number,
): number {
  const i = y * width + x;
  const [li, ai, bi] = [l[i], a[i], b[i]];
  let near = STRANGE;
  let nears = 1;
  let other = STRANGE;
  let others = 1;
  const left = Math.max(0, x - WINDOW);
  const right = Math.min(width - 1, x + WINDOW);
  const bottom = Math.min(height - 1, y + WINDOW);
  for (let v = Math.max(0, y - WINDOW); v <= bottom; v += EVERY)
    for (let j = v * width + left, end = v * width + right; j <= end; j += EVERY) {
      const dl = li - l[j];
      const da = ai - a[j];
      const db = bi - b[j];
      const sure = known[j] === UNKNOWN && far[j] < SURE ? far[j] / SURE : 1;
      const like = 1 + (dl * dl + da * da + db * db) / (ALIKE * ALIKE);
      if (inside[j] === 1) {
        near += sure / (like * like);
        nears += sure;
      } else {
        other += sure / (like * like);
        others += sure;
      }
    }
  return Math.max(-MOST_CERTAIN, Math.min(MOST_CERTAIN, Math.log((near * others) / (other * nears))));
}

/** How many cells each lies from the other side, 1 at the border; BAND + 1 for all that lie farther than the band reaches. */
function farFromBorder(inside: Uint8Array, { width, height }: Size): Uint8Array {
  const far = new Uint8Array(inside.length).fill(BAND + 1);
  const beside = (i: number) => {
    const x = i % width;
    return [x > 0 ? i - 1 : i, x + 1 < width ? i + 1 : i, i >= width ? i - width : i, i + width < inside.length ? i + width : i]; // prettier-ignore
  };
  let rim: number[] = [];
  for (let i = 0, y = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const own = inside[i];
      const isRim =
        (x > 0 && inside[i - 1] !== own) ||
        (x + 1 < width && inside[i + 1] !== own) ||
        (y > 0 && inside[i - width] !== own) ||
        (y + 1 < height && inside[i + width] !== own);
      if (isRim) {
        far[i] = 1;
        rim.push(i);
      }
    }
  for (let d = 2; d <= BAND; d++) {
    const next: number[] = [];
    for (const i of rim)
      for (const j of beside(i))
        if (far[j] > d) {
          far[j] = d;
          next.push(j);
        }
    rim = next;
  }
  return far;
}

/** The cells nearest to the border, as wide as may be. */
function bandOf(far: Uint8Array): Int32Array {
  const counts = new Array<number>(BAND + 2).fill(0);
  for (const d of far) counts[d]++;
  let widest = 1;
  let sum = counts[1];
  while (widest < BAND && sum + counts[widest + 1] <= MOST) sum += counts[++widest];
  const out = new Int32Array(sum);
  let at = 0;
  for (let i = 0; i < far.length; i++) if (far[i] <= widest) out[at++] = i;
  return out;
}
