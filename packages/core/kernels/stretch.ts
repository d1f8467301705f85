import { betweenx4 } from "./math";

/** Keeps the last place before the last value, so that a pair can be read there. */
const BEFORE_LAST: f32 = 0.0001;

/**
 * One row of a coarse plane in straight lines between its values, as wide as the pixels that read it: `ratio` coarse values a
 * pixel, the first pixel's centre at `origin`. Places beyond repeat the border. Up to three values are written beyond the end.
 */
export function stretchRow(row: usize, coarseWidth: i32, out: usize, width: i32, origin: f32, ratio: f32): void {
  if (coarseWidth < 2) {
    for (let x = 0; x < width; x += 4) v128.store(out + (<usize>x << 2), v128.load32_splat(row));
    return;
  }
  const steps = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(ratio));
  const last = f32x4.splat(<f32>(coarseWidth - 1) - BEFORE_LAST);
  for (let x = 0; x < width; x += 4) {
    const place = f32x4.add(f32x4.splat(origin + ratio * <f32>x), steps);
    const at = f32x4.pmin(last, f32x4.pmax(f32x4.splat(0), place));
    const whole = f32x4.floor(at);
    const index = i32x4.shl(v128.and(f32x4.add(whole, f32x4.splat(8388608)), i32x4.splat(0x7fffff)), 2);
    v128.store(out + (<usize>x << 2), betweenx4(row, index, f32x4.sub(at, whole)));
  }
}

/** Four values between two rows, `f` of the way. */
// @ts-ignore: decorator
@inline
export function betweenRows(upper: usize, lower: usize, f: v128): v128 {
  const top = v128.load(upper);
  return f32x4.add(top, f32x4.mul(f, f32x4.sub(v128.load(lower), top)));
}
