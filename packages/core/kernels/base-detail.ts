import { exp2Row, log2Row } from "./rows";
import { betweenRows, stretchRow } from "./stretch";

const FLOOR: f32 = 1e-6;
const PER_GREY: f32 = 5.5555556;
const GREY: f32 = 0.18;

/** Light → scene stops about 0.18, in a rectangle. Up to three values beyond each row's end are read and written. */
export function stopsOfLight(light: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32): void {
  const bytes = <usize>((width + 3) & ~3) << 2;
  for (let y = 0; y < height; y++)
    log2Row(light + (<usize>(y * stride) << 2), out + (<usize>(y * outStride) << 2), bytes, FLOOR, PER_GREY);
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
  const bytes = <usize>((width + 3) & ~3) << 2;
  for (let y = 0; y < height; y++) {
    const row = <usize>(y * stride) << 2, to = out + (<usize>(y * outStride) << 2);
    if (moves == 0) exp2Row(stops + row, to, bytes, GREY);
    else {
      for (let i: usize = 0; i < bytes; i += 16)
        v128.store(to + i, f32x4.add(v128.load(stops + row + i), v128.load(moves + row + i)));
      exp2Row(to, to, bytes, GREY);
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
  const bytes = <usize>((width + 3) & ~3) << 2;
  const whole = bytes & ~31;
  const one = f32x4.splat(1);
  const low = v128.load32_splat(gains), mid = v128.load32_splat(gains, 4), high = v128.load32_splat(gains, 8);
  const m = f32x4.add(one, v128.load32_splat(gains, 12)), f = f32x4.add(one, v128.load32_splat(gains, 16));
  for (let y = 0; y < height; y++) {
    const from = stops + (<usize>(y * stopsStride) << 2), to = out + (<usize>(y * stride) << 2);
    const row = <usize>(y * baseStride) << 2;
    const near = fine ? fine + row : from;
    if (!middle) {
      const gain = f32x4.splat(load<f32>(gains, 16));
      for (let i: usize = 0; i < bytes; i += 16) {
        const l = v128.load(from + i);
        v128.store(to + i, f32x4.add(l, f32x4.mul(gain, f32x4.sub(l, v128.load(near + i)))));
      }
      continue;
    }
    let i: usize = 0;
    for (; i < whole; i += 32) {
      const a = detailed(from + i, near + i, middle + row + i, low, mid, high, m, f);
      const b = detailed(from + i + 16, near + i + 16, middle + row + i + 16, low, mid, high, m, f);
      v128.store(to + i, a);
      v128.store(to + i, b, 16);
    }
    for (; i < bytes; i += 16) v128.store(to + i, detailed(from + i, near + i, middle + row + i, low, mid, high, m, f));
  }
}

// @ts-ignore: decorator
@inline
function detailed(stops: usize, fine: usize, middle: usize, low: v128, mid: v128, high: v128, m: v128, f: v128): v128 {
  const l = v128.load(stops), near = v128.load(fine), base = v128.load(middle), one = f32x4.splat(1);
  // Never low and high at once, so one step serves both.
  const t = smooth(f32x4.mul(f32x4.sub(f32x4.abs(base), one), f32x4.splat(0.6666667)));
  const outer = v128.bitselect(high, low, f32x4.gt(base, f32x4.splat(0)));
  const g = f32x4.add(f32x4.add(one, mid), f32x4.mul(f32x4.sub(outer, mid), t));
  const wide = f32x4.mul(f32x4.sub(f32x4.mul(g, m), one), f32x4.sub(near, base));
  return f32x4.add(f32x4.add(l, wide), f32x4.mul(f32x4.sub(f32x4.mul(g, f), one), f32x4.sub(l, near)));
}

/**
 * Adds to L what belongs to the tone base B, in place: opened shadows and held highlights, and broad contrast, `broad` times what
 * `middle` (0: L itself) differs from it.
 * @param bends - f32: slopes of shadows (opened: above 0) and of highlights (held: below 0), then from, to, over of the shadows (stops below V) and of the highlights (above).
 */
export function shiftByBase(
  stops: usize, stride: i32, base: usize, middle: usize, baseStride: i32, width: i32, height: i32, broad: f32, bends: usize,
): void {
  const bytes = <usize>((width + 3) & ~3) << 2;
  const whole = bytes & ~31;
  for (let y = 0; y < height; y++) {
    const at = stops + (<usize>(y * stride) << 2);
    const row = <usize>(y * baseStride) << 2;
    const near = middle ? middle + row : at;
    let i: usize = 0;
    for (; i < whole; i += 32) {
      const a = shifted(at + i, base + row + i, near + i, broad, bends);
      const b = shifted(at + i + 16, base + row + i + 16, near + i + 16, broad, bends);
      v128.store(at + i, a);
      v128.store(at + i, b, 16);
    }
    for (; i < bytes; i += 16) v128.store(at + i, shifted(at + i, base + row + i, near + i, broad, bends));
  }
}

// @ts-ignore: decorator
@inline
function shifted(stops: usize, base: usize, near: usize, broad: f32, bends: usize): v128 {
  const b = v128.load(base), l = v128.load(stops);
  // Never shadows and highlights at once, so one bow serves both.
  const dark = f32x4.lt(b, f32x4.splat(0));
  const over = either(bends, 4, 7, dark);
  const slope = either(bends, 0, 1, dark);
  const bent = bow(f32x4.abs(b), either(bends, 2, 5, dark), either(bends, 3, 6, dark), over, f32x4.div(f32x4.splat(1), over));
  const wide = f32x4.mul(f32x4.splat(broad), f32x4.sub(v128.load(near), b));
  return f32x4.add(f32x4.add(l, wide), f32x4.mul(slope, bent));
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
