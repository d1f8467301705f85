// Colours of which a channel of the capture is full: what it lost makes them look like another material's.

import { sum3 } from "./math";

/** Light from which a channel is less and less what its colour has, and from which it is full. */
const LOSING: f32 = 0.6, FULL: f32 = 0.95;
/** Light that full channels must lack to be lost wholly. */
const LOST: f32 = 0.08;
/** What the others' squared misfit counts, against their square. */
const MISFIT: f32 = 16;
/** How many times as light as what is bright a colour may be, and from where that counts less and less: beyond, it is another material. */
const MOST_TIMES: f32 = 3, USUAL_TIMES: f32 = 2;
/** Least channel from which a colour counts less and less as one that lost a channel, and where it is white. */
const PALE: f32 = 0.7, WHITE: f32 = 0.95;

/** Whether any channel begins to be full. */
// @ts-ignore: decorator
@inline
export function isAnyFull(cR: v128, cG: v128, cB: v128): bool {
  return v128.any_true(f32x4.gt(f32x4.pmax(f32x4.pmax(cR, cG), cB), f32x4.splat(LOSING)));
}

/** How full a channel is, 0–1. */
// @ts-ignore: decorator
@inline
export function fullness(channel: v128): v128 {
  const over = f32x4.mul(f32x4.sub(channel, f32x4.splat(LOSING)), f32x4.splat(1 / (FULL - LOSING)));
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), over));
}

/** A channel of the capture by a row of its matrix. */
// @ts-ignore: decorator
@inline
export function channelOf(row: usize, R: v128, G: v128, B: v128): v128 {
  return sum3(v128.load32_splat(row), R, v128.load32_splat(row, 4), G, v128.load32_splat(row, 8), B);
}

/**
 * How far channels are (bR, bG, bB) with a channel lost, 0–1: scaled to what is not full, by not too much, it fits that, and is beyond what is full.
 * White is never: it has nothing that is not full. All are channels of the capture, each of which is full at 1.
 */
// @ts-ignore: decorator
@inline
export function lostShare(cR: v128, cG: v128, cB: v128, bR: v128, bG: v128, bB: v128): v128 {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  const fR = fullness(cR), fG = fullness(cG), fB = fullness(cB);
  const uR = f32x4.sub(one, fR), uG = f32x4.sub(one, fG), uB = f32x4.sub(one, fB);
  const wR = f32x4.mul(uR, bR), wG = f32x4.mul(uG, bG), wB = f32x4.mul(uB, bB);
  const scale = f32x4.div(sum3(wR, cR, wG, cG, wB, cB), f32x4.add(sum3(wR, bR, wG, bG, wB, bB), f32x4.splat(1e-20)));
  const dR = f32x4.sub(f32x4.mul(scale, bR), cR), dG = f32x4.sub(f32x4.mul(scale, bG), cG), dB = f32x4.sub(f32x4.mul(scale, bB), cB);
  const lost = sum3(fR, f32x4.pmax(zero, dR), fG, f32x4.pmax(zero, dG), fB, f32x4.pmax(zero, dB));
  const miss = sum3(uR, f32x4.mul(dR, dR), uG, f32x4.mul(dG, dG), uB, f32x4.mul(dB, dB));
  const all = f32x4.add(sum3(uR, f32x4.mul(cR, cR), uG, f32x4.mul(cG, cG), uB, f32x4.mul(cB, cB)), f32x4.splat(1e-6));
  const fits = f32x4.pmax(zero, f32x4.sub(one, f32x4.div(f32x4.mul(f32x4.splat(MISFIT), miss), all)));
  const least = f32x4.pmin(f32x4.pmin(cR, cG), cB);
  const coloured = f32x4.mul(f32x4.sub(f32x4.splat(WHITE), least), f32x4.splat(1 / (WHITE - PALE)));
  const near = f32x4.mul(f32x4.sub(f32x4.splat(MOST_TIMES), scale), f32x4.splat(1 / (MOST_TIMES - USUAL_TIMES)));
  const isNear = f32x4.pmin(one, f32x4.pmax(zero, near));
  const share = f32x4.mul(f32x4.mul(fits, isNear), f32x4.pmin(one, f32x4.mul(lost, f32x4.splat(1 / LOST))));
  return f32x4.mul(share, f32x4.pmin(one, f32x4.pmax(zero, coloured)));
}
