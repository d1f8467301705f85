// Light as a local linear function of the picture's own colours: votes of pixels, gathered in cells of 4 × 4 and fitted.

import { betweenx4, mixRows } from "./coarse";
import { loadHalfx4 } from "./half";
import { roughLog2x4 } from "./math";

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
      const logG = roughLog2x4(f32x4.add(f32x4.max(loadHalfx4(green + at), none), floor));
      const logR = roughLog2x4(f32x4.add(f32x4.max(loadHalfx4(red + at), none), floor));
      const logB = roughLog2x4(f32x4.add(f32x4.max(loadHalfx4(blue + at), none), floor));
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

/**
 * Votes of a tile's pixels, summed over cells of 4 × 4: fourteen planes `planeBytes` apart, of stride `cellStride`, added
 * up as Σ v · (RR, RG, RB, GG, GB, BB, R, G, B, 1, R·t, G·t, B·t, t), where t is the light a pixel of its own colour is to
 * have and v its vote over its squared luminance. A vote is small where colour changes from pixel to pixel, since colours mix
 * there, and where the pixel is clipped.
 * Also, for four pixels of each cell, at `samples`: red, green, blue over luminance and the vote, four values each, 64 bytes
 * a cell and `cellStride` cells a row.
 * @param light - t, stride `lightStride`; the ratios as from `colourRatios`. (r, g, b) are luminance's weights.
 */
