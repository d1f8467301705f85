// What the colours of pixels vote for: gathered in cells of 4 × 4, smoothed, brought together for the fit.

import { convolve } from "./filter";
import { channelOf, fullness } from "./full";
import { loadHalfx4 } from "./half";
import { horizontalSum, roughLog2x4 } from "./math";

/** Pixels along a cell. */
const CELL: i32 = 4;
/** Light added before logarithms of ratios are taken: noise in the dark is no change of colour. */
const LOG_FLOOR: f32 = 0.00390625;
/** Luminance added before votes are taken by luminance. */
const LUMINANCE_FLOOR: f32 = 0.004;
/** What is left of the vote of a pixel in the middle of an edge, or clipped. */
const LEAST_VOTE: f32 = 0.0001;
/** Light of a channel from which a pixel counts as clipped, its vote lost over a tenth. */
const CLIPPED: f32 = 0.9;

/**
 * log2(red / green) and log2(blue / green) of half-float planes (stride = width), each with a border of one pixel repeated
 * around: planes of stride `outStride` ≥ width + 8, whose pixel (0, 0) lies at row 1, column 4.
 */
export function colourRatios(
  red: usize, green: usize, blue: usize, width: i32, height: i32, toGreenRed: usize, toGreenBlue: usize, outStride: i32,
): void {
  const none = f32x4.splat(0), floor = f32x4.splat(LOG_FLOOR);
  for (let y = 0; y < height; y++) {
    const from = <usize>(y * width) << 1;
    const to = <usize>((y + 1) * outStride + 4) << 2;
    for (let x = 0; x < width; x += 4) {
      const at = from + (<usize>x << 1);
      const logG = roughLog2x4(f32x4.add(f32x4.pmax(loadHalfx4(green + at), none), floor));
      const logR = roughLog2x4(f32x4.add(f32x4.pmax(loadHalfx4(red + at), none), floor));
      const logB = roughLog2x4(f32x4.add(f32x4.pmax(loadHalfx4(blue + at), none), floor));
      const out = to + (<usize>x << 2);
      v128.store(toGreenRed + out, f32x4.sub(logR, logG));
      v128.store(toGreenBlue + out, f32x4.sub(logB, logG));
    }
    for (let plane = 0; plane < 2; plane++) {
      const row = (plane == 0 ? toGreenRed : toGreenBlue) + to;
      store<f32>(row - 4, load<f32>(row));
      const last = load<f32>(row + (<usize>(width - 1) << 2));
      for (let x = width; x < width + 4; x++) store<f32>(row + (<usize>x << 2), last);
    }
  }
  const bytes = <usize>outStride << 2;
  for (let plane = 0; plane < 2; plane++) {
    const top = plane == 0 ? toGreenRed : toGreenBlue;
    memory.copy(top, top + bytes, bytes);
    memory.copy(top + bytes * <usize>(height + 1), top + bytes * <usize>height, bytes);
  }
}

/** Squared slope of a plane by Sobel's operator, a pixel; `at` is the middle. */
// @ts-ignore: decorator
@inline
function squaredSlope(at: usize, bytes: usize): v128 {
  const above = at - bytes, below = at + bytes;
  const a = v128.load(above - 4), b = v128.load(above), c = v128.load(above + 4);
  const d = v128.load(at - 4), f = v128.load(at + 4);
  const g = v128.load(below - 4), h = v128.load(below), i = v128.load(below + 4);
  const two = f32x4.splat(2);
  const dx = f32x4.sub(f32x4.add(f32x4.add(c, i), f32x4.mul(two, f)), f32x4.add(f32x4.add(a, g), f32x4.mul(two, d)));
  const dy = f32x4.sub(f32x4.add(f32x4.add(g, i), f32x4.mul(two, h)), f32x4.add(f32x4.add(a, c), f32x4.mul(two, b)));
  return f32x4.mul(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.splat(0.015625));
}

/** Products summed for each target: RR, RG, RB, GG, GB, BB, R, G, B, 1. */
const PRODUCTS: i32 = 10;
const CHROMA_NODES: i32 = 37;
const GREEN_NODES: i32 = 13;
/**
 * Cells side by side that are gathered in a turn, in rooms that stay near: one long chain of work for each pixel, and stores to as many
 * planes as there are sums, would wait for each other.
 */
