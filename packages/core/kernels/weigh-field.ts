// Colour into grey by a field of weights.

import { channelOf, isAnyFull, lostShare } from "./full";
import { loadHalfx4 } from "./half";
import { sum3 } from "./math";
import { betweenRows, stretchRow } from "./stretch";

/** Planes of a line and of gains, and of what is bright. */
const LINE = 6, BRIGHT = 5;

/**
 * Light by a field of weights: E = x0·R + x1·G + x2·B + x3, kept between `least` · x4 and `most` · x5 times the light of the weights (r, g, b). A
 * colour that lost a channel of what is bright about it, (x6, x7, x8) in the capture's channels, gets the gain x9 of that, by as much as x10 says that
 * it is known: its own is no material's. The eleven planes are bilinear from a coarser grid (`ratio` coarse cells a pixel; (originX, originY) is the coarse place of the first
 * pixel's centre). Layout as in `weighHalf`. `rows` is room for 22 rows of width rounded up to 4.
 * @param sensor - twelve values: a matrix by rows to the channels of the capture, each of which is full at 1; then red, green and blue
 * below which no channel begins to be full.
 */
export function weighByField(
  red: usize, green: usize, blue: usize, width: i32, height: i32, out: usize, outStride: i32,
  x0: usize, x1: usize, x2: usize, x3: usize, x4: usize, x5: usize, x6: usize, x7: usize, x8: usize, x9: usize, x10: usize,
  coarseStride: i32, coarseWidth: i32, coarseHeight: i32, rows: usize,
  originX: f32, originY: f32, ratio: f32, r: f32, g: f32, b: f32, least: f32, most: f32, sensor: usize,
): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b), low = f32x4.splat(least), high = f32x4.splat(most);
  const fullR = v128.load32_splat(sensor, 36), fullG = v128.load32_splat(sensor, 40), fullB = v128.load32_splat(sensor, 44);
  const bytes = <usize>((width + 3) & ~3) << 2;
  const coarseBytes = <usize>coarseStride << 2;
  let upper = rows, lower = rows + LINE * bytes, brightUpper = rows + 2 * LINE * bytes, brightLower = brightUpper + BRIGHT * bytes;
  let have = -2, haveBright = -2;
  for (let y = 0; y < height; y++) {
    const sy = min<f32>(max<f32>(originY + ratio * <f32>y, 0), <f32>(coarseHeight - 1));
    const iy = <i32>sy;
    const top = <usize>iy * coarseBytes, bottom = <usize>min(iy + 1, coarseHeight - 1) * coarseBytes;
    if (iy != have) {
      const swapped = upper;
      upper = lower;
      lower = swapped;
      for (let row = iy == have + 1 ? 1 : 0; row < 2; row++) {
        const from = row == 0 ? top : bottom, to = row == 0 ? upper : lower;
        stretchRow(x0 + from, coarseWidth, to, width, originX, ratio);
        stretchRow(x1 + from, coarseWidth, to + bytes, width, originX, ratio);
        stretchRow(x2 + from, coarseWidth, to + 2 * bytes, width, originX, ratio);
        stretchRow(x3 + from, coarseWidth, to + 3 * bytes, width, originX, ratio);
        stretchRow(x4 + from, coarseWidth, to + 4 * bytes, width, originX, ratio);
        stretchRow(x5 + from, coarseWidth, to + 5 * bytes, width, originX, ratio);
      }
      have = iy;
    }
    const down = f32x4.splat(sy - <f32>iy);
    const from = <usize>(y * width) << 1;
    const to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = from + (<usize>x << 1);
      const across = <usize>x << 2;
      const above = upper + across, below = lower + across;
      const R = loadHalfx4(red + at), G = loadHalfx4(green + at), B = loadHalfx4(blue + at);
      let e = byLine(above, below, bytes, down, R, G, B);
      const plain = sum3(wr, R, wg, G, wb, B);
      if (v128.any_true(v128.or(v128.or(f32x4.gt(R, fullR), f32x4.gt(G, fullG)), f32x4.gt(B, fullB)))) {
        const cR = channelOf(sensor, R, G, B), cG = channelOf(sensor + 12, R, G, B), cB = channelOf(sensor + 24, R, G, B);
        if (isAnyFull(cR, cG, cB)) {
          if (haveBright != iy) {
            const swapped = brightUpper;
            brightUpper = brightLower;
            brightLower = swapped;
            for (let row = iy == haveBright + 1 ? 1 : 0; row < 2; row++) {
              const first = row == 0 ? top : bottom, into = row == 0 ? brightUpper : brightLower;
              stretchRow(x6 + first, coarseWidth, into, width, originX, ratio);
              stretchRow(x7 + first, coarseWidth, into + bytes, width, originX, ratio);
              stretchRow(x8 + first, coarseWidth, into + 2 * bytes, width, originX, ratio);
              stretchRow(x9 + first, coarseWidth, into + 3 * bytes, width, originX, ratio);
              stretchRow(x10 + first, coarseWidth, into + 4 * bytes, width, originX, ratio);
            }
            haveBright = iy;
          }
          const bright = brightUpper + across, brightBelow = brightLower + across;
          const known = betweenRows(bright + 4 * bytes, brightBelow + 4 * bytes, down);
          if (v128.any_true(known)) {
            const bR = betweenRows(bright, brightBelow, down), bG = betweenRows(bright + bytes, brightBelow + bytes, down);
            const bB = betweenRows(bright + 2 * bytes, brightBelow + 2 * bytes, down);
            const gain = betweenRows(bright + 3 * bytes, brightBelow + 3 * bytes, down);
            const share = f32x4.mul(known, lostShare(cR, cG, cB, bR, bG, bB));
            e = f32x4.add(e, f32x4.mul(share, f32x4.sub(f32x4.mul(plain, gain), e)));
          }
        }
      }
      const p = f32x4.mul(f32x4.mul(plain, low), betweenRows(above + 4 * bytes, below + 4 * bytes, down));
      const q = f32x4.mul(f32x4.mul(plain, high), betweenRows(above + 5 * bytes, below + 5 * bytes, down));
      v128.store(to + across, f32x4.pmin(f32x4.pmax(p, q), f32x4.pmax(f32x4.pmin(p, q), e)));
    }
  }
}

/** The line's light of colours; its planes `bytes` apart in two rows. */
// @ts-ignore: decorator
@inline
function byLine(upper: usize, lower: usize, bytes: usize, down: v128, R: v128, G: v128, B: v128): v128 {
  const r = betweenRows(upper, lower, down), g = betweenRows(upper + bytes, lower + bytes, down);
  const b = betweenRows(upper + 2 * bytes, lower + 2 * bytes, down);
  return f32x4.add(sum3(r, R, g, G, b, B), betweenRows(upper + 3 * bytes, lower + 3 * bytes, down));
}
