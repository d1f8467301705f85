// Light as a local linear function of the picture's own colours: votes of pixels, gathered in cells of 4 × 4 and fitted.

import { loadHalfx4 } from "./half";
import { roughLog2x4, sum3 } from "./math";
import { betweenRows, stretchRow } from "./stretch";

/** Pixels along a cell. */
const CELL: i32 = 4;
/** Light added before logarithms of ratios are taken: noise in the dark is no change of colour. */
const LOG_FLOOR: f32 = 0.00390625;
/** Luminance added before votes are taken by luminance. */
const LUMINANCE_FLOOR: f32 = 0.004;
/** Change of colour, in stops of a ratio a pixel, at which a pixel's vote is quartered. */
const PURE_STOPS: f32 = 0.012;
/** What is left of the vote of a pixel in the middle of an edge, or clipped. */
const LEAST_VOTE: f32 = 0.0001;
/** Light from which a pixel counts as clipped, its vote lost over a tenth. */
const CLIPPED: f32 = 0.9;

// @ts-ignore: decorator
@inline
function horizontalSum(v: v128): f32 {
  return (
    f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3))
  );
}

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
/** Of a cell's sixteen pixels, a row each: eight weights of nodes, ten products, the first node. */
const cellRoom = memory.data(64 * 19, 16);

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

// @ts-ignore: decorator
@inline
function putRow(row: i32, at: usize, value: v128): void {
  v128.store(cellRoom + <usize>(row << 6) + at, value);
}

/**
 * Votes of a tile's pixels, summed over cells of 4 × 4. For each of `targets` gains of a pixel's colour, looked up
 * trilinearly in a table, ten planes `planeBytes` apart, of stride `cellStride`: Σ v · gain · (RR, RG, RB, GG, GB, BB, R, G, B, 1), where v
 * is the pixel's vote over its squared luminance. A vote is small where colour changes from pixel to pixel, since colours
 * mix there, and where the pixel is clipped.
 * Also, for four pixels of each cell, at `samples`: red, green, blue over luminance and the vote (−1 of a clipped pixel), four
 * values each, 64 bytes a cell and `cellStride` cells a row.
 * @param table - nodes over log2(red / green), log2(blue / green) and log2 green, each channel with `floor` added, as in
 * `weigh/colour-lattice.ts`; `nodeBytes` a node, a multiple of 16.
 * @param toGreenRed - and toGreenBlue: ratios as from `colourRatios`. (r, g, b) are luminance's weights.
 */