export function gatherVotes(
  red: usize, green: usize, blue: usize, width: i32, height: i32, light: usize, lightStride: i32,
  toGreenRed: usize, toGreenBlue: usize, ratioStride: i32, out: usize, planeBytes: usize, samples: usize,
  cellStride: i32, r: f32, g: f32, b: f32,
): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b);
  const zero = f32x4.splat(0), one = f32x4.splat(1), lanes = i32x4(0, 1, 2, 3);
  const ratioBytes = <usize>ratioStride << 2;
  for (let top = 0; top < height; top += CELL) {
    for (let x = 0; x < width; x += CELL) {
      let rr = zero, rg = zero, rb = zero, gg = zero, gb = zero, bb = zero, sr = zero, sg = zero, sb = zero, s1 = zero;
      let tr = zero, tg = zero, tb = zero, st = zero;
      let sampleR = zero, sampleG = zero, sampleB = zero, sampleV = zero;
      const inside = i32x4.lt_s(i32x4.add(i32x4.splat(x), lanes), i32x4.splat(width));
      const bottom = min(top + CELL, height);
      for (let y = top; y < bottom; y++) {
        const at = <usize>(y * width + x) << 1;
        const R = v128.and(loadHalfx4(red + at), inside);
        const G = v128.and(loadHalfx4(green + at), inside);
        const B = v128.and(loadHalfx4(blue + at), inside);
        const t = v128.and(v128.load(light + (<usize>(y * lightStride + x) << 2)), inside);
        const place = <usize>((y + 1) * ratioStride + x + 4) << 2;
        const slope = f32x4.add(
          squaredSlope(toGreenRed + place, ratioBytes),
          squaredSlope(toGreenBlue + place, ratioBytes),
        );
        const most = f32x4.max(f32x4.max(R, G), B);
        let full = f32x4.mul(f32x4.sub(most, f32x4.splat(CLIPPED)), f32x4.splat(10));
        full = f32x4.min(one, f32x4.max(zero, full));
        const pure = f32x4.div(one, f32x4.add(one, f32x4.mul(slope, f32x4.splat(1 / (PURE_STOPS * PURE_STOPS)))));
        let vote = f32x4.mul(f32x4.sub(one, full), f32x4.mul(pure, pure));
        vote = v128.and(f32x4.add(vote, f32x4.splat(LEAST_VOTE)), inside);
        const luminance = f32x4.add(f32x4.add(f32x4.mul(wr, R), f32x4.mul(wg, G)), f32x4.mul(wb, B));
        const inverse = f32x4.div(one, f32x4.add(f32x4.max(luminance, zero), f32x4.splat(LUMINANCE_FLOOR)));
        const v = f32x4.mul(vote, f32x4.mul(inverse, inverse));
        const vR = f32x4.mul(v, R), vG = f32x4.mul(v, G), vB = f32x4.mul(v, B);
        rr = f32x4.add(rr, f32x4.mul(vR, R));
        rg = f32x4.add(rg, f32x4.mul(vR, G));
        rb = f32x4.add(rb, f32x4.mul(vR, B));
        gg = f32x4.add(gg, f32x4.mul(vG, G));
        gb = f32x4.add(gb, f32x4.mul(vG, B));
        bb = f32x4.add(bb, f32x4.mul(vB, B));
        sr = f32x4.add(sr, vR);
        sg = f32x4.add(sg, vG);
        sb = f32x4.add(sb, vB);
        s1 = f32x4.add(s1, v);
        tr = f32x4.add(tr, f32x4.mul(vR, t));
        tg = f32x4.add(tg, f32x4.mul(vG, t));
        tb = f32x4.add(tb, f32x4.mul(vB, t));
        st = f32x4.add(st, f32x4.mul(v, t));
        const row = y - top;
        if (row == 0) {
          sampleR = f32x4.mul(R, inverse);
          sampleG = f32x4.mul(G, inverse);
          sampleB = f32x4.mul(B, inverse);
          sampleV = vote;
        } else if (row == 2) {
          sampleR = v128.shuffle<i32>(sampleR, f32x4.mul(R, inverse), 0, 2, 5, 7);
          sampleG = v128.shuffle<i32>(sampleG, f32x4.mul(G, inverse), 0, 2, 5, 7);
          sampleB = v128.shuffle<i32>(sampleB, f32x4.mul(B, inverse), 0, 2, 5, 7);
          sampleV = v128.shuffle<i32>(sampleV, vote, 0, 2, 5, 7);
        }
      }
      const cell = <usize>((top >> 2) * cellStride + (x >> 2));
      let to = out + (cell << 2);
      store<f32>(to, horizontalSum(rr)); to += planeBytes;
      store<f32>(to, horizontalSum(rg)); to += planeBytes;
      store<f32>(to, horizontalSum(rb)); to += planeBytes;
      store<f32>(to, horizontalSum(gg)); to += planeBytes;
      store<f32>(to, horizontalSum(gb)); to += planeBytes;
      store<f32>(to, horizontalSum(bb)); to += planeBytes;
      store<f32>(to, horizontalSum(sr)); to += planeBytes;
      store<f32>(to, horizontalSum(sg)); to += planeBytes;
      store<f32>(to, horizontalSum(sb)); to += planeBytes;
      store<f32>(to, horizontalSum(s1)); to += planeBytes;
      store<f32>(to, horizontalSum(tr)); to += planeBytes;
      store<f32>(to, horizontalSum(tg)); to += planeBytes;
      store<f32>(to, horizontalSum(tb)); to += planeBytes;
      store<f32>(to, horizontalSum(st));
      const sample = samples + (cell << 6);
      v128.store(sample, sampleR);
      v128.store(sample, sampleG, 16);
      v128.store(sample, sampleB, 32);
      v128.store(sample, sampleV, 48);
    }
  }
}

/** How readily a mixture is told as one with grey, against one with a family: few things are grey, many mixtures are. */
const NEUTRAL_COUNTS: f32 = 0.1;
/** Squared distance of colours (over their luminance) within which they count as one. */
const SAME_COLOUR: f32 = 0.001;