const RUN: i32 = 16;
const RUN_BYTES: usize = 16 * RUN;
/** Four rows each of red, green, blue and votes over squared luminance, of 16 cells. */
const pixelRoom = memory.data(16 * 256, 16);
const VOTES_AT: usize = 12 * RUN_BYTES;
/** Of each cell's four blocks eight weights of nodes, ten products and the first node, a row of 16 cells each. */
const blockRoom = memory.data(19 * 256, 16);
const PRODUCTS_AT: usize = 8 * RUN_BYTES;
const NODES_AT: usize = 18 * RUN_BYTES;
/** Sums of four targets, ten products of 16 cells. */
const sumRoom = memory.data(10 * 256, 16);
/** Of a run's cells red, green and blue, the brightest counting most, what they count, squared light, that of what is clipped: four columns each. */
const brightRoom = memory.data(6 * 256, 16);
const BRIGHT: usize = 6;
/** What dim pixels count at least among the bright. */
const LEAST_BRIGHT: f32 = 1e-6;

// @ts-ignore: decorator
@inline
function betweenNodes(x: v128, high: f32): v128 {
  return f32x4.pmin(f32x4.pmax(x, f32x4.splat(0)), f32x4.splat(high));
}

/** Where log2 of a ratio lies among 37 nodes: bent by s / (1 + 0.45·|s|), which is 1.487603 at 4.5 stops. */
// @ts-ignore: decorator
@inline
function chromaNode(stops: v128): v128 {
  const bent = f32x4.div(stops, f32x4.add(f32x4.splat(1), f32x4.mul(f32x4.splat(0.45), f32x4.abs(stops))));
  return betweenNodes(f32x4.add(f32x4.splat(18), f32x4.mul(bent, f32x4.splat(12.1))), 35.9999);
}

/** Squared slopes of colour of four pixels, in units of one at which a vote is quartered, brought to a vote of up to one, a pixel for itself being `full` of light. */
// @ts-ignore: decorator
@inline
function voteOf(slope: v128, full: v128): v128 {
  const one = f32x4.splat(1);
  const pure = f32x4.div(one, f32x4.add(one, slope));
  return f32x4.add(f32x4.mul(f32x4.sub(one, full), f32x4.mul(pure, pure)), f32x4.splat(LEAST_VOTE));
}

/** A product of the four blocks of a cell, the two upper ones first, from its columns' sums over two rows. */
// @ts-ignore: decorator
@inline
function blockSums(upper: v128, lower: v128): v128 {
  return f32x4.add(v128.shuffle<i32>(upper, lower, 0, 2, 4, 6), v128.shuffle<i32>(upper, lower, 1, 3, 5, 7));
}

/** A product of a cell: that of its two upper rows is kept, that of its two lower ones joined to it. */
// @ts-ignore: decorator
@inline
function putProduct(to: usize, value: v128, isLower: bool): void {
  v128.store(to, isLower ? blockSums(v128.load(to), value) : value);
}