export function gatherVotes(
  red: usize, green: usize, blue: usize, width: i32, height: i32, table: usize, nodeBytes: usize, targets: i32, floor: f32,
  toGreenRed: usize, toGreenBlue: usize, ratioStride: i32, out: usize, planeBytes: usize, samples: usize,
  cellStride: i32, r: f32, g: f32, b: f32,
): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b), leastLight = f32x4.splat(floor);
  const zero = f32x4.splat(0), one = f32x4.splat(1), lanes = i32x4(0, 1, 2, 3);
  const ratioBytes = <usize>ratioStride << 2;
  const columnBytes = nodeBytes * GREEN_NODES, rowBytes = columnBytes * CHROMA_NODES;
  for (let top = 0; top < height; top += CELL) {
    for (let x = 0; x < width; x += CELL) {
      const cell = <usize>((top >> 2) * cellStride + (x >> 2));
      const sample = samples + (cell << 6);
      const inside = i32x4.lt_s(i32x4.add(i32x4.splat(x), lanes), i32x4.splat(width));
      const rows = min(CELL, height - top);
      for (let row = 0; row < rows; row++) {
        const y = top + row;
        const at = <usize>(y * width + x) << 1;
        const R = v128.and(loadHalfx4(red + at), inside);
        const G = v128.and(loadHalfx4(green + at), inside);
        const B = v128.and(loadHalfx4(blue + at), inside);
        const place = <usize>((y + 1) * ratioStride + x + 4) << 2;
        const slope = f32x4.add(
          squaredSlope(toGreenRed + place, ratioBytes),
          squaredSlope(toGreenBlue + place, ratioBytes),
        );
        const most = f32x4.pmax(f32x4.pmax(R, G), B);
        let full = f32x4.mul(f32x4.sub(most, f32x4.splat(CLIPPED)), f32x4.splat(10));
        full = f32x4.pmin(one, f32x4.pmax(zero, full));
        const pure = f32x4.div(one, f32x4.add(one, f32x4.mul(slope, f32x4.splat(1 / (PURE_STOPS * PURE_STOPS)))));
        let vote = f32x4.mul(f32x4.sub(one, full), f32x4.mul(pure, pure));
        vote = v128.and(f32x4.add(vote, f32x4.splat(LEAST_VOTE)), inside);
        const luminance = f32x4.add(f32x4.add(f32x4.mul(wr, R), f32x4.mul(wg, G)), f32x4.mul(wb, B));
        const inverse = f32x4.div(one, f32x4.add(f32x4.pmax(luminance, zero), f32x4.splat(LUMINANCE_FLOOR)));
        const v = f32x4.mul(vote, f32x4.mul(inverse, inverse));
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
        const to = <usize>(row << 4);
        const gi = f32x4.sub(one, fi), gj = f32x4.sub(one, fj), gk = f32x4.sub(one, fk);
        const w00 = f32x4.mul(gi, gj), w01 = f32x4.mul(gi, fj), w10 = f32x4.mul(fi, gj), w11 = f32x4.mul(fi, fj);
        putRow(0, to, f32x4.mul(w00, gk));
        putRow(1, to, f32x4.mul(w00, fk));
        putRow(2, to, f32x4.mul(w01, gk));
        putRow(3, to, f32x4.mul(w01, fk));
        putRow(4, to, f32x4.mul(w10, gk));
        putRow(5, to, f32x4.mul(w10, fk));
        putRow(6, to, f32x4.mul(w11, gk));
        putRow(7, to, f32x4.mul(w11, fk));
        const vR = f32x4.mul(v, R), vG = f32x4.mul(v, G), vB = f32x4.mul(v, B);
        putRow(8, to, f32x4.mul(vR, R));
        putRow(9, to, f32x4.mul(vR, G));
        putRow(10, to, f32x4.mul(vR, B));
        putRow(11, to, f32x4.mul(vG, G));
        putRow(12, to, f32x4.mul(vG, B));
        putRow(13, to, f32x4.mul(vB, B));
        putRow(14, to, vR);
        putRow(15, to, vG);
        putRow(16, to, vB);
        putRow(17, to, v);
        putRow(18, to, node);
        // A clipped pixel's colour says nothing of what it is mixed of.
        const telling = v128.bitselect(f32x4.splat(-1), vote, f32x4.gt(full, f32x4.splat(0.5)));
        if (row == 0) {
          v128.store(sample, f32x4.mul(R, inverse));
          v128.store(sample, f32x4.mul(G, inverse), 16);
          v128.store(sample, f32x4.mul(B, inverse), 32);
          v128.store(sample, telling, 48);
        } else if (row == 2) {
          v128.store(sample, v128.shuffle<i32>(v128.load(sample), f32x4.mul(R, inverse), 0, 2, 5, 7));
          v128.store(sample, v128.shuffle<i32>(v128.load(sample, 16), f32x4.mul(G, inverse), 0, 2, 5, 7), 16);
          v128.store(sample, v128.shuffle<i32>(v128.load(sample, 32), f32x4.mul(B, inverse), 0, 2, 5, 7), 32);
          v128.store(sample, v128.shuffle<i32>(v128.load(sample, 48), telling, 0, 2, 5, 7), 48);
        }
      }
      const pixels = rows << 2;
      for (let from = 0; from < targets; from += 4) {
        let s0 = zero, s1 = zero, s2 = zero, s3 = zero, s4 = zero, s5 = zero, s6 = zero, s7 = zero, s8 = zero, s9 = zero;
        for (let p = 0; p < pixels; p++) {
          const at = cellRoom + (<usize>p << 2);
          const node = table + <usize>load<i32>(at, 18 * 64) + (<usize>from << 2);
          let gain = f32x4.mul(v128.load32_splat(at), v128.load(node));
          gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 64), v128.load(node + nodeBytes)));
          const next = node + columnBytes;
          gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 128), v128.load(next)));
          gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 192), v128.load(next + nodeBytes)));
          const far = node + rowBytes;
          gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 256), v128.load(far)));
          gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 320), v128.load(far + nodeBytes)));
          const last = far + columnBytes;
          gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 384), v128.load(last)));
          gain = f32x4.add(gain, f32x4.mul(v128.load32_splat(at, 448), v128.load(last + nodeBytes)));
          s0 = f32x4.add(s0, f32x4.mul(gain, v128.load32_splat(at, 512)));
          s1 = f32x4.add(s1, f32x4.mul(gain, v128.load32_splat(at, 576)));
          s2 = f32x4.add(s2, f32x4.mul(gain, v128.load32_splat(at, 640)));
          s3 = f32x4.add(s3, f32x4.mul(gain, v128.load32_splat(at, 704)));
          s4 = f32x4.add(s4, f32x4.mul(gain, v128.load32_splat(at, 768)));
          s5 = f32x4.add(s5, f32x4.mul(gain, v128.load32_splat(at, 832)));
          s6 = f32x4.add(s6, f32x4.mul(gain, v128.load32_splat(at, 896)));
          s7 = f32x4.add(s7, f32x4.mul(gain, v128.load32_splat(at, 960)));
          s8 = f32x4.add(s8, f32x4.mul(gain, v128.load32_splat(at, 1024)));
          s9 = f32x4.add(s9, f32x4.mul(gain, v128.load32_splat(at, 1088)));
        }
        const to = out + (cell << 2) + planeBytes * <usize>(PRODUCTS * from);
        const few = targets - from;
        putTargets(to, planeBytes, few, s0);
        putTargets(to + planeBytes, planeBytes, few, s1);
        putTargets(to + 2 * planeBytes, planeBytes, few, s2);
        putTargets(to + 3 * planeBytes, planeBytes, few, s3);
        putTargets(to + 4 * planeBytes, planeBytes, few, s4);
        putTargets(to + 5 * planeBytes, planeBytes, few, s5);
        putTargets(to + 6 * planeBytes, planeBytes, few, s6);
        putTargets(to + 7 * planeBytes, planeBytes, few, s7);
        putTargets(to + 8 * planeBytes, planeBytes, few, s8);
        putTargets(to + 9 * planeBytes, planeBytes, few, s9);
      }
    }
  }
}

