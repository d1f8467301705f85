// Colours of a mosaic by local lines between its channels. Planes of cells hold one value for each 2 × 2 sites: red at the cell's corner, a green
// beside it and one below it, blue across. They share one row length.

import { evens, odds } from "./even-channels";

// @ts-ignore: decorator
@inline
function sum4(a: v128, b: v128, c: v128, d: v128): v128 {
  return f32x4.add(f32x4.add(a, b), f32x4.add(c, d));
}

/**
 * Sites of a padded mosaic, each kind in a plane of cells of its own, `planeBytes` apart: red, green beside red, green beside blue, blue; then
 * green at red and at blue: what `level` has there and `difference`, which holds green minus that. Columns are read in eights, up to eight sites beyond the last.
 */
export function splitSites(
  src: usize, level: usize, difference: usize, out: usize, planeBytes: usize, stride: i32, cells: i32, rows: i32, redX: i32, redY: i32,
): void {
  const down = <usize>stride << 2;
  for (let y = 0; y < rows; y++) {
    const skipped = <usize>((2 * y + redY) * stride + redX) << 2;
    for (let x = 0; x < cells; x += 4) {
      const at = skipped + (<usize>x << 3);
      const a = src + at, b = a + down;
      const l = level + at, d = difference + at, lower = l + down, dLower = d + down;
      const a0 = v128.load(a), a1 = v128.load(a, 16), b0 = v128.load(b), b1 = v128.load(b, 16);
      const to = out + (<usize>(y * cells + x) << 2);
      v128.store(to, evens(a0, a1));
      v128.store(to + planeBytes, odds(a0, a1));
      v128.store(to + 2 * planeBytes, evens(b0, b1));
      v128.store(to + 3 * planeBytes, odds(b0, b1));
      v128.store(to + 4 * planeBytes, evens(f32x4.add(v128.load(l), v128.load(d)), f32x4.add(v128.load(l, 16), v128.load(d, 16))));
      v128.store(to + 5 * planeBytes, odds(f32x4.add(v128.load(lower), v128.load(dLower)), f32x4.add(v128.load(lower, 16), v128.load(dLower, 16))));
    }
  }
}

/** Cells on each side of the window in which a line is fitted. */
const REACH: i32 = 2;
const TAPS: i32 = 2 * REACH + 1;
/** Squared contrast of the guide at which a line lies between the one fitted and slope 1. */
const KNEE: f32 = 2e-3;
/** The same, as a multiple of the variance of the guide's noise. */
const NOISE_KNEE: f32 = 2;
const FLOOR: f32 = 1e-5;

/** Cells of a row that are summed at a time, so that sums stay near. */
const STRIP: i32 = 1024;
const STRIP_BYTES: usize = (1024 + 8) << 2;
/** A strip's values of guide and target, squares and products, summed down the columns of windows. */
const sumRoom = memory.data(4 * 4128, 16);

let sumG: v128 = f32x4.splat(0);
let sumT: v128 = f32x4.splat(0);
let sumGG: v128 = f32x4.splat(0);
let sumGT: v128 = f32x4.splat(0);

/** Sums down the columns of a window, rows `down` bytes apart: of guide, target, squares and products. */
// @ts-ignore: decorator
@inline
function sumColumns(g: usize, t: usize, down: usize): void {
  const g0 = v128.load(g), g1 = v128.load(g + down), g2 = v128.load(g + 2 * down), g3 = v128.load(g + 3 * down), g4 = v128.load(g + 4 * down);
  const t0 = v128.load(t), t1 = v128.load(t + down), t2 = v128.load(t + 2 * down), t3 = v128.load(t + 3 * down), t4 = v128.load(t + 4 * down);
  sumG = f32x4.add(sum4(g0, g1, g2, g3), g4);
  sumT = f32x4.add(sum4(t0, t1, t2, t3), t4);
  sumGG = f32x4.add(sum4(f32x4.mul(g0, g0), f32x4.mul(g1, g1), f32x4.mul(g2, g2), f32x4.mul(g3, g3)), f32x4.mul(g4, g4));
  sumGT = f32x4.add(sum4(f32x4.mul(g0, t0), f32x4.mul(g1, t1), f32x4.mul(g2, t2), f32x4.mul(g3, t3)), f32x4.mul(g4, t4));
}