/** Ten products of two rows of pixels, summed over the two: of `cells` cells. */
// @ts-ignore: decorator
@inline
function twoRows(cells: i32, isLower: bool): void {
  let from = pixelRoom + (isLower ? 2 * RUN_BYTES : 0);
  let to = blockRoom + PRODUCTS_AT;
  for (let c = 0; c < cells; c++, from += 16, to += 16) {
    const R = v128.load(from), G = v128.load(from, 4 * RUN_BYTES), B = v128.load(from, 8 * RUN_BYTES);
    const v = v128.load(from, VOTES_AT), next = from + RUN_BYTES;
    const R1 = v128.load(next), G1 = v128.load(next, 4 * RUN_BYTES), B1 = v128.load(next, 8 * RUN_BYTES);
    const v1 = v128.load(next, VOTES_AT);
    const vR = f32x4.mul(v, R), vG = f32x4.mul(v, G), vB = f32x4.mul(v, B);
    const vR1 = f32x4.mul(v1, R1), vG1 = f32x4.mul(v1, G1), vB1 = f32x4.mul(v1, B1);
    putProduct(to, f32x4.add(f32x4.mul(vR, R), f32x4.mul(vR1, R1)), isLower);
    putProduct(to + RUN_BYTES, f32x4.add(f32x4.mul(vR, G), f32x4.mul(vR1, G1)), isLower);
    putProduct(to + 2 * RUN_BYTES, f32x4.add(f32x4.mul(vR, B), f32x4.mul(vR1, B1)), isLower);
    putProduct(to + 3 * RUN_BYTES, f32x4.add(f32x4.mul(vG, G), f32x4.mul(vG1, G1)), isLower);
    putProduct(to + 4 * RUN_BYTES, f32x4.add(f32x4.mul(vG, B), f32x4.mul(vG1, B1)), isLower);
    putProduct(to + 5 * RUN_BYTES, f32x4.add(f32x4.mul(vB, B), f32x4.mul(vB1, B1)), isLower);
    putProduct(to + 6 * RUN_BYTES, f32x4.add(vR, vR1), isLower);
    putProduct(to + 7 * RUN_BYTES, f32x4.add(vG, vG1), isLower);
    putProduct(to + 8 * RUN_BYTES, f32x4.add(vB, vB1), isLower);
    putProduct(to + 9 * RUN_BYTES, f32x4.add(v, v1), isLower);
  }
}

/** Where the four blocks of each cell lie among the table's nodes: eight weights, and the first node's bytes. */
function placeBlocks(cells: i32, nodeBytes: usize, columnBytes: usize, rowBytes: usize, floor: f32): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1), leastLight = f32x4.splat(floor);
  for (let at = blockRoom; at < blockRoom + <usize>(cells << 4); at += 16) {
    const sums = at + PRODUCTS_AT + 6 * RUN_BYTES;
    // Beyond the picture there is no vote, and the colour is black.
    const inverse = f32x4.div(one, f32x4.pmax(v128.load(sums, 3 * RUN_BYTES), f32x4.splat(1e-30)));
    const R = f32x4.mul(v128.load(sums), inverse), G = f32x4.mul(v128.load(sums, RUN_BYTES), inverse);
    const B = f32x4.mul(v128.load(sums, 2 * RUN_BYTES), inverse);
    const logG = roughLog2x4(f32x4.add(f32x4.pmax(G, zero), leastLight));
    const logR = roughLog2x4(f32x4.add(f32x4.pmax(R, zero), leastLight));
    const logB = roughLog2x4(f32x4.add(f32x4.pmax(B, zero), leastLight));
    const i = chromaNode(f32x4.sub(logR, logG)), j = chromaNode(f32x4.sub(logB, logG));
    const k = betweenNodes(f32x4.add(logG, f32x4.splat(11)), 11.9999);
    const ii = i32x4.trunc_sat_f32x4_s(i), jj = i32x4.trunc_sat_f32x4_s(j), kk = i32x4.trunc_sat_f32x4_s(k);
    const fi = f32x4.sub(i, f32x4.convert_i32x4_s(ii)), fj = f32x4.sub(j, f32x4.convert_i32x4_s(jj));
    const fk = f32x4.sub(k, f32x4.convert_i32x4_s(kk));
    const node = i32x4.add(
      i32x4.add(i32x4.mul(ii, i32x4.splat(<i32>rowBytes)), i32x4.mul(jj, i32x4.splat(<i32>columnBytes))),
      i32x4.mul(kk, i32x4.splat(<i32>nodeBytes)),
    );
    const gi = f32x4.sub(one, fi), gj = f32x4.sub(one, fj), gk = f32x4.sub(one, fk);
    const w00 = f32x4.mul(gi, gj), w01 = f32x4.mul(gi, fj), w10 = f32x4.mul(fi, gj), w11 = f32x4.mul(fi, fj);
    v128.store(at, f32x4.mul(w00, gk));
    v128.store(at, f32x4.mul(w00, fk), RUN_BYTES);
    v128.store(at, f32x4.mul(w01, gk), 2 * RUN_BYTES);
    v128.store(at, f32x4.mul(w01, fk), 3 * RUN_BYTES);
    v128.store(at, f32x4.mul(w10, gk), 4 * RUN_BYTES);
    v128.store(at, f32x4.mul(w10, fk), 5 * RUN_BYTES);
    v128.store(at, f32x4.mul(w11, gk), 6 * RUN_BYTES);
    v128.store(at, f32x4.mul(w11, fk), 7 * RUN_BYTES);
    v128.store(at, node, NODES_AT);
  }
}

