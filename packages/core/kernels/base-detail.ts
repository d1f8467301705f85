import { exp2x4, log2x4 } from "./math";

const FLOOR: f32 = 1e-6;
const PER_GREY: f32 = 5.5555556;

/** Light → scene stops about 0.18, in place allowed; also its square. n is a multiple of 4. */
export function stopsAndSquares(light: usize, stops: usize, squares: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const e = f32x4.pmax(f32x4.splat(FLOOR), v128.load(light + at));
    const l = log2x4(f32x4.mul(f32x4.min(e, f32x4.splat(1e6)), f32x4.splat(PER_GREY)));
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
    const v = f32x4.max(f32x4.sub(v128.load(square + at), f32x4.mul(m, m)), f32x4.splat(0));
    const a = f32x4.div(v, f32x4.add(v, f32x4.splat(epsilon)));
    v128.store(mean + at, a);
    v128.store(square + at, f32x4.mul(m, f32x4.sub(f32x4.splat(1), a)));
  }
}

// @ts-ignore: decorator
@inline
function smooth(t: v128): v128 {
  t = f32x4.min(f32x4.max(t, f32x4.splat(0)), f32x4.splat(1));
  return f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)));
}

// @ts-ignore: decorator
@inline
function bilinear(plane: usize, row0: usize, row1: usize, x0: usize, x1: usize, fx: f32, fy: f32): f32 {
  const top = load<f32>(plane + row0 + x0) + fx * (load<f32>(plane + row0 + x1) - load<f32>(plane + row0 + x0));
  const low = load<f32>(plane + row1 + x0) + fx * (load<f32>(plane + row1 + x1) - load<f32>(plane + row1 + x0));
  return top + fy * (low - top);
}

/**
 * Local contrast: out = E · 2^(gain(base) · (L - base)), L in stops, base = a·L + b with a and b bilinear from a coarser
 * grid (`ratio` coarse pixels a fine one; (originX, originY) is the coarse place of the first fine pixel's centre).
 * gain blends `low`, `mid`, `high` by the base: low below -1 stop, high above +1, over one and a half stops each.
 */
export function localContrast(
  light: usize, out: usize, stride: i32, width: i32, height: i32,
  slope: usize, offset: usize, coarseStride: i32, coarseWidth: i32, coarseHeight: i32,
  originX: f32, originY: f32, ratio: f32, low: f32, mid: f32, high: f32,
): void {
  const toLow = f32x4.splat(low - mid), toHigh = f32x4.splat(high - mid), gMid = f32x4.splat(mid);
  const perSpan = f32x4.splat(0.6666667);
  for (let y = 0; y < height; y++) {
    const sy = min<f32>(max<f32>(originY + ratio * <f32>y, 0), <f32>(coarseHeight - 1));
    const iy = <i32>sy;
    const fy = sy - <f32>iy;
    const row0 = <usize>(iy * coarseStride) << 2, row1 = <usize>(min(iy + 1, coarseHeight - 1) * coarseStride) << 2;
    const from = <usize>(y * stride) << 2;
    for (let x = 0; x < width; x += 4) {
      let a = f32x4.splat(0), b = f32x4.splat(0);
      for (let k = 0; k < 4; k++) {
        const sx = min<f32>(max<f32>(originX + ratio * <f32>(x + k), 0), <f32>(coarseWidth - 1));
        const ix = <i32>sx;
        const fx = sx - <f32>ix;
        const x0 = <usize>ix << 2, x1 = <usize>min(ix + 1, coarseWidth - 1) << 2;
        const va = bilinear(slope, row0, row1, x0, x1, fx, fy), vb = bilinear(offset, row0, row1, x0, x1, fx, fy);
        if (k == 0) { a = f32x4.replace_lane(a, 0, va); b = f32x4.replace_lane(b, 0, vb); }
        else if (k == 1) { a = f32x4.replace_lane(a, 1, va); b = f32x4.replace_lane(b, 1, vb); }
        else if (k == 2) { a = f32x4.replace_lane(a, 2, va); b = f32x4.replace_lane(b, 2, vb); }
        else { a = f32x4.replace_lane(a, 3, va); b = f32x4.replace_lane(b, 3, vb); }
      }
      const at = from + (<usize>x << 2);
      const e = v128.load(light + at);
      const l = log2x4(f32x4.mul(f32x4.min(f32x4.pmax(f32x4.splat(FLOOR), e), f32x4.splat(1e6)), f32x4.splat(PER_GREY)));
      const base = f32x4.add(f32x4.mul(a, l), b);
      const wLow = smooth(f32x4.mul(f32x4.sub(f32x4.splat(-1), base), perSpan));
      const wHigh = smooth(f32x4.mul(f32x4.sub(base, f32x4.splat(1)), perSpan));
      const gain = f32x4.add(gMid, f32x4.add(f32x4.mul(toLow, wLow), f32x4.mul(toHigh, wHigh)));
      v128.store(out + at, f32x4.mul(e, exp2x4(f32x4.mul(gain, f32x4.sub(l, base)))));
    }
  }
}