/** One product of four targets into their planes. */
// @ts-ignore: decorator
@inline
function putTargets(to: usize, planeBytes: usize, count: i32, sums: v128): void {
  store<f32>(to, f32x4.extract_lane(sums, 0));
  if (count > 1) store<f32>(to + PRODUCTS * planeBytes, f32x4.extract_lane(sums, 1));
  if (count > 2) store<f32>(to + 2 * PRODUCTS * planeBytes, f32x4.extract_lane(sums, 2));
  if (count > 3) store<f32>(to + 3 * PRODUCTS * planeBytes, f32x4.extract_lane(sums, 3));
}

/** How readily a mixture is told as one with grey, against one with a family: few things are grey, many mixtures are. */
const NEUTRAL_COUNTS: f32 = 0.1;
/** Squared distance of colours (over their luminance) within which they count as one. */
const SAME_COLOUR: f32 = 0.001;

/**
 * Which of `count` colours the pixels of each cell are mixed with: a pixel's colour is told as a mixture of what is pure about it
 * and one colour of the palette, the better the nearer the line between the two. For each colour two planes `planeBytes` apart:
 * the share it has in pixels that are mixed, and in those that are pure.
 * @param votes - the ten planes of a target whose gain is 1, smoothed; of them (R, G, B) say what is pure about a cell.
 * @param palette - three values a colour, luminance 1.
 * @param room - 32 bytes a colour.
 */