/** Sums of four targets over the blocks of each cell, ten products of `RUN` cells; `table` begins at the first target. */
function sumTargets(cells: i32, table: usize, nodeBytes: usize, columnBytes: usize, rowBytes: usize): void {
  const zero = f32x4.splat(0);
  for (let c = 0; c < cells; c++) {
    let s0 = zero, s1 = zero, s2 = zero, s3 = zero, s4 = zero, s5 = zero, s6 = zero, s7 = zero, s8 = zero, s9 = zero;
    const first = blockRoom + <usize>(c << 4);
    for (let at = first; at < first + 16; at += 4) {
      const node = table + <usize>load<i32>(at, NODES_AT);
      let gain = f32x4.mul(v128.load32_splat(at), v128.load(node));
      gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, RUN_BYTES), v128.load(node + nodeBytes)));
      const next = node + columnBytes;
      gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 2 * RUN_BYTES), v128.load(next)));
      gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 3 * RUN_BYTES), v128.load(next + nodeBytes)));
      const far = node + rowBytes;
      gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 4 * RUN_BYTES), v128.load(far)));
      gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 5 * RUN_BYTES), v128.load(far + nodeBytes)));
      const last = far + columnBytes;
      gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 6 * RUN_BYTES), v128.load(last)));
      gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 7 * RUN_BYTES), v128.load(last + nodeBytes)));
      s0 = f32x4.add(s0, f32x4.mul(gain, v128.load32_splat(at, 8 * RUN_BYTES)));
      s1 = f32x4.add(s1, f32x4.mul(gain, v128.load32_splat(at, 9 * RUN_BYTES)));
      s2 = f32x4.add(s2, f32x4.mul(gain, v128.load32_splat(at, 10 * RUN_BYTES)));
      s3 = f32x4.add(s3, f32x4.mul(gain, v128.load32_splat(at, 11 * RUN_BYTES)));
      s4 = f32x4.add(s4, f32x4.mul(gain, v128.load32_splat(at, 12 * RUN_BYTES)));
      s5 = f32x4.add(s5, f32x4.mul(gain, v128.load32_splat(at, 13 * RUN_BYTES)));
      s6 = f32x4.add(s6, f32x4.mul(gain, v128.load32_splat(at, 14 * RUN_BYTES)));
      s7 = f32x4.add(s7, f32x4.mul(gain, v128.load32_splat(at, 15 * RUN_BYTES)));
      s8 = f32x4.add(s8, f32x4.mul(gain, v128.load32_splat(at, 16 * RUN_BYTES)));
      s9 = f32x4.add(s9, f32x4.mul(gain, v128.load32_splat(at, 17 * RUN_BYTES)));
    }
    const to = sumRoom + <usize>(c << 4);
    v128.store(to, s0);
    v128.store(to, s1, RUN_BYTES);
    v128.store(to, s2, 2 * RUN_BYTES);
    v128.store(to, s3, 3 * RUN_BYTES);
    v128.store(to, s4, 4 * RUN_BYTES);
    v128.store(to, s5, 5 * RUN_BYTES);
    v128.store(to, s6, 6 * RUN_BYTES);
    v128.store(to, s7, 7 * RUN_BYTES);
    v128.store(to, s8, 8 * RUN_BYTES);
    v128.store(to, s9, 9 * RUN_BYTES);
  }
}