/**
 * Which of `count` colours the pixels of each cell are mixed with: a pixel's colour is told as a mixture of what is pure about it
 * and one colour of the palette, the better the nearer the line between the two. For each colour two planes `planeBytes` apart:
 * the share it has in pixels that are mixed, and in those that are pure.
 * @param votes - planes as from `gatherVotes`, smoothed; of them (R, G, B) say what is pure about a cell.
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
      const vote = v128.load(sample, 48);
      let sum = f32x4.splat(1e-12);
      for (let k = 0; k < count; k++) {
        const colour = palette + <usize>(12 * k);
        const eR = f32x4.sub(f32x4.splat(load<f32>(colour)), pureR);
        const eG = f32x4.sub(f32x4.splat(load<f32>(colour, 4)), pureG);
        const eB = f32x4.sub(f32x4.splat(load<f32>(colour, 8)), pureB);
        const length = f32x4.add(f32x4.add(f32x4.mul(eR, eR), f32x4.mul(eG, eG)), f32x4.mul(eB, eB));
        const along = f32x4.add(f32x4.add(f32x4.mul(dR, eR), f32x4.mul(dG, eG)), f32x4.mul(dB, eB));
        let share = f32x4.div(along, f32x4.add(length, f32x4.splat(SAME_COLOUR)));
        share = f32x4.min(one, f32x4.max(zero, share));
        const mR = f32x4.sub(dR, f32x4.mul(share, eR));
        const mG = f32x4.sub(dG, f32x4.mul(share, eG));
        const mB = f32x4.sub(dB, f32x4.mul(share, eB));
        const miss = f32x4.add(f32x4.add(f32x4.mul(mR, mR), f32x4.mul(mG, mG)), f32x4.mul(mB, mB));
        const near = f32x4.div(f32x4.splat(SAME_COLOUR), f32x4.add(miss, f32x4.splat(SAME_COLOUR)));
        const weight = f32x4.mul(f32x4.mul(near, near), k == count - 1 ? f32x4.splat(NEUTRAL_COUNTS) : one);
        sum = f32x4.add(sum, weight);
        v128.store(room + <usize>(32 * k), f32x4.mul(weight, share));
      }
      const inverse = f32x4.div(one, sum);
      let to = out + (<usize>(y * outStride + x) << 2);
      for (let k = 0; k < count; k++) {
        const share = f32x4.mul(v128.load(room + <usize>(32 * k)), inverse);
        const pure = f32x4.mul(share, f32x4.min(vote, one));
        store<f32>(to, horizontalSum(f32x4.sub(share, pure)));
        store<f32>(to + planeBytes, horizontalSum(pure));
        to += 2 * planeBytes;
      }
    }
  }
}

/** How strongly the fit is held to the mean gain, against what the votes say. */
const RIDGE: f64 = 1e-3;
/** How freely the fit takes an offset, against slopes. */
const OFFSET: f64 = 0.3;
/** What a colour of the palette that pixels are mixed with counts against a pure pixel, per pixel. */
const PALETTE_VOTE: f64 = 0.5;
/** How far pure pixels of a colour make its entry in the palette needless. */
const SUPPLY: f64 = 20;
/** Samples against pixels of a cell. */
const SAMPLED: f64 = 4;

const matrix = memory.data(8 * 20);

/**
 * Fits t = x · (R, G, B) + offset to the votes of each cell by least squares, held by a ridge to the weights (wr, wg, wb)
 * times the mean gain. Colours of the palette that pixels here are mixed with, but of which no pure ones are near, vote with
 * the light that they are to have. Four planes out.
 * @param votes - smoothed; mixtures likewise, two planes a colour.
 * @param lights - light of each colour of the palette at luminance 1.
 */