/** Mean over a window from sums of its columns. */
// @ts-ignore: decorator
@inline
function meanAlong(p: usize): v128 {
  const four = f32x4.add(f32x4.add(v128.load(p - 8), v128.load(p - 4)), f32x4.add(v128.load(p, 4), v128.load(p, 8)));
  return f32x4.mul(f32x4.splat(1 / <f32>(TAPS * TAPS)), f32x4.add(four, v128.load(p)));
}

/**
 * Slope of the line target = slope · guide + rest about each cell, by least squares over 5 × 5 cells, held to 1 where the guide hardly
 * varies or its noise explains that it does: its variance is `noiseSlope` · light + `noiseOffset`. With `guide2` and `target2` (0: none) the window
 * holds two pairs a cell. Cells nearer the border than four, or two rows, are not written.
 */
export function slopesOfLines(
  guide: usize, target: usize, guide2: usize, target2: usize, out: usize, cells: i32, rows: i32, noiseSlope: f32, noiseOffset: f32,
): void {
  const knee = f32x4.splat(KNEE), floor = f32x4.splat(KNEE * FLOOR), zero = f32x4.splat(0), half = f32x4.splat(0.5);
  const ns = f32x4.splat(NOISE_KNEE * noiseSlope), no = f32x4.splat(NOISE_KNEE * noiseOffset);
  const down = <usize>cells << 2;
  for (let row = REACH; row < rows - REACH; row++)
    for (let left = 4; left < cells - 4; left += STRIP) {
      const width = <usize>min(STRIP, cells - 4 - left) << 2;
      const first = <usize>((row - REACH) * cells + left - 4) << 2;
      for (let x: usize = 0; x < width + 32; x += 16) {
        sumColumns(guide + first + x, target + first + x, down);
        let sg = sumG, st = sumT, sgg = sumGG, sgt = sumGT;
        if (guide2) {
          sumColumns(guide2 + first + x, target2 + first + x, down);
          sg = f32x4.mul(half, f32x4.add(sg, sumG));
          st = f32x4.mul(half, f32x4.add(st, sumT));
          sgg = f32x4.mul(half, f32x4.add(sgg, sumGG));
          sgt = f32x4.mul(half, f32x4.add(sgt, sumGT));
        }
        const to = sumRoom + x;
        v128.store(to, sg);
        v128.store(to + STRIP_BYTES, st);
        v128.store(to + 2 * STRIP_BYTES, sgg);
        v128.store(to + 3 * STRIP_BYTES, sgt);
      }
      const to = out + (<usize>(row * cells + left) << 2);
      for (let x: usize = 0; x < width; x += 16) {
        const p = sumRoom + 16 + x;
        const mean = meanAlong(p), other = meanAlong(p + STRIP_BYTES);
        const meanSquare = f32x4.mul(mean, mean);
        const variance = f32x4.pmax(zero, f32x4.sub(meanAlong(p + 2 * STRIP_BYTES), meanSquare));
        const noise = f32x4.pmax(zero, f32x4.add(f32x4.mul(ns, mean), no));
        const held = f32x4.add(f32x4.add(f32x4.mul(knee, meanSquare), floor), noise);
        const covariance = f32x4.sub(meanAlong(p + 3 * STRIP_BYTES), f32x4.mul(mean, other));
        v128.store(to + x, f32x4.div(f32x4.add(covariance, held), f32x4.add(variance, held)));
      }
    }
}

/**
 * A colour at sites that have another one. Every site of the colour has a line of its own slope through what it and green are there; lines of
 * sites about a place are averaged. Sites of the colour lie in this cell and one column to `right` and one row `down` (−1 or 1 each).
 * @param greenHere - green where the colour is known.
 * @param greenBeside - and beside: green sites of its row; greenBelow and below: of its column; greenAcross and across: sites of the other colour.
 */