/** Sums of four targets into the planes of each, four cells at a time; of `count` targets. */
function putSums(cells: i32, out: usize, planeBytes: usize, count: i32): void {
  const targetBytes = <usize>PRODUCTS * planeBytes;
  for (let k = 0; k < PRODUCTS; k++) {
    const from = sumRoom + <usize>k * RUN_BYTES;
    for (let c: usize = 0; c < <usize>(cells << 4); c += 64) {
      const a = v128.load(from + c), b = v128.load(from + c, 16), d = v128.load(from + c, 32), e = v128.load(from + c, 48);
      const ab = v128.shuffle<i32>(a, b, 0, 4, 1, 5), de = v128.shuffle<i32>(d, e, 0, 4, 1, 5);
      const to = out + <usize>k * planeBytes + (c >> 2);
      v128.store(to, v128.shuffle<i64>(ab, de, 0, 2));
      if (count > 1) v128.store(to + targetBytes, v128.shuffle<i64>(ab, de, 1, 3));
      if (count <= 2) continue;
      const upper = v128.shuffle<i32>(a, b, 2, 6, 3, 7), lower = v128.shuffle<i32>(d, e, 2, 6, 3, 7);
      v128.store(to + 2 * targetBytes, v128.shuffle<i64>(upper, lower, 0, 2));
      if (count > 3) v128.store(to + 3 * targetBytes, v128.shuffle<i64>(upper, lower, 1, 3));
    }
  }
}

/**
 * Adds up what pixels count among the bright, the purer and (by the eighth power) the fuller the more, those that are full not at all; and how much
 * of the light is clipped.
 */
// @ts-ignore: decorator
@inline
function addBright(to: usize, isFirst: bool, R: v128, G: v128, B: v128, most: v128, pure: v128, clipped: v128): void {
  const squared = f32x4.mul(most, most), fourth = f32x4.mul(squared, squared);
  const room = f32x4.sub(f32x4.splat(1.0001), fullness(most));
  const bright = f32x4.mul(f32x4.pmax(f32x4.mul(fourth, fourth), f32x4.splat(LEAST_BRIGHT)), room);
  const counts = f32x4.mul(pure, bright), ofClipped = f32x4.mul(squared, clipped);
  const r = f32x4.mul(counts, R), g = f32x4.mul(counts, G), b = f32x4.mul(counts, B);
  v128.store(to, isFirst ? r : f32x4.add(r, v128.load(to)));
  v128.store(to, isFirst ? g : f32x4.add(g, v128.load(to, RUN_BYTES)), RUN_BYTES);
  v128.store(to, isFirst ? b : f32x4.add(b, v128.load(to, 2 * RUN_BYTES)), 2 * RUN_BYTES);
  v128.store(to, isFirst ? counts : f32x4.add(counts, v128.load(to, 3 * RUN_BYTES)), 3 * RUN_BYTES);
  v128.store(to, isFirst ? squared : f32x4.add(squared, v128.load(to, 4 * RUN_BYTES)), 4 * RUN_BYTES);
  v128.store(to, isFirst ? ofClipped : f32x4.add(ofClipped, v128.load(to, 5 * RUN_BYTES)), 5 * RUN_BYTES);
}

/** Rows of a plane's halves in cells from (left, top) on as floats in `pixelRoom`, at `to`; black beyond the picture. */
// @ts-ignore: decorator
@inline
function takePixels(plane: usize, width: i32, rows: i32, left: i32, top: i32, cells: i32, to: usize): void {
  const lanes = i32x4(0, 1, 2, 3);
  for (let row = 0; row < CELL; row++) {
    const into = to + <usize>row * RUN_BYTES;
    if (row >= rows) memory.fill(into, 0, RUN_BYTES);
    else
      for (let c = 0; c < cells; c++) {
        const x = left + (c << 2);
        const inside = i32x4.lt_s(i32x4.add(i32x4.splat(x), lanes), i32x4.splat(width));
        const at = plane + (<usize>((top + row) * width + x) << 1);
        v128.store(into + <usize>(c << 4), v128.and(loadHalfx4(at), inside));
      }
  }
}