export function fitVotes(
  votes: usize, votesBytes: usize, mixtures: usize, mixturesBytes: usize, stride: i32, width: i32, height: i32,
  palette: usize, lights: usize, count: i32, out0: usize, out1: usize, out2: usize, out3: usize, outStride: i32,
  wr: f64, wg: f64, wb: f64, r: f64, g: f64, b: f64,
): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const cell = <usize>(y * stride + x) << 2;
      const at = votes + cell;
      let rr = <f64>load<f32>(at), rg = <f64>load<f32>(at + votesBytes), rb = <f64>load<f32>(at + 2 * votesBytes);
      let gg = <f64>load<f32>(at + 3 * votesBytes), gb = <f64>load<f32>(at + 4 * votesBytes);
      let bb = <f64>load<f32>(at + 5 * votesBytes);
      let sr = <f64>load<f32>(at + 6 * votesBytes), sg = <f64>load<f32>(at + 7 * votesBytes);
      let sb = <f64>load<f32>(at + 8 * votesBytes), s1 = <f64>load<f32>(at + 9 * votesBytes);
      let tr = <f64>load<f32>(at + 10 * votesBytes), tg = <f64>load<f32>(at + 11 * votesBytes);
      let tb = <f64>load<f32>(at + 12 * votesBytes), st = <f64>load<f32>(at + 13 * votesBytes);
      const mean = max<f64>((r * sr + g * sg + b * sb) / max<f64>(s1, 1e-30), 1e-6);
      const unit = OFFSET * mean;
      const plain = wr * (wr * rr + 2 * wg * rg + 2 * wb * rb) + wg * (wg * gg + 2 * wb * gb) + wb * wb * bb;
      const gain = (wr * tr + wg * tg + wb * tb) / max<f64>(plain, 1e-30);
      sr *= unit; sg *= unit; sb *= unit; st *= unit; s1 *= unit * unit;
      const mixed = mixtures + cell;
      for (let k = 0; k < count; k++) {
        const demand = <f64>load<f32>(mixed + <usize>(2 * k) * mixturesBytes);
        const supply = <f64>load<f32>(mixed + <usize>(2 * k + 1) * mixturesBytes);
        const v = (SAMPLED * PALETTE_VOTE * demand * demand) / (demand + SUPPLY * supply + 1e-9);
        const colour = palette + <usize>(12 * k);
        const R = <f64>load<f32>(colour), G = <f64>load<f32>(colour, 4), B = <f64>load<f32>(colour, 8);
        const t = <f64>load<f32>(lights + (<usize>k << 2));
        rr += v * R * R; rg += v * R * G; rb += v * R * B; gg += v * G * G; gb += v * G * B; bb += v * B * B;
        sr += v * R * OFFSET; sg += v * G * OFFSET; sb += v * B * OFFSET; s1 += v * OFFSET * OFFSET;
        tr += v * R * t; tg += v * G * t; tb += v * B * t; st += v * OFFSET * t;
      }
      // What the mean gain leaves over is fitted.
      const ar = gain * wr, ag = gain * wg, ab = gain * wb;
      tr -= rr * ar + rg * ag + rb * ab;
      tg -= rg * ar + gg * ag + gb * ab;
      tb -= rb * ar + gb * ag + bb * ab;
      st -= sr * ar + sg * ag + sb * ab;
      const ridge = RIDGE * (rr + gg + bb + s1) + 1e-12;
      solve4(rr + ridge, rg, rb, sr, gg + ridge, gb, sg, bb + ridge, sb, s1 + ridge, tr, tg, tb, st);
      const to = <usize>(y * outStride + x) << 2;
      store<f32>(out0 + to, <f32>(ar + load<f64>(matrix)));
      store<f32>(out1 + to, <f32>(ag + load<f64>(matrix, 8)));
      store<f32>(out2 + to, <f32>(ab + load<f64>(matrix, 16)));
      store<f32>(out3 + to, <f32>(unit * load<f64>(matrix, 24)));
    }
  }
}