export function gatherMixtures(
  votes: usize, votesBytes: usize, votesStride: i32, samples: usize, cellStride: i32, width: i32, height: i32,
  palette: usize, count: i32, out: usize, planeBytes: usize, outStride: i32, room: usize, r: f32, g: f32, b: f32,
): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = votes + 6 * votesBytes + (<usize>(y * votesStride + x) << 2);
      const br = load<f32>(at), bg = load<f32>(at + votesBytes), bb = load<f32>(at + 2 * votesBytes);
      const scale: f32 = 1 / max<f32>(r * br + g * bg + b * bb, 1e-12);
      const pureR = f32x4.splat(br * scale), pureG = f32x4.splat(bg * scale), pureB = f32x4.splat(bb * scale);
      const sample = samples + (<usize>(y * cellStride + x) << 6);
      const dR = f32x4.sub(v128.load(sample), pureR);
      const dG = f32x4.sub(v128.load(sample, 16), pureG);
      const dB = f32x4.sub(v128.load(sample, 32), pureB);
      const told = v128.load(sample, 48), vote = f32x4.pmax(zero, told);
      let sum = f32x4.splat(1e-12);
      for (let k = 0; k < count; k++) {
        const colour = palette + <usize>(12 * k);
        const eR = f32x4.sub(f32x4.splat(load<f32>(colour)), pureR);
        const eG = f32x4.sub(f32x4.splat(load<f32>(colour, 4)), pureG);
        const eB = f32x4.sub(f32x4.splat(load<f32>(colour, 8)), pureB);
        const length = f32x4.add(f32x4.add(f32x4.mul(eR, eR), f32x4.mul(eG, eG)), f32x4.mul(eB, eB));
        const along = f32x4.add(f32x4.add(f32x4.mul(dR, eR), f32x4.mul(dG, eG)), f32x4.mul(dB, eB));
        let share = f32x4.div(along, f32x4.add(length, f32x4.splat(SAME_COLOUR)));
        share = f32x4.pmin(one, f32x4.pmax(zero, share));
        const mR = f32x4.sub(dR, f32x4.mul(share, eR));
        const mG = f32x4.sub(dG, f32x4.mul(share, eG));
        const mB = f32x4.sub(dB, f32x4.mul(share, eB));
        const miss = f32x4.add(f32x4.add(f32x4.mul(mR, mR), f32x4.mul(mG, mG)), f32x4.mul(mB, mB));
        const near = f32x4.div(f32x4.splat(SAME_COLOUR), f32x4.add(miss, f32x4.splat(SAME_COLOUR)));
        const weight = f32x4.mul(f32x4.mul(near, near), k == count - 1 ? f32x4.splat(NEUTRAL_COUNTS) : one);
        sum = f32x4.add(sum, weight);
        v128.store(room + <usize>(32 * k), f32x4.mul(weight, share));
      }
      const inverse = v128.and(f32x4.div(one, sum), f32x4.ge(told, zero));
      let to = out + (<usize>(y * outStride + x) << 2);
      for (let k = 0; k < count; k++) {
        const share = f32x4.mul(v128.load(room + <usize>(32 * k)), inverse);
        const pure = f32x4.mul(share, f32x4.pmin(vote, one));
        store<f32>(to, horizontalSum(f32x4.sub(share, pure)));
        store<f32>(to + planeBytes, horizontalSum(pure));
        to += 2 * planeBytes;
      }
    }
  }
}

/** Planes of `planeBytes` each, brought together: four values of every plane after each other, so that a fit reads in one run. */
export function interleave(planes: usize, planeBytes: usize, count: i32, out: usize): void {
  // Some planes at a time, so that their pages stay at hand.
  for (let from = 0; from < count; from += 16) {
    const end = min(from + 16, count);
    for (let at: usize = 0; at < planeBytes; at += 16) {
      const to = out + at * <usize>count;
      for (let k = from; k < end; k++) v128.store(to + (<usize>k << 4), v128.load(planes + <usize>k * planeBytes + at));
    }
  }
}

/** How strongly the fit is held to the mean gain, against what the votes say. */
const RIDGE: f32 = 3e-4;
/** How freely the fit takes an offset, against slopes. */
const OFFSET: f32 = 0.3;
/** What a colour of the palette that pixels are mixed with counts against a pure pixel, for the four samples of a cell. */
const PALETTE_VOTE: f32 = 2;
/** How far pure pixels of a colour make its entry in the palette needless. */
const SUPPLY: f32 = 20;

/**
 * Fits light x · (R, G, B) + offset to the votes of each cell by least squares: the light of a pixel is its light under the
 * weights (wr, wg, wb) times its gain, Σ gains[k] · target k. A ridge holds the fit to the weights times the mean gain. Colours of the palette
 * that pixels here are mixed with, but of which no pure ones are near, vote with the light that they are to have. Four planes out.
 * @param values - smoothed planes, interleaved: ten of votes a target, the last target's gain being 1 everywhere, which gives
 * the plain sums; then two of mixtures for each colour of the palette. `stride` values a row.
 * @param gains - one a target but for the last.
 * @param lights - light of each colour of the palette at luminance 1.
 */