/**
 * Votes of a tile's pixels, summed over cells of 4 × 4. For each of `targets` gains of colours, looked up
 * trilinearly in a table, ten planes `planeBytes` apart, of stride `cellStride`: Σ v · gain · (RR, RG, RB, GG, GB, BB, R, G, B, 1), where v
 * is the pixel's vote over its squared luminance. A vote is small where colour changes from pixel to pixel, since colours
 * mix there, and where the pixel is clipped: a channel of the capture is full, or luminance is white. Blocks of 2 × 2 pixels have the gain of the mean of their colours, by v.
 * Six planes more, at `bright`, tell what is about to be full, since what is says nothing of its colour: red, green and blue, the brightest
 * counting most, how much counted; squared light of the fullest channel, and that of what is clipped.
 * Also, for four pixels of each cell, at `samples`: red, green, blue over luminance and the vote (−1 of a clipped pixel), four
 * values each, 64 bytes a cell and `cellStride` cells a row.
 * @param table - nodes over log2(red / green), log2(blue / green) and log2 green, each channel with `floor` added, as in
 * `weigh/colour-lattice.ts`; `nodeBytes` a node, a multiple of 16.
 * @param cellStride - a multiple of four: cells are written by fours.
 * @param toGreenRed - and toGreenBlue: ratios as from `colourRatios`. (r, g, b) are luminance's weights.
 * @param sensor - nine values, by rows: to the channels of the capture, each of which is full at 1.
 * @param pureStops - change of colour, in stops of a ratio a pixel, at which a pixel's vote is quartered.
 */
export function gatherVotes(
  red: usize, green: usize, blue: usize, width: i32, height: i32, table: usize, nodeBytes: usize, targets: i32, floor: f32,
  toGreenRed: usize, toGreenBlue: usize, ratioStride: i32, out: usize, planeBytes: usize, bright: usize, samples: usize,
  cellStride: i32, sensor: usize, pureStops: f32, r: f32, g: f32, b: f32,
): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b), uneven = f32x4.splat(1 / (pureStops * pureStops));
  const zero = f32x4.splat(0), one = f32x4.splat(1), lanes = i32x4(0, 1, 2, 3);
  const ratioBytes = <usize>ratioStride << 2;
  const columnBytes = nodeBytes * GREEN_NODES, rowBytes = columnBytes * CHROMA_NODES;
  for (let top = 0; top < height; top += CELL) {
    const rows = min(CELL, height - top);
    for (let left = 0; left < width; left += CELL * RUN) {
      const cells = min(RUN, (width - left + 3) >> 2);
      const first = <usize>((top >> 2) * cellStride + (left >> 2));
      takePixels(red, width, rows, left, top, cells, pixelRoom);
      takePixels(green, width, rows, left, top, cells, pixelRoom + 4 * RUN_BYTES);
      takePixels(blue, width, rows, left, top, cells, pixelRoom + 8 * RUN_BYTES);
      if (rows < CELL) memory.fill(pixelRoom + VOTES_AT, 0, 4 * RUN_BYTES);
      for (let row = 0; row < rows; row++) {
        let place = <usize>((top + row + 1) * ratioStride + left + 4) << 2;
        let at = pixelRoom + <usize>row * RUN_BYTES;
        let sample = samples + (first << 6);
        for (let c = 0; c < cells; c++, place += 16, at += 16, sample += 64) {
          const R = v128.load(at), G = v128.load(at, 4 * RUN_BYTES), B = v128.load(at, 8 * RUN_BYTES);
          const slope = f32x4.add(
            squaredSlope(toGreenRed + place, ratioBytes),
            squaredSlope(toGreenBlue + place, ratioBytes),
          );
          const cR = channelOf(sensor, R, G, B), cG = channelOf(sensor + 12, R, G, B), cB = channelOf(sensor + 24, R, G, B);
          const luminance = f32x4.add(f32x4.add(f32x4.mul(wr, R), f32x4.mul(wg, G)), f32x4.mul(wb, B));
          // What is beyond white was taken away as grey, from channels that were full too.
          const most = f32x4.pmax(f32x4.pmax(f32x4.pmax(cR, cG), cB), luminance);
          const over = f32x4.mul(f32x4.sub(most, f32x4.splat(CLIPPED)), f32x4.splat(10));
          const full = f32x4.pmin(one, f32x4.pmax(zero, over));
          const inside = i32x4.lt_s(i32x4.add(i32x4.splat(left + (c << 2)), lanes), i32x4.splat(width));
          const vote = v128.and(voteOf(f32x4.mul(slope, uneven), full), inside);
          addBright(brightRoom + <usize>(c << 4), row == 0, R, G, B, most, vote, full);
          const inverse = f32x4.div(one, f32x4.add(f32x4.pmax(luminance, zero), f32x4.splat(LUMINANCE_FLOOR)));
          v128.store(at, f32x4.mul(vote, f32x4.mul(inverse, inverse)), VOTES_AT);
          if (row & 1) continue;
          // A clipped pixel's colour says nothing of what it is mixed of.
          const telling = v128.bitselect(f32x4.splat(-1), vote, f32x4.gt(full, f32x4.splat(0.5)));
          const sR = f32x4.mul(R, inverse), sG = f32x4.mul(G, inverse), sB = f32x4.mul(B, inverse);
          if (row == 0) {
            v128.store(sample, sR);
            v128.store(sample, sG, 16);
            v128.store(sample, sB, 32);
            v128.store(sample, telling, 48);
          } else {
            v128.store(sample, v128.shuffle<i32>(v128.load(sample), sR, 0, 2, 5, 7));
            v128.store(sample, v128.shuffle<i32>(v128.load(sample, 16), sG, 0, 2, 5, 7), 16);
            v128.store(sample, v128.shuffle<i32>(v128.load(sample, 32), sB, 0, 2, 5, 7), 32);
            v128.store(sample, v128.shuffle<i32>(v128.load(sample, 48), telling, 0, 2, 5, 7), 48);
          }
        }
      }
      for (let plane: usize = 0; plane < BRIGHT; plane++)
        for (let c = 0; c < cells; c++) {
          const four = v128.load(brightRoom + plane * RUN_BYTES + <usize>(c << 4));
          store<f32>(bright + plane * planeBytes + ((first + <usize>c) << 2), horizontalSum(four));
        }
      twoRows(cells, false);
      twoRows(cells, true);
      placeBlocks(cells, nodeBytes, columnBytes, rowBytes, floor);
      for (let from = 0; from < targets; from += 4) {
        sumTargets(cells, table + (<usize>from << 2), nodeBytes, columnBytes, rowBytes);
        putSums(cells, out + (first << 2) + planeBytes * <usize>(PRODUCTS * from), planeBytes, targets - from);
      }
    }
  }
}

