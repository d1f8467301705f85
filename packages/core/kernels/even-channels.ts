// Red and blue brought to the level that green has about them, before green is found at their sites. Planes of cells hold one value for
// each 2 × 2 sites of a padded mosaic, whose sides are even.
import { between, mixRows } from "./chroma";

/** Red, green (the mean of two) and blue of every cell: three planes, each of `n` values. Up to three values are written beyond the last row. */
export function cellColours(src: usize, out: usize, n: i32, stride: i32, height: i32, redX: i32, redY: i32): void {
  const cells = stride >> 1;
  const step = <usize>n << 2;
  const down = <usize>stride << 2;
  const half = f32x4.splat(0.5);
  for (let y = 0; y < height >> 1; y++) {
    const top = src + (<usize>(2 * y * stride) << 2);
    // Rows and columns of red first.
    const a = redY ? top + down : top, b = redY ? top : top + down;
    const to = out + (<usize>(y * cells) << 2);
    for (let x = 0; x < cells; x += 4) {
      const at = <usize>x << 3;
      const a0 = v128.load(a + at), a1 = v128.load(a + at, 16), b0 = v128.load(b + at), b1 = v128.load(b + at, 16);
      const ae = evens(a0, a1), ao = odds(a0, a1), be = evens(b0, b1), bo = odds(b0, b1);
      const o = to + (<usize>x << 2);
      v128.store(o, redX ? ao : ae);
      v128.store(o + step, f32x4.mul(half, redX ? f32x4.add(ae, bo) : f32x4.add(ao, be)));
      v128.store(o + 2 * step, redX ? be : bo);
    }
  }
}

// @ts-ignore: decorator
@inline
export function evens(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 0, 2, 4, 6);
}

// @ts-ignore: decorator
@inline
export function odds(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 1, 3, 5, 7);
}

/**
 * Planes of red and blue become what brings each to green: their ratio, not below `least` nor above `most`, and 1 where the three are nearly
 * equal, so that grey things stay as they are. In place; n is a multiple of 4.
 * @param noise - slope and offset of the variance of red, green and blue, f32 × 6. A weak channel is raised only as far as its noise then stays
 *   below `texture` times green, the contrast that is gained by it.
 * @param floor - added to every channel, so that what is nearly nothing has no ratio of its own.
 * @param alike - difference of which half is heeded, powers of e.
 */
export function channelGains(
  planes: usize, n: i32, noise: usize, texture: f32, floor: f32, alike: f32, least: f32, most: f32,
): void {
  const step = <usize>n << 2;
  const zero = f32x4.splat(0), base = f32x4.splat(floor), one = f32x4.splat(1), near = f32x4.splat(alike * alike), fine = f32x4.splat(texture * texture);
  for (let i = 0; i < n; i += 4) {
    const at = planes + (<usize>i << 2);
    const green = f32x4.pmax(base, f32x4.add(base, v128.load(at + step)));
    for (let c = 0; c < 2; c++) {
      const p = at + step * <usize>(2 * c);
      const own = f32x4.pmax(base, f32x4.add(base, v128.load(p)));
      const ratio = f32x4.div(green, own);
      // (ratio - 1)² / ratio is the square of their distance in powers of e, near enough.
      const apart = f32x4.sub(ratio, one), squared = f32x4.mul(apart, apart);
      const heeded = f32x4.div(f32x4.mul(apart, squared), f32x4.add(squared, f32x4.mul(near, ratio)));
      const line = noise + <usize>(16 * c);
      const variance = f32x4.add(f32x4.mul(v128.load32_splat(line), own), v128.load32_splat(line + 4));
      const raised = f32x4.mul(f32x4.mul(ratio, ratio), variance), gained = f32x4.mul(fine, f32x4.mul(green, green));
      const share = v128.bitselect(f32x4.div(gained, f32x4.add(gained, raised)), one, f32x4.gt(apart, zero));
      v128.store(p, f32x4.pmin(f32x4.splat(most), f32x4.pmax(f32x4.splat(least), f32x4.add(one, f32x4.mul(share, heeded)))));
    }
  }
}

/**
 * A padded mosaic with its red and blue sites multiplied by their gains.
 * @param gains - planes of cells of `n` values: red, another, blue.
 * @param row - room for stride / 2 + 8 values.
 */
export function evenSites(
  src: usize, out: usize, gains: usize, n: i32, stride: i32, height: i32, redX: i32, redY: i32, row: usize,
): void {
  const one = f32x4.splat(1);
  for (let y = 0; y < height; y++) {
    const isRed = ((y ^ redY) & 1) == 0;
    mixRows(isRed ? gains : gains + (<usize>n << 3), stride >> 1, height >> 1, y, row);
    // Red lies in even columns when redX is 0, blue in the others.
    const own = isRed == (redX == 0) ? i32x4(-1, 0, -1, 0) : i32x4(0, -1, 0, -1);
    const skipped = <usize>(y * stride) << 2;
    for (let x = 0; x < stride; x += 4) {
      const at = skipped + (<usize>x << 2);
      const gain = between(row + (<usize>(x >> 1) << 2));
      v128.store(out + at, f32x4.mul(v128.load(src + at), v128.bitselect(gain, one, own)));
    }
  }
}
