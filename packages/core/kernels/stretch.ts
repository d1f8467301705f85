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
  // On whole halvings four pixels always lie alike between their coarse values; only at the ends they are looked for one by one.
  const halved = <i32>(<f32>1 / ratio);
  const first = origin - <f32>0.5 * ratio + <f32>0.5;
  const isWhole = halved >= 2 && (halved & (halved - 1)) == 0 && <f32>halved * ratio == 1 && first == floor(first);
  let x = 0;
  if (ratio == 1 && origin == floor(origin)) {
    // The same grid: copied, but for what repeats the border.
    const start = min(width, max(0, (3 - <i32>origin) & ~3)), until = min(width, max(start, coarseWidth - <i32>origin));
    stretchAnyhow(row, coarseWidth, out, 0, start, origin, ratio);
    x = until & ~3;
    memory.copy(out + (<usize>start << 2), row + (<usize>(start + <i32>origin) << 2), <usize>(max(start, x) - start) << 2);
    x = max(start, x);
  } else if (isWhole) {
    const start = max(0, (1 - <i32>first) * halved);
    const until = min(width, (coarseWidth - 3 - <i32>first) * halved);
    stretchAnyhow(row, coarseWidth, out, 0, min(width, (start + 3) & ~3), origin, ratio);
    x = (start + 3) & ~3;
    const from = row + (<usize>(<i32>first - 1) << 2);
    if (halved == 2) {
      const f = f32x4(0.75, 0.25, 0.75, 0.25);
      for (; x + 4 <= until; x += 4) {
        const c = v128.load(from + (<usize>(x >> 1) << 2));
        store4(out, x, v128.shuffle<f32>(c, c, 0, 1, 1, 2), v128.shuffle<f32>(c, c, 1, 2, 2, 3), f);
      }
    } else if (halved == 4) {
      const f = f32x4(0.625, 0.875, 0.125, 0.375);
      for (; x + 4 <= until; x += 4) {
        const c = v128.load(from + (<usize>(x >> 2) << 2));
        store4(out, x, v128.shuffle<f32>(c, c, 0, 0, 1, 1), v128.shuffle<f32>(c, c, 1, 1, 2, 2), f);
      }
    } else {
      const steps = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(ratio));
      for (; x + 4 <= until; x += 4) {
        const place = origin + ratio * <f32>x;
        const whole = floor(place);
        const at = row + (<usize>(<i32>whole) << 2);
        store4(out, x, v128.load32_splat(at), v128.load32_splat(at, 4), f32x4.add(f32x4.splat(place - whole), steps));
      }
    }
  }
  if (x < width) stretchAnyhow(row, coarseWidth, out, x, width, origin, ratio);
}

// @ts-ignore: decorator
@inline
function store4(out: usize, x: i32, low: v128, high: v128, f: v128): void {
  v128.store(out + (<usize>x << 2), f32x4.add(low, f32x4.mul(f, f32x4.sub(high, low))));
}

/** The same from pixel `x` (a multiple of 4) to `until`, wherever the places lie. */
function stretchAnyhow(row: usize, coarseWidth: i32, out: usize, x: i32, until: i32, origin: f32, ratio: f32): void {
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

/**
 * A coarser plane at the pixels that read it, in straight lines: `ratio` coarse pixels a fine one; (originX, originY) is the coarse
 * place of the first fine pixel's centre. `rows` is room for two rows of width rounded up to 4.
 */
export function stretchPlane(
  coarse: usize, coarseStride: i32, coarseWidth: i32, coarseHeight: i32, out: usize, stride: i32, width: i32, height: i32, rows: usize,
  originX: f32, originY: f32, ratio: f32,
): void {
  const bytes = <usize>((width + 3) & ~3) << 2;
  let have = -1;
  for (let y = 0; y < height; y++) {
    const sy = min<f32>(max<f32>(originY + ratio * <f32>y, 0), <f32>(coarseHeight - 1));
    const iy = <i32>sy;
    if (iy != have) {
      const next = min(iy + 1, coarseHeight - 1);
      stretchRow(coarse + (<usize>(iy * coarseStride) << 2), coarseWidth, rows, width, originX, ratio);
      stretchRow(coarse + (<usize>(next * coarseStride) << 2), coarseWidth, rows + bytes, width, originX, ratio);
      have = iy;
    }
    const f = f32x4.splat(sy - <f32>iy);
    const to = out + (<usize>(y * stride) << 2);
    for (let i: usize = 0; i < bytes; i += 16) v128.store(to + i, betweenRows(rows + i, rows + bytes + i, f));
  }
}

/** Four values between two rows, `f` of the way. */
// @ts-ignore: decorator
@inline
export function betweenRows(upper: usize, lower: usize, f: v128): v128 {
  const top = v128.load(upper);
  return f32x4.add(top, f32x4.mul(f, f32x4.sub(v128.load(lower), top)));
}
