// Colour that was stored at a part of the resolution of light: rebuilt as a local line of brightness (see raw/halved-colour.ts).

import { betweenRows, stretchRow } from "./stretch";

const RED: f32 = 0.299;
const GREEN: f32 = 0.587;
const BLUE: f32 = 0.114;
/** Variance of brightness, codes², below which colour follows nothing. */
const QUIET: f32 = 4;
/** Variance of colour that is none, codes². */
const LEAST: f32 = 1e-6;

// @ts-ignore: decorator
@inline
function code(at: usize): i32 {
  return <i32>load<u8>(at);
}

/**
 * Brightness (BT.601, in which JPEG stores colour) of cells of `cellWidth` × `cellHeight` pixels, and their blue and red less of it: planes of
 * `across` × `down` f32. @param codes - bytes of red, green, blue; cells begin at column `left`.
 */
export function halvedCells(
  codes: usize, width: i32, left: i32, cellWidth: i32, cellHeight: i32, across: i32, down: i32, light: usize, blue: usize, red: usize,
): void {
  const next = 3 * <usize>width, step = 3 * <usize>cellWidth, tall = <usize>cellHeight * next;
  const share: f32 = 1 / <f32>(cellWidth * cellHeight);
  let to: usize = 0;
  for (let y = 0; y < down; y++) {
    let cell = codes + <usize>y * tall + 3 * <usize>left;
    for (let x = 0; x < across; x++, cell += step, to += 4) {
      let r = 0, g = 0, b = 0;
      for (let row = cell, below = cell + tall; row < below; row += next)
        for (let at = row, beyond = row + step; at < beyond; at += 3) {
          r += code(at);
          g += code(at + 1);
          b += code(at + 2);
        }
      const l: f32 = share * (RED * <f32>r + GREEN * <f32>g + BLUE * <f32>b);
      store<f32>(light + to, l);
      store<f32>(blue + to, share * <f32>b - l);
      store<f32>(red + to, share * <f32>r - l);
    }
  }
}

/** What a place holds when an eighth of it came from either side, as means of cells do between which a decoder drew straight lines. */
// @ts-ignore: decorator
@inline
function mixed(before: f32, here: f32, after: f32): f32 {
  return 0.75 * here + 0.125 * (before + after);
}

/**
 * Light of cells as their colour is after decoding: an eighth from either side, along rows, along columns or both. In place.
 * @param light - plane of `across` × `down` f32; @param room - for one row.
 */
export function mixCells(light: usize, across: i32, down: i32, room: usize, alongRows: i32, alongColumns: i32): void {
  const stride = <usize>across << 2, last = stride - 4;
  if (alongRows)
    for (let y = 0, row = light; y < down; y++, row += stride) {
      let before = load<f32>(row);
      for (let at: usize = 0; at <= last; at += 4) {
        const here = load<f32>(row + at);
        store<f32>(row + at, mixed(before, here, load<f32>(row + min(at + 4, last))));
        before = here;
      }
    }
  if (!alongColumns) return;
  memory.copy(room, light, stride);
  for (let y = 0, row = light; y < down; y++, row += stride) {
    const below = y + 1 < down ? row + stride : row;
    for (let at: usize = 0; at <= last; at += 4) {
      const here = load<f32>(row + at);
      store<f32>(row + at, mixed(load<f32>(room + at), here, load<f32>(below + at)));
      store<f32>(room + at, here);
    }
  }
}

/**
 * Slopes of local lines from light to a colour difference, each times what its line counts, which is the more the better it explains its
 * window; one that correlates little is made milder by its correlation, as finer detail follows it less. Means over windows of: light, its
 * square, the colour, light times colour, the colour's square. n is a multiple of 4.
 * @param colour - becomes slope times weight; @param square - the weight.
 */
export function halvedLines(light: usize, lightSquare: usize, colour: usize, product: usize, square: usize, n: i32): void {
  const none = f32x4.splat(0), one = f32x4.splat(1);
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const l = v128.load(light + at), c = v128.load(colour + at);
    const covariance = f32x4.sub(v128.load(product + at), f32x4.mul(l, c));
    const variance = f32x4.pmax(none, f32x4.sub(v128.load(lightSquare + at), f32x4.mul(l, l)));
    const slope = f32x4.div(covariance, f32x4.add(variance, f32x4.splat(QUIET)));
    const spread = f32x4.sub(v128.load(square + at), f32x4.mul(c, c));
    const explained = f32x4.mul(slope, covariance);
    const weight = f32x4.div(one, f32x4.add(one, f32x4.pmax(none, f32x4.sub(spread, explained))));
    const share = f32x4.pmin(one, f32x4.div(explained, f32x4.pmax(spread, f32x4.splat(LEAST))));
    v128.store(colour + at, f32x4.mul(f32x4.mul(weight, slope), f32x4.sqrt(share)));
    v128.store(square + at, weight);
  }
}

/** From means of slope times weight and of weight: the slope, and what of the colour it leaves, in place of the two. */
export function halvedRest(light: usize, colour: usize, slope: usize, rest: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const a = f32x4.div(v128.load(slope + at), v128.load(rest + at));
    v128.store(slope + at, a);
    v128.store(rest + at, f32x4.sub(v128.load(colour + at), f32x4.mul(a, v128.load(light + at))));
  }
}

