import { exp2x4, log2x4 } from "./math";
import { betweenRows, stretchRow } from "./stretch";

const FLOOR: f32 = 1e-6;
const PER_GREY: f32 = 5.5555556;
const GREY: f32 = 0.18;

/** Light → scene stops about 0.18, in a rectangle. Up to three values beyond each row's end are read and written. */
export function stopsOfLight(light: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32): void {
  for (let y = 0; y < height; y++) {
    const from = light + (<usize>(y * stride) << 2), to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      const e = f32x4.pmin(f32x4.splat(1e6), f32x4.pmax(f32x4.splat(FLOOR), v128.load(from + at)));
      v128.store(to + at, log2x4(f32x4.mul(e, f32x4.splat(PER_GREY))));
    }
  }
}

/**
 * A rectangle of a plane, whose borders are repeated beyond it. (left, top) is the rectangle's corner from the plane's, which it may
 * lie outside of.
 */
export function padPlane(
  src: usize, srcStride: i32, srcWidth: i32, srcHeight: i32, left: i32, top: i32, out: usize, width: i32, height: i32,
): void {
  // Columns whose sources all lie within.
  const from = min(width, max(0, -left)), to = max(from, min(width, srcWidth - left));
  for (let y = 0; y < height; y++) {
    const row = src + (<usize>(min(srcHeight - 1, max(0, top + y)) * srcStride) << 2);
    const at = out + (<usize>(y * width) << 2);
    const first = load<f32>(row + (<usize>min(srcWidth - 1, max(0, left)) << 2));
    const last = load<f32>(row + (<usize>(srcWidth - 1) << 2));
    for (let x = 0; x < from; x++) store<f32>(at + (<usize>x << 2), first);
    memory.copy(at + (<usize>from << 2), row + (<usize>(left + from) << 2), <usize>(to - from) << 2);
    for (let x = to; x < width; x++) store<f32>(at + (<usize>x << 2), last);
  }
}

/** Scene stops (and stops of light moves, 0 for none) → light, in a rectangle; the sources share a stride. */
export function lightOfStops(
  stops: usize, moves: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32,
): void {
  for (let y = 0; y < height; y++) {
    const row = <usize>(y * stride) << 2, to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      let l = v128.load(stops + row + at);
      if (moves) l = f32x4.add(l, v128.load(moves + row + at));
      v128.store(to + at, f32x4.mul(exp2x4(l), f32x4.splat(GREY)));
    }
  }
}

/**
 * The self-guided filter's local line (He, Sun, Tang 2010, eq. 5 and 6 with guide = input): from mean and mean square
 * to slope a = v / (v + epsilon) and offset b = mean · (1 - a), in place. n is a multiple of 4.
 */
export function guidedLine(mean: usize, square: usize, n: i32, epsilon: f32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const m = v128.load(mean + at);
    const v = f32x4.pmax(f32x4.splat(0), f32x4.sub(v128.load(square + at), f32x4.mul(m, m)));
    const a = f32x4.div(v, f32x4.add(v, f32x4.splat(epsilon)));
    v128.store(mean + at, a);
    v128.store(square + at, f32x4.mul(m, f32x4.sub(f32x4.splat(1), a)));
  }
}

// @ts-ignore: decorator
@inline
function smooth(t: v128): v128 {
  t = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), t));
  return f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)));
}

/**
 * A base at the pixels that read it: out = a·L + b, with a and b in straight lines from a coarser grid (`ratio` coarse pixels a
 * fine one; (originX, originY) is the coarse place of the first fine pixel's centre). `rows` is room for four rows of width
 * rounded up to 4.
 */
export function drawBase(
  stops: usize, stopsStride: i32, out: usize, stride: i32, width: i32, height: i32,
  slope: usize, offset: usize, coarseStride: i32, coarseWidth: i32, coarseHeight: i32, rows: usize,
  originX: f32, originY: f32, ratio: f32,
): void {
  const bytes = <usize>((width + 3) & ~3) << 2;
  let upper = rows, lower = rows + 2 * bytes;
  let upperRow = -1, lowerRow = -1;
  for (let y = 0; y < height; y++) {
    const sy = min<f32>(max<f32>(originY + ratio * <f32>y, 0), <f32>(coarseHeight - 1));
    const iy = <i32>sy;
    const next = min(iy + 1, coarseHeight - 1);
    if (iy != upperRow || next != lowerRow) {
      if (iy == lowerRow) {
        const swapped = upper;
        upper = lower;
        lower = swapped;
      } else {
        const at = <usize>(iy * coarseStride) << 2;
        stretchRow(slope + at, coarseWidth, upper, width, originX, ratio);
        stretchRow(offset + at, coarseWidth, upper + bytes, width, originX, ratio);
      }
      const at = <usize>(next * coarseStride) << 2;
      stretchRow(slope + at, coarseWidth, lower, width, originX, ratio);
      stretchRow(offset + at, coarseWidth, lower + bytes, width, originX, ratio);
      upperRow = iy;
      lowerRow = next;
    }
    const f = f32x4.splat(sy - <f32>iy);
    const from = stops + (<usize>(y * stopsStride) << 2), to = out + (<usize>(y * stride) << 2);
    for (let i: usize = 0; i < bytes; i += 16) {
      const a = betweenRows(upper + i, lower + i, f), b = betweenRows(upper + bytes + i, lower + bytes + i, f);
      v128.store(to + i, f32x4.add(f32x4.mul(a, v128.load(from + i)), b));
    }
  }
}