/** A symmetric positive definite system of four by Cholesky's LDLᵀ; the solution lies at `matrix`. */
function solve4(
  a00: f64, a01: f64, a02: f64, a03: f64, a11: f64, a12: f64, a13: f64, a22: f64, a23: f64, a33: f64,
  b0: f64, b1: f64, b2: f64, b3: f64,
): void {
  const d0 = 1 / a00;
  const l10 = a01 * d0, l20 = a02 * d0, l30 = a03 * d0;
  const d1 = 1 / (a11 - l10 * a01);
  const u12 = a12 - l10 * a02, u13 = a13 - l10 * a03;
  const l21 = u12 * d1, l31 = u13 * d1;
  const d2 = 1 / (a22 - l20 * a02 - l21 * u12);
  const u23 = a23 - l20 * a03 - l21 * u13;
  const l32 = u23 * d2;
  const d3 = 1 / (a33 - l30 * a03 - l31 * u13 - l32 * u23);
  const y1 = b1 - l10 * b0;
  const y2 = b2 - l20 * b0 - l21 * y1;
  const y3 = b3 - l30 * b0 - l31 * y1 - l32 * y2;
  const x3 = y3 * d3;
  const x2 = y2 * d2 - l32 * x3;
  const x1 = y1 * d1 - l21 * x2 - l31 * x3;
  store<f64>(matrix, b0 * d0 - l10 * x1 - l20 * x2 - l30 * x3);
  store<f64>(matrix, x1, 8);
  store<f64>(matrix, x2, 16);
  store<f64>(matrix, x3, 24);
}

/**
 * Light by a field of weights: E = x0·R + x1·G + x2·B + x3, the four planes bilinear from a coarser grid (`ratio` coarse cells
 * a pixel; (originX, originY) is the coarse place of the first pixel's centre), kept between `least` and `most` times the
 * light of the weights (r, g, b). Layout as in `weighHalf`. `rows` is room for 4·(coarseWidth + 1) values.
 */
export function weighByField(
  red: usize, green: usize, blue: usize, width: i32, height: i32, out: usize, outStride: i32,
  x0: usize, x1: usize, x2: usize, x3: usize, coarseStride: i32, coarseWidth: i32, coarseHeight: i32, rows: usize,
  originX: f32, originY: f32, ratio: f32, r: f32, g: f32, b: f32, least: f32, most: f32,
): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b), low = f32x4.splat(least), high = f32x4.splat(most);
  const rowBytes = <usize>(coarseWidth + 1) << 2;
  const rows1 = rows + rowBytes, rows2 = rows1 + rowBytes, rows3 = rows2 + rowBytes;
  const steps = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(ratio));
  const lastX = f32x4.splat(<f32>(coarseWidth - 1));
  for (let y = 0; y < height; y++) {
    const sy = min<f32>(max<f32>(originY + ratio * <f32>y, 0), <f32>(coarseHeight - 1));
    const iy = <i32>sy;
    const next = min(iy + 1, coarseHeight - 1);
    const fy = sy - <f32>iy;
    mixRows(x0, iy, next, fy, coarseStride, coarseWidth, rows);
    mixRows(x1, iy, next, fy, coarseStride, coarseWidth, rows1);
    mixRows(x2, iy, next, fy, coarseStride, coarseWidth, rows2);
    mixRows(x3, iy, next, fy, coarseStride, coarseWidth, rows3);
    const from = <usize>(y * width) << 1;
    const to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const sx = f32x4.pmin(lastX, f32x4.pmax(f32x4.splat(0), f32x4.add(f32x4.splat(originX + ratio * <f32>x), steps)));
      const whole = f32x4.floor(sx);
      const index = i32x4.shl(v128.and(f32x4.add(whole, f32x4.splat(8388608)), i32x4.splat(0x7fffff)), 2);
      const f = f32x4.sub(sx, whole);
      const at = from + (<usize>x << 1);
      const R = loadHalfx4(red + at), G = loadHalfx4(green + at), B = loadHalfx4(blue + at);
      let e = f32x4.mul(betweenx4(rows, index, f), R);
      e = f32x4.add(e, f32x4.mul(betweenx4(rows1, index, f), G));
      e = f32x4.add(e, f32x4.mul(betweenx4(rows2, index, f), B));
      e = f32x4.add(e, betweenx4(rows3, index, f));
      const plain = f32x4.add(f32x4.add(f32x4.mul(wr, R), f32x4.mul(wg, G)), f32x4.mul(wb, B));
      const p = f32x4.mul(plain, low), q = f32x4.mul(plain, high);
      v128.store(to + (<usize>x << 2), f32x4.min(f32x4.max(p, q), f32x4.max(f32x4.min(p, q), e)));
    }
  }
}
