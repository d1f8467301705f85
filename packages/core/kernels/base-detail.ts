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
 * A rectangle of a plane, whose borders are repeated beyond it, and its squares. (left, top) is the rectangle's corner from the
 * plane's, which it may lie outside of.
 */
export function padWithSquares(
  src: usize, srcStride: i32, srcWidth: i32, srcHeight: i32, left: i32, top: i32, out: usize, squares: usize, width: i32, height: i32,
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
  const bytes = <usize>(width * height) << 2;
  for (let i: usize = 0; i < bytes; i += 16) {
    const v = v128.load(out + i);
    v128.store(squares + i, f32x4.mul(v, v));
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
 * Local contrast: out = L + gain(base) · (L - base), L in scene stops, base = a·L + b with a and b bilinear from a coarser
 * grid (`ratio` coarse pixels a fine one; (originX, originY) is the coarse place of the first fine pixel's centre).
 * gain blends `low`, `mid`, `high` by the base: low below -1 stop, high above +1, over one and a half stops each.
 * `rows` is room for five rows of width rounded up to 4.
 */
export function localContrast(
  stops: usize, stopsStride: i32, out: usize, stride: i32, width: i32, height: i32,
  slope: usize, offset: usize, coarseStride: i32, coarseWidth: i32, coarseHeight: i32, rows: usize,
  originX: f32, originY: f32, ratio: f32, low: f32, mid: f32, high: f32,
): void {
  const toLow = f32x4.splat(low - mid), toHigh = f32x4.splat(high - mid), gMid = f32x4.splat(mid);
  const bytes = <usize>((width + 3) & ~3) << 2;
  const bases = rows + 4 * bytes;
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
    // Two short loops: one long chain of dependent steps would be slower.
    for (let i: usize = 0; i < bytes; i += 16) {
      const a = betweenRows(upper + i, lower + i, f), b = betweenRows(upper + bytes + i, lower + bytes + i, f);
      v128.store(bases + i, f32x4.add(f32x4.mul(a, v128.load(from + i)), b));
    }
    for (let i: usize = 0; i < bytes; i += 16) {
      const base = v128.load(bases + i), l = v128.load(from + i);
      // Never low and high at once, so one step serves both.
      const t = smooth(f32x4.mul(f32x4.sub(f32x4.abs(base), f32x4.splat(1)), f32x4.splat(0.6666667)));
      const outer = v128.bitselect(toHigh, toLow, f32x4.gt(base, f32x4.splat(0)));
      const gain = f32x4.add(gMid, f32x4.mul(outer, t));
      v128.store(to + i, f32x4.add(l, f32x4.mul(gain, f32x4.sub(l, base))));
    }
  }
}