export function colourByLines(
  slope: usize, known: usize, greenHere: usize, greenBeside: usize, greenBelow: usize, greenAcross: usize,
  beside: usize, below: usize, across: usize, cells: i32, rows: i32, right: i32, down: i32,
): void {
  const half = f32x4.splat(0.5), quarter = f32x4.splat(0.25);
  const aside = right << 2, under = (down * cells) << 2;
  for (let y = 1; y < rows - 1; y++) {
    const first = <usize>(y * cells + 4) << 2, end = <usize>(y * cells + cells - 4) << 2;
    for (let at = first; at < end; at += 16) {
      const a = slope + at, k = known + at, g = greenHere + at;
      const s0 = v128.load(a), s1 = v128.load(a + aside), s2 = v128.load(a + under), s3 = v128.load(a + aside + under);
      const c0 = f32x4.sub(v128.load(k), f32x4.mul(s0, v128.load(g)));
      const c1 = f32x4.sub(v128.load(k + aside), f32x4.mul(s1, v128.load(g + aside)));
      const c2 = f32x4.sub(v128.load(k + under), f32x4.mul(s2, v128.load(g + under)));
      const c3 = f32x4.sub(v128.load(k + aside + under), f32x4.mul(s3, v128.load(g + aside + under)));
      const s01 = f32x4.add(s0, s1), c01 = f32x4.add(c0, c1);
      const besides = f32x4.add(f32x4.mul(s01, v128.load(greenBeside + at)), c01);
      const belows = f32x4.add(f32x4.mul(f32x4.add(s0, s2), v128.load(greenBelow + at)), f32x4.add(c0, c2));
      const slopes = f32x4.add(s01, f32x4.add(s2, s3)), rests = f32x4.add(c01, f32x4.add(c2, c3));
      v128.store(beside + at, f32x4.mul(half, besides));
      v128.store(below + at, f32x4.mul(half, belows));
      v128.store(across + at, f32x4.mul(quarter, f32x4.add(f32x4.mul(slopes, v128.load(greenAcross + at)), rests)));
    }
  }
}

/**
 * Green at sites of a colour: the mean of four greens about it, brought on by what its colour differs from theirs, times the slope. `beside` are
 * greens of its own row, in this cell and one column to `right`, `below` those of its column, one row `down` (−1 or 1 each).
 */
export function greenByLines(
  slope: usize, colour: usize, beside: usize, colourBeside: usize, below: usize, colourBelow: usize, out: usize,
  cells: i32, rows: i32, right: i32, down: i32,
): void {
  const quarter = f32x4.splat(0.25);
  const across = right << 2, along = (down * cells) << 2;
  for (let y = 1; y < rows - 1; y++)
    for (let x = 4; x < cells - 4; x += 4) {
      const at = <usize>(y * cells + x) << 2;
      const b = beside + at, c = below + at, cb = colourBeside + at, cc = colourBelow + at;
      const green = sum4(v128.load(b), v128.load(b + across), v128.load(c), v128.load(c + along));
      const colours = sum4(v128.load(cb), v128.load(cb + across), v128.load(cc), v128.load(cc + along));
      const apart = f32x4.sub(v128.load(colour + at), f32x4.mul(quarter, colours));
      v128.store(out + at, f32x4.add(f32x4.mul(quarter, green), f32x4.mul(v128.load(slope + at), apart)));
    }
}

/**
 * A plane of width × height from its four planes of cells (corner, beside, below, across), whose red corner lies at column redX and row redY of the
 * picture; cell (left, top) holds the picture's first pixel. Up to eight values beyond the last are written.
 */
export function joinSites(
  corner: usize, beside: usize, below: usize, across: usize, out: usize, width: i32, height: i32, cells: i32, left: i32, top: i32,
  redX: i32, redY: i32,
): void {
  for (let y = 0; y < height; y++) {
    const isLower = (y ^ redY) & 1;
    const row = top + ((y - redY) >> 1);
    const even = isLower ? below : corner, odd = isLower ? across : beside;
    // Where red lies in odd columns a pair begins with the cell before.
    const first = (redX ? odd - 4 : even) + (<usize>(row * cells + left) << 2);
    const second = (redX ? even : odd) + (<usize>(row * cells + left) << 2);
    const to = out + (<usize>(y * width) << 2);
    for (let x = 0; x < width; x += 8) {
      const at = <usize>x << 1;
      const a = v128.load(first + at), b = v128.load(second + at);
      v128.store(to + (<usize>x << 2), v128.shuffle<f32>(a, b, 0, 4, 1, 5));
      v128.store(to + (<usize>x << 2), v128.shuffle<f32>(a, b, 2, 6, 3, 7), 16);
    }
  }
}