/**
 * Planes of `planeBytes` each, `stride` values a row of which `width` count, smoothed by a window of `taps` weights; beyond the picture there is nothing.
 * Brought together at the same time, from place `first` on among `total`: four values of every plane after each other, so that a fit reads in one run.
 * Of rows from `top` to before `bottom`; some tens of planes in a call write whole lines of the cache side by side while the rows that they read stay near.
 * @param room - a row of `stride` + `taps` + 19 values, and one of `stride` values for each plane.
 */
export function smoothVotes(
  planes: usize, planeBytes: usize, count: i32, stride: i32, width: i32, height: i32, top: i32, bottom: i32, weights: usize, taps: i32,
  out: usize, first: i32, total: i32, room: usize,
): void {
  const rowBytes = <usize>stride << 2, reach = taps >> 1;
  const padded = room, smooth = room + (<usize>((stride + taps + 19) & ~3) << 2);
  const inner = padded + (<usize>reach << 2);
  memory.fill(padded, 0, smooth - padded);
  for (let y = top; y < bottom; y++) {
    const above = max(0, y - reach), below = min(height - 1, y + reach);
    const skipped = weights + (<usize>(above - y + reach) << 2);
    for (let k = 0; k < count; k++) {
      convolve(planes + <usize>k * planeBytes + <usize>above * rowBytes, rowBytes, inner, stride, skipped, below - above + 1);
      for (let x = width; x < stride; x++) store<f32>(inner + (<usize>x << 2), 0);
      convolve(padded, 4, smooth + <usize>k * rowBytes, stride, weights, taps);
    }
    let row = out + (<usize>(y * stride * total + (first << 2)) << 2);
    for (let x: usize = 0; x < rowBytes; x += 16, row += <usize>total << 4) {
      let from = smooth + x;
      for (let k = 0; k < count; k++, from += rowBytes) v128.store(row + (<usize>k << 4), v128.load(from));
    }
  }
}
