import { exp2x4, log2x4 } from "./math";

const FLOOR: f32 = 1e-6;
const PER_GREY: f32 = 5.5555556;

/** Light → scene stops about 0.18, in place allowed; also its square. n is a multiple of 4. */
export function stopsAndSquares(light: usize, stops: usize, squares: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const e = f32x4.pmax(f32x4.splat(FLOOR), v128.load(light + at));
    const l = log2x4(f32x4.mul(f32x4.pmin(f32x4.splat(1e6), e), f32x4.splat(PER_GREY)));
    v128.store(stops + at, l);
    v128.store(squares + at, f32x4.mul(l, l));
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

/** Rows y0 and y1 of a plane mixed into `out`, the last column repeated, so that a pair can be read anywhere. */
// @ts-ignore: decorator
@inline
function mixRows(plane: usize, y0: i32, y1: i32, f: f32, stride: i32, width: i32, out: usize): void {
  const a = plane + (<usize>(y0 * stride) << 2), b = plane + (<usize>(y1 * stride) << 2);
  for (let x = 0; x < width; x++) {
    const at = <usize>x << 2;
    const top = load<f32>(a + at);
    store<f32>(out + at, top + f * (load<f32>(b + at) - top));
  }
  store<f32>(out + (<usize>width << 2), load<f32>(out + (<usize>(width - 1) << 2)));
}

/** Four values between pairs of neighbours at byte offsets `index`, `f` of the way. */
// @ts-ignore: decorator
@inline
export function betweenx4(row: usize, index: v128, f: v128): v128 {
  let p = v128.load64_zero(row + i32x4.extract_lane(index, 0));
  p = v128.load64_lane(row + i32x4.extract_lane(index, 1), p, 1);
  let q = v128.load64_zero(row + i32x4.extract_lane(index, 2));
  q = v128.load64_lane(row + i32x4.extract_lane(index, 3), q, 1);
  const lo = v128.shuffle<i32>(p, q, 0, 2, 4, 6);
  return f32x4.add(lo, f32x4.mul(f, f32x4.sub(v128.shuffle<i32>(p, q, 1, 3, 5, 7), lo)));
}

/**
 * Local contrast: out = E · 2^(gain(base) · (L - base)), L in stops, base = a·L + b with a and b bilinear from a coarser
 * grid (`ratio` coarse pixels a fine one; (originX, originY) is the coarse place of the first fine pixel's centre).
 * gain blends `low`, `mid`, `high` by the base: low below -1 stop, high above +1, over one and a half stops each.
 * `rows` is room for 2·(coarseWidth + 1) values.
 */
export function localContrast(
  light: usize, out: usize, stride: i32, width: i32, height: i32,
  slope: usize, offset: usize, coarseStride: i32, coarseWidth: i32, coarseHeight: i32, rows: usize,
  originX: f32, originY: f32, ratio: f32, low: f32, mid: f32, high: f32,
): void {
  const toLow = f32x4.splat(low - mid), toHigh = f32x4.splat(high - mid), gMid = f32x4.splat(mid);
  const perSpan = f32x4.splat(0.6666667);
  const rowB = rows + (<usize>(coarseWidth + 1) << 2);
  const steps = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(ratio));
  const lastX = f32x4.splat(<f32>(coarseWidth - 1));
  for (let y = 0; y < height; y++) {
    const sy = min<f32>(max<f32>(originY + ratio * <f32>y, 0), <f32>(coarseHeight - 1));
    const iy = <i32>sy;
    const next = min(iy + 1, coarseHeight - 1);
    mixRows(slope, iy, next, sy - <f32>iy, coarseStride, coarseWidth, rows);
    mixRows(offset, iy, next, sy - <f32>iy, coarseStride, coarseWidth, rowB);
    const from = <usize>(y * stride) << 2;
    for (let x = 0; x < width; x += 4) {
      const sx = f32x4.pmin(lastX, f32x4.pmax(f32x4.splat(0), f32x4.add(f32x4.splat(originX + ratio * <f32>x), steps)));
      const whole = f32x4.floor(sx);
      const index = i32x4.shl(v128.and(f32x4.add(whole, f32x4.splat(8388608)), i32x4.splat(0x7fffff)), 2);
      const f = f32x4.sub(sx, whole);
      const at = from + (<usize>x << 2);
      const e = v128.load(light + at);
      const l = log2x4(f32x4.mul(f32x4.pmin(f32x4.splat(1e6), f32x4.pmax(f32x4.splat(FLOOR), e)), f32x4.splat(PER_GREY)));
      const base = f32x4.add(f32x4.mul(betweenx4(rows, index, f), l), betweenx4(rowB, index, f));
      const wLow = smooth(f32x4.mul(f32x4.sub(f32x4.splat(-1), base), perSpan));
      const wHigh = smooth(f32x4.mul(f32x4.sub(base, f32x4.splat(1)), perSpan));
      const gain = f32x4.add(gMid, f32x4.add(f32x4.mul(toLow, wLow), f32x4.mul(toHigh, wHigh)));
      v128.store(out + at, f32x4.mul(e, exp2x4(f32x4.mul(gain, f32x4.sub(l, base)))));
    }
  }
}