/**
 * Local contrast by tone and scale: L + (g·m − 1)·(fine − middle) + (g·f − 1)·(L − fine), with g = 1 + the gain of the middle
 * base's tone: `low` below -1 stop, high above +1, over one and a half stops each. Without a fine base (0) it counts as L
 * and f is not read; without a middle one (0), g is 1 and the middle term nothing. `out` may be `stops`' own plane.
 * @param gains - f32: low, mid, high, middle scale, fine scale.
 */
export function detailByTone(
  stops: usize, stopsStride: i32, fine: usize, middle: usize, baseStride: i32, out: usize, stride: i32, width: i32, height: i32,
  gains: usize,
): void {
  const mid = load<f32>(gains, 4);
  const toLow = f32x4.splat(load<f32>(gains) - mid), toHigh = f32x4.splat(load<f32>(gains, 8) - mid);
  const whole = f32x4.splat(1 + mid), one = f32x4.splat(1);
  const m = f32x4.splat(1 + load<f32>(gains, 12)), f = f32x4.splat(1 + load<f32>(gains, 16));
  const bytes = <usize>((width + 3) & ~3) << 2;
  for (let y = 0; y < height; y++) {
    const from = stops + (<usize>(y * stopsStride) << 2), to = out + (<usize>(y * stride) << 2);
    const row = <usize>(y * baseStride) << 2;
    for (let i: usize = 0; i < bytes; i += 16) {
      const l = v128.load(from + i);
      let g = one;
      let sum = l;
      const near = fine ? v128.load(fine + row + i) : l;
      if (middle) {
        const base = v128.load(middle + row + i);
        // Never low and high at once, so one step serves both.
        const t = smooth(f32x4.mul(f32x4.sub(f32x4.abs(base), one), f32x4.splat(0.6666667)));
        const outer = v128.bitselect(toHigh, toLow, f32x4.gt(base, f32x4.splat(0)));
        g = f32x4.add(whole, f32x4.mul(outer, t));
        sum = f32x4.add(l, f32x4.mul(f32x4.sub(f32x4.mul(g, m), one), f32x4.sub(near, base)));
      }
      if (fine) sum = f32x4.add(sum, f32x4.mul(f32x4.sub(f32x4.mul(g, f), one), f32x4.sub(l, near)));
      v128.store(to + i, sum);
    }
  }
}

/** ∫ of a smooth step from 0 to 1: t³ − t⁴/2 up to 1, then straight on. */
// @ts-ignore: decorator
@inline
function ramp(t: v128): v128 {
  const s = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), t));
  const bend = f32x4.mul(f32x4.mul(s, f32x4.mul(s, s)), f32x4.sub(f32x4.splat(1), f32x4.mul(s, f32x4.splat(0.5))));
  return f32x4.add(bend, f32x4.pmax(f32x4.splat(0), f32x4.sub(t, f32x4.splat(1))));
}

/** A slope that sets in smoothly at `from` and goes out again at `to`, both over `over` (its inverse is `scale`). */
// @ts-ignore: decorator
@inline
function bow(x: v128, from: v128, to: v128, over: v128, scale: v128): v128 {
  const start = ramp(f32x4.mul(f32x4.sub(x, from), scale));
  const end = ramp(f32x4.mul(f32x4.sub(x, to), scale));
  return f32x4.mul(f32x4.sub(start, end), over);
}

// @ts-ignore: decorator
@inline
function either(table: usize, first: i32, other: i32, isFirst: v128): v128 {
  return v128.bitselect(v128.load32_splat(table + (<usize>first << 2)), v128.load32_splat(table + (<usize>other << 2)), isFirst);
}

/**
 * Adds to L what belongs to the tone base B, in place: opened shadows and held highlights, and broad contrast, `broad` times what
 * `middle` (0: L itself) differs from it.
 * @param bends - f32: slopes of shadows (opened: above 0) and of highlights (held: below 0), then from, to, over of the shadows (stops below V) and of the highlights (above).
 */
export function shiftByBase(
  stops: usize, stride: i32, base: usize, middle: usize, baseStride: i32, width: i32, height: i32, broad: f32, bends: usize,
): void {
  const one = f32x4.splat(1);
  const bytes = <usize>((width + 3) & ~3) << 2;
  for (let y = 0; y < height; y++) {
    const at = stops + (<usize>(y * stride) << 2);
    const row = <usize>(y * baseStride) << 2;
    for (let i: usize = 0; i < bytes; i += 16) {
      const b = v128.load(base + row + i), l = v128.load(at + i);
      // Never shadows and highlights at once, so one bow serves both.
      const dark = f32x4.lt(b, f32x4.splat(0));
      const over = either(bends, 4, 7, dark);
      const slope = either(bends, 0, 1, dark);
      const shift = f32x4.mul(slope, bow(f32x4.abs(b), either(bends, 2, 5, dark), either(bends, 3, 6, dark), over, f32x4.div(one, over)));
      const near = middle ? v128.load(middle + row + i) : l;
      const wide = f32x4.mul(f32x4.splat(broad), f32x4.sub(near, b));
      v128.store(at + i, f32x4.add(f32x4.add(l, wide), shift));
    }
  }
}