/** Bytes of one channel of four pixels in the lanes' lowest; what is none becomes 0. */
// @ts-ignore: decorator
@inline
function channel(pixels: v128, pattern: v128): v128 {
  return f32x4.convert_i32x4_s(i8x16.swizzle(pixels, pattern));
}

// @ts-ignore: decorator
@inline
function coded(value: v128): v128 {
  const inside = f32x4.pmin(f32x4.splat(255), f32x4.pmax(f32x4.splat(0), value));
  return i32x4.trunc_sat_f32x4_s(f32x4.add(inside, f32x4.splat(0.5)));
}

/**
 * Colour from brightness by the lines of cells, in straight lines between these; brightness stays. Bytes of red, green, blue are changed
 * in place; sixteen bytes beyond the last are read.
 * @param blueSlope - and the rest: planes of `across` × `down` cells; (originX, originY) is the first pixel's place among them, and
 * (ratioX, ratioY) cells are a pixel.
 * @param rows - room for eight rows of width rounded up to 4, and four values more.
 */
export function rebuildHalved(
  codes: usize, width: i32, height: i32, blueSlope: usize, blueRest: usize, redSlope: usize, redRest: usize,
  across: i32, down: i32, rows: usize, originX: f32, originY: f32, ratioX: f32, ratioY: f32,
): void {
  const wide = <usize>((width + 3) & ~3) << 2;
  const stride = <usize>across << 2;
  let upper = rows, lower = rows + 4 * wide;
  const last = rows + 8 * wide;
  let have = -2;
  for (let y = 0; y < height; y++) {
    const sy = min<f32>(max<f32>(originY + ratioY * <f32>y, 0), <f32>(down - 1));
    const iy = <i32>sy;
    if (iy != have) {
      if (iy == have + 1) {
        const swapped = upper;
        upper = lower;
        lower = swapped;
      } else stretchLines(blueSlope, blueRest, redSlope, redRest, <usize>iy * stride, across, upper, wide, width, originX, ratioX);
      const next = <usize>min(iy + 1, down - 1) * stride;
      stretchLines(blueSlope, blueRest, redSlope, redRest, next, across, lower, wide, width, originX, ratioX);
      have = iy;
    }
    const f = f32x4.splat(sy - <f32>iy);
    const row = codes + 3 * <usize>y * <usize>width;
    for (let x = 0; x < width; x += 4) {
      const at = row + 3 * <usize>x, place = <usize>x << 2;
      const pixels = v128.load(at);
      const r = channel(pixels, i8x16(0, -1, -1, -1, 3, -1, -1, -1, 6, -1, -1, -1, 9, -1, -1, -1));
      const g = channel(pixels, i8x16(1, -1, -1, -1, 4, -1, -1, -1, 7, -1, -1, -1, 10, -1, -1, -1));
      const b = channel(pixels, i8x16(2, -1, -1, -1, 5, -1, -1, -1, 8, -1, -1, -1, 11, -1, -1, -1));
      const l = f32x4.add(
        f32x4.add(f32x4.mul(r, f32x4.splat(RED)), f32x4.mul(g, f32x4.splat(GREEN))),
        f32x4.mul(b, f32x4.splat(BLUE)),
      );
      const toBlue = lineOf(upper, lower, place, wide, f, l);
      const toRed = lineOf(upper + 2 * wide, lower + 2 * wide, place, wide, f, l);
      const both = f32x4.add(f32x4.mul(toRed, f32x4.splat(RED / GREEN)), f32x4.mul(toBlue, f32x4.splat(BLUE / GREEN)));
      const green = i32x4.shl(coded(f32x4.sub(l, both)), 8);
      const word = v128.or(v128.or(coded(f32x4.add(l, toRed)), green), i32x4.shl(coded(f32x4.add(l, toBlue)), 16));
      const packed = i8x16.swizzle(word, i8x16(0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, -1, -1, -1, -1));
      if (x + 4 <= width) {
        v128.store64_lane(at, packed, 0);
        v128.store32_lane(at, packed, 2, 8);
      } else {
        v128.store(last, packed);
        memory.copy(at, last, 3 * <usize>(width - x));
      }
    }
  }
}

/** One row of each of the four planes, as wide as the pixels. */
// @ts-ignore: decorator
@inline
function stretchLines(
  a: usize, b: usize, c: usize, d: usize, from: usize, across: i32, out: usize, wide: usize, width: i32, originX: f32, ratio: f32,
): void {
  stretchRow(a + from, across, out, width, originX, ratio);
  stretchRow(b + from, across, out + wide, width, originX, ratio);
  stretchRow(c + from, across, out + 2 * wide, width, originX, ratio);
  stretchRow(d + from, across, out + 3 * wide, width, originX, ratio);
}

/** Slope · light + rest, both between two rows. */
// @ts-ignore: decorator
@inline
function lineOf(upper: usize, lower: usize, place: usize, wide: usize, f: v128, l: v128): v128 {
  const slope = betweenRows(upper + place, lower + place, f);
  return f32x4.add(f32x4.mul(slope, l), betweenRows(upper + wide + place, lower + wide + place, f));
}