export function fitVotes(
  values: usize, gains: usize, targets: i32, stride: i32, width: i32, height: i32, palette: usize, lights: usize, count: i32,
  out0: usize, out1: usize, out2: usize, out3: usize, outStride: i32, wr: f32, wg: f32, wb: f32, r: f32, g: f32, b: f32,
): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1), tiny = f32x4.splat(1e-30);
  const ur = f32x4.splat(wr), ug = f32x4.splat(wg), ub = f32x4.splat(wb);
  const lr = f32x4.splat(r), lg = f32x4.splat(g), lb = f32x4.splat(b);
  const offset = f32x4.splat(OFFSET), squaredOffset = f32x4.splat(OFFSET * OFFSET);
  const planes = <usize>(10 * targets + 2 * count);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      // Sums of votes times gain, and plain ones.
      let prr = zero, prg = zero, prb = zero, pgg = zero, pgb = zero, pbb = zero, pr = zero, pg = zero, pb = zero;
      let at = values + <usize>(y * stride + x) * planes * 4;
      for (let k = 0; k < targets - 1; k++) {
        const gain = v128.load32_splat(gains + (<usize>k << 2));
        prr = f32x4.add(prr, f32x4.mul(gain, v128.load(at)));
        prg = f32x4.add(prg, f32x4.mul(gain, v128.load(at, 16)));
        prb = f32x4.add(prb, f32x4.mul(gain, v128.load(at, 32)));
        pgg = f32x4.add(pgg, f32x4.mul(gain, v128.load(at, 48)));
        pgb = f32x4.add(pgb, f32x4.mul(gain, v128.load(at, 64)));
        pbb = f32x4.add(pbb, f32x4.mul(gain, v128.load(at, 80)));
        pr = f32x4.add(pr, f32x4.mul(gain, v128.load(at, 96)));
        pg = f32x4.add(pg, f32x4.mul(gain, v128.load(at, 112)));
        pb = f32x4.add(pb, f32x4.mul(gain, v128.load(at, 128)));
        at += 160;
      }
      let rr = v128.load(at), rg = v128.load(at, 16), rb = v128.load(at, 32);
      let gg = v128.load(at, 48), gb = v128.load(at, 64), bb = v128.load(at, 80);
      let sr = v128.load(at, 96), sg = v128.load(at, 112), sb = v128.load(at, 128);
      let s1 = v128.load(at, 144);
      const mean = f32x4.pmax(
        f32x4.splat(1e-6),
        f32x4.div(sum3(lr, sr, lg, sg, lb, sb), f32x4.pmax(s1, tiny)),
      );
      const gained = quadratic(lr, lg, lb, prr, prg, prb, pgg, pgb, pbb);
      const plain = quadratic(lr, lg, lb, rr, rg, rb, gg, gb, bb);
      const gain = f32x4.div(gained, f32x4.pmax(plain, tiny));
      const unit = f32x4.mul(offset, mean);
      let tr = sum3(ur, prr, ug, prg, ub, prb);
      let tg = sum3(ur, prg, ug, pgg, ub, pgb);
      let tb = sum3(ur, prb, ug, pgb, ub, pbb);
      let st = f32x4.mul(unit, sum3(ur, pr, ug, pg, ub, pb));
      sr = f32x4.mul(sr, unit); sg = f32x4.mul(sg, unit); sb = f32x4.mul(sb, unit);
      s1 = f32x4.mul(s1, f32x4.mul(unit, unit));
      let mixed = at + 160;
      for (let k = 0; k < count; k++) {
        const demand = v128.load(mixed), supply = v128.load(mixed, 16);
        mixed += 32;
        const needed = f32x4.add(f32x4.add(demand, f32x4.mul(f32x4.splat(SUPPLY), supply)), f32x4.splat(1e-9));
        const v = f32x4.div(f32x4.mul(f32x4.splat(PALETTE_VOTE), f32x4.mul(demand, demand)), needed);
        const colour = palette + <usize>(12 * k);
        const R = v128.load32_splat(colour), G = v128.load32_splat(colour, 4), B = v128.load32_splat(colour, 8);
        const vR = f32x4.mul(v, R), vG = f32x4.mul(v, G), vB = f32x4.mul(v, B), vO = f32x4.mul(v, offset);
        const t = v128.load32_splat(lights + (<usize>k << 2));
        rr = f32x4.add(rr, f32x4.mul(vR, R)); rg = f32x4.add(rg, f32x4.mul(vR, G)); rb = f32x4.add(rb, f32x4.mul(vR, B));
        gg = f32x4.add(gg, f32x4.mul(vG, G)); gb = f32x4.add(gb, f32x4.mul(vG, B)); bb = f32x4.add(bb, f32x4.mul(vB, B));
        sr = f32x4.add(sr, f32x4.mul(vR, offset)); sg = f32x4.add(sg, f32x4.mul(vG, offset));
        sb = f32x4.add(sb, f32x4.mul(vB, offset)); s1 = f32x4.add(s1, f32x4.mul(v, squaredOffset));
        tr = f32x4.add(tr, f32x4.mul(vR, t)); tg = f32x4.add(tg, f32x4.mul(vG, t));
        tb = f32x4.add(tb, f32x4.mul(vB, t)); st = f32x4.add(st, f32x4.mul(vO, t));
      }
      // What the mean gain leaves over is fitted.
      const ar = f32x4.mul(gain, ur), ag = f32x4.mul(gain, ug), ab = f32x4.mul(gain, ub);
      tr = f32x4.sub(tr, sum3(rr, ar, rg, ag, rb, ab));
      tg = f32x4.sub(tg, sum3(rg, ar, gg, ag, gb, ab));
      tb = f32x4.sub(tb, sum3(rb, ar, gb, ag, bb, ab));
      st = f32x4.sub(st, sum3(sr, ar, sg, ag, sb, ab));
      const trace = f32x4.add(f32x4.add(rr, gg), f32x4.add(bb, s1));
      const ridge = f32x4.add(f32x4.mul(f32x4.splat(RIDGE), trace), f32x4.splat(1e-12));
      // L·D·Lᵀ of the symmetric system, four cells at a time; no pivot of S + ridge is below the ridge.
      const d0 = f32x4.div(one, f32x4.add(rr, ridge));
      const l1 = f32x4.mul(rg, d0), l2 = f32x4.mul(rb, d0), l3 = f32x4.mul(sr, d0);
      const d1 = f32x4.div(one, f32x4.pmax(ridge, f32x4.sub(f32x4.add(gg, ridge), f32x4.mul(l1, rg))));
      const u2 = f32x4.sub(gb, f32x4.mul(l1, rb)), u3 = f32x4.sub(sg, f32x4.mul(l1, sr));
      const m2 = f32x4.mul(u2, d1), m3 = f32x4.mul(u3, d1);
      const e2 = f32x4.sub(f32x4.sub(f32x4.add(bb, ridge), f32x4.mul(l2, rb)), f32x4.mul(m2, u2));
      const d2 = f32x4.div(one, f32x4.pmax(ridge, e2));
      const v3 = f32x4.sub(f32x4.sub(sb, f32x4.mul(l2, sr)), f32x4.mul(m2, u3));
      const n3 = f32x4.mul(v3, d2);
      const e3 = f32x4.sub(f32x4.sub(f32x4.add(s1, ridge), f32x4.mul(l3, sr)), f32x4.add(f32x4.mul(m3, u3), f32x4.mul(n3, v3)));
      const d3 = f32x4.div(one, f32x4.pmax(ridge, e3));
      const y1 = f32x4.sub(tg, f32x4.mul(l1, tr));
      const y2 = f32x4.sub(f32x4.sub(tb, f32x4.mul(l2, tr)), f32x4.mul(m2, y1));
      const y3 = f32x4.sub(f32x4.sub(st, f32x4.mul(l3, tr)), f32x4.add(f32x4.mul(m3, y1), f32x4.mul(n3, y2)));
      const x3 = f32x4.mul(y3, d3);
      const x2 = f32x4.sub(f32x4.mul(y2, d2), f32x4.mul(n3, x3));
      const x1 = f32x4.sub(f32x4.mul(y1, d1), f32x4.add(f32x4.mul(m2, x2), f32x4.mul(m3, x3)));
      const x0 = f32x4.sub(f32x4.mul(tr, d0), sum3(l1, x1, l2, x2, l3, x3));
      const to = <usize>(y * outStride + x) << 2;
      v128.store(out0 + to, f32x4.add(ar, x0));
      v128.store(out1 + to, f32x4.add(ag, x1));
      v128.store(out2 + to, f32x4.add(ab, x2));
      v128.store(out3 + to, f32x4.mul(unit, x3));
    }
  }
}

