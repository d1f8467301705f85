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
  let x = 0;
  if (ratio == 1 && origin == floor(origin)) {
    // The same grid: copied, but for what repeats the border.
    const start = min(width, max(0, (3 - <i32>origin) & ~3)), until = min(width, max(start, coarseWidth - <i32>origin));
    stretchAnyhow(row, coarseWidth, out, 0, start, origin, ratio);
    x = until & ~3;
    memory.copy(out + (<usize>start << 2), row + (<usize>(start + <i32>origin) << 2), <usize>(max(start, x) - start) << 2);
    x = max(start, x);
  }
  if (x < width) stretchAnyhow(row, coarseWidth, out, x, width, origin, ratio);
}

/** The same from pixel `x` (a multiple of 4) to `until`, wherever the places lie. */
function stretchAnyhow(row: usize, coarseWidth: i32, out: usize, x: i32, until: i32, origin: f32, ratio: f32): void {
  if (x >= until) return;
  if (ratio <= 1 && until <= PLANNED) {
    plan(coarseWidth, until, origin, ratio);
    for (; x + 4 < until; x += 8) {
      const a = planned(row, x), b = planned(row, x + 4);
      v128.store(out + (<usize>x << 2), a);
      v128.store(out + (<usize>x << 2), b, 16);
    }
    if (x < until) v128.store(out + (<usize>x << 2), planned(row, x));
    return;
  }
  const steps = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(ratio));
  const last = f32x4.splat(<f32>(coarseWidth - 1) - BEFORE_LAST);
  for (; x < until; x += 4) {
    const place = f32x4.add(f32x4.splat(origin + ratio * <f32>x), steps);
    const at = f32x4.pmin(last, f32x4.pmax(f32x4.splat(0), place));
    const whole = f32x4.floor(at);
    const index = i32x4.shl(v128.and(f32x4.add(whole, f32x4.splat(8388608)), i32x4.splat(0x7fffff)), 2);
    v128.store(out + (<usize>x << 2), betweenx4(row, index, f32x4.sub(at, whole)));
  }
}

/** Pixels of a row for which a plan has room. */
const PLANNED: i32 = 528;
// Of each four pixels, which lie among five values side by side: how far between two of them, which bytes of the five, where these begin.
const shares = memory.data(4 * 528, 16), patterns = memory.data(4 * 528, 16), beginnings = memory.data(528, 16);
let plannedWidth: i32 = 0;
let plannedOrigin: f32 = 0;
let plannedRatio: f32 = 0;
let plannedUntil: i32 = 0;

/** Says where the pixels of a row lie, once for all rows that lie alike. */
function plan(coarseWidth: i32, until: i32, origin: f32, ratio: f32): void {
  const isAlike = plannedWidth == coarseWidth && plannedOrigin == origin && plannedRatio == ratio;
  if (isAlike && plannedUntil >= until) return;
  plannedWidth = coarseWidth;
  plannedOrigin = origin;
  plannedRatio = ratio;
  plannedUntil = until;
  const steps = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(ratio));
  const last = f32x4.splat(<f32>(coarseWidth - 1) - BEFORE_LAST);
  for (let x = 0; x < until; x += 4) {
    const place = f32x4.add(f32x4.splat(origin + ratio * <f32>x), steps);
    const at = f32x4.pmin(last, f32x4.pmax(f32x4.splat(0), place));
    const whole = i32x4.trunc_sat_f32x4_s(at);
    const first = i32x4.extract_lane(whole, 0);
    const apart = i32x4.mul(i32x4.sub(whole, i32x4.splat(first)), i32x4.splat(0x04040404));
    v128.store(shares + (<usize>x << 2), f32x4.sub(at, f32x4.floor(at)));
    v128.store(patterns + (<usize>x << 2), i32x4.add(apart, i32x4.splat(0x03020100)));
    store<i32>(beginnings + <usize>x, first << 2);
  }
}

/** Four pixels of a row by the plan; up to three values beyond the row's end are read, of which none counts. */
// @ts-ignore: decorator
@inline
function planned(row: usize, x: i32): v128 {
  const from = row + <usize>load<i32>(beginnings + <usize>x), pattern = v128.load(patterns + (<usize>x << 2));
  const low = i8x16.swizzle(v128.load(from), pattern), high = i8x16.swizzle(v128.load(from, 4), pattern);
  return f32x4.add(low, f32x4.mul(v128.load(shares + (<usize>x << 2)), f32x4.sub(high, low)));
}

/**
 * A coarser plane at the pixels that read it, in straight lines: `ratio` coarse pixels a fine one; (originX, originY) is the coarse
 * place of the first fine pixel's centre. `rows` is room for two rows of width rounded up to 4.
 */
export function stretchPlane(
  coarse: usize, coarseStride: i32, coarseWidth: i32, coarseHeight: i32, out: usize, stride: i32, width: i32, height: i32, rows: usize,
  originX: f32, originY: f32, ratio: f32,
): void {
  const bytes = <usize>((width + 3) & ~3) << 2;
  let upper = rows, lower = rows + bytes;
  let have = -2;
  for (let y = 0; y < height; y++) {
    const sy = min<f32>(max<f32>(originY + ratio * <f32>y, 0), <f32>(coarseHeight - 1));
    const iy = <i32>sy;
    if (iy != have) {
      const next = min(iy + 1, coarseHeight - 1);
      if (iy == have + 1) {
        const swapped = upper;
        upper = lower;
        lower = swapped;
      } else stretchRow(coarse + (<usize>(iy * coarseStride) << 2), coarseWidth, upper, width, originX, ratio);
      stretchRow(coarse + (<usize>(next * coarseStride) << 2), coarseWidth, lower, width, originX, ratio);
      have = iy;
    }
    const f = f32x4.splat(sy - <f32>iy);
    const to = out + (<usize>(y * stride) << 2);
    for (let i: usize = 0; i < bytes; i += 16) v128.store(to + i, betweenRows(upper + i, lower + i, f));
  }
}

/** Four values between two rows, `f` of the way. */
// @ts-ignore: decorator
@inline
export function betweenRows(upper: usize, lower: usize, f: v128): v128 {
  const top = v128.load(upper);
  return f32x4.add(top, f32x4.mul(f, f32x4.sub(v128.load(lower), top)));
}