/** (r, g, b) · M · (r, g, b)ᵀ of a symmetric M. */
// @ts-ignore: decorator
@inline
function quadratic(r: v128, g: v128, b: v128, rr: v128, rg: v128, rb: v128, gg: v128, gb: v128, bb: v128): v128 {
  return sum3(r, sum3(r, rr, g, rg, b, rb), g, sum3(r, rg, g, gg, b, gb), b, sum3(r, rb, g, gb, b, bb));
}

/**
 * Light by a field of weights: E = x0·R + x1·G + x2·B + x3, the four planes bilinear from a coarser grid (`ratio` coarse cells
 * a pixel; (originX, originY) is the coarse place of the first pixel's centre), kept between `least` and `most` times the
 * light of the weights (r, g, b). Layout as in `weighHalf`. `rows` is room for eight rows of width rounded up to 4.
 */
export function weighByField(
  red: usize, green: usize, blue: usize, width: i32, height: i32, out: usize, outStride: i32,
  x0: usize, x1: usize, x2: usize, x3: usize, coarseStride: i32, coarseWidth: i32, coarseHeight: i32, rows: usize,
  originX: f32, originY: f32, ratio: f32, r: f32, g: f32, b: f32, least: f32, most: f32,
): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b), low = f32x4.splat(least), high = f32x4.splat(most);
  const bytes = <usize>((width + 3) & ~3) << 2;
  const coarseBytes = <usize>coarseStride << 2;
  let upper = rows, lower = rows + 4 * bytes;
  let upperRow = -1, lowerRow = -1;
  for (let y = 0; y < height; y++) {
    const sy = min<f32>(max<f32>(originY + ratio * <f32>y, 0), <f32>(coarseHeight - 1));
    const iy = <i32>sy;
    const next = min(iy + 1, coarseHeight - 1);
    if (iy != upperRow) {
      if (iy == lowerRow) {
        const swapped = upper;
        upper = lower;
        lower = swapped;
      } else {
        const from = <usize>iy * coarseBytes;
        stretchRow(x0 + from, coarseWidth, upper, width, originX, ratio);
        stretchRow(x1 + from, coarseWidth, upper + bytes, width, originX, ratio);
        stretchRow(x2 + from, coarseWidth, upper + 2 * bytes, width, originX, ratio);
        stretchRow(x3 + from, coarseWidth, upper + 3 * bytes, width, originX, ratio);
      }
      const from = <usize>next * coarseBytes;
      stretchRow(x0 + from, coarseWidth, lower, width, originX, ratio);
      stretchRow(x1 + from, coarseWidth, lower + bytes, width, originX, ratio);
      stretchRow(x2 + from, coarseWidth, lower + 2 * bytes, width, originX, ratio);
      stretchRow(x3 + from, coarseWidth, lower + 3 * bytes, width, originX, ratio);
      upperRow = iy;
      lowerRow = next;
    }
    const down = f32x4.splat(sy - <f32>iy);
    const from = <usize>(y * width) << 1;
    const to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = from + (<usize>x << 1);
      const across = <usize>x << 2;
      const R = loadHalfx4(red + at), G = loadHalfx4(green + at), B = loadHalfx4(blue + at);
      let e = f32x4.mul(betweenRows(upper + across, lower + across, down), R);
      e = f32x4.add(e, f32x4.mul(betweenRows(upper + across + bytes, lower + across + bytes, down), G));
      e = f32x4.add(e, f32x4.mul(betweenRows(upper + across + 2 * bytes, lower + across + 2 * bytes, down), B));
      e = f32x4.add(e, betweenRows(upper + across + 3 * bytes, lower + across + 3 * bytes, down));
      const plain = f32x4.add(f32x4.add(f32x4.mul(wr, R), f32x4.mul(wg, G)), f32x4.mul(wb, B));
      const p = f32x4.mul(plain, low), q = f32x4.mul(plain, high);
      v128.store(to + across, f32x4.pmin(f32x4.pmax(p, q), f32x4.pmax(f32x4.pmin(p, q), e)));
    }
  }
}
