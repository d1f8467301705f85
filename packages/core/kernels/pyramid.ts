import { halfx4 } from "./half";

const RED: f32 = 0.26270021201126703, GREEN: f32 = 0.6779980715188708, BLUE: f32 = 0.05930171646986196;
/** Light this little beyond white is none. */
const LEAST_OVER: f32 = 1e-4;

/**
 * Takes from each pixel, as grey, the luminance (Rec.2020) that lies beyond sensor white, so that its colour differences stay; `over` receives
 * it. Returns whether there is any.
 */
export function cutOver(red: usize, green: usize, blue: usize, over: usize, n: i32): bool {
  let any = f32x4.splat(0);
  const whole = n & ~3;
  for (let i = 0; i < whole; i += 4) {
    const at = <usize>i << 2;
    const r = v128.load(red + at), g = v128.load(green + at), b = v128.load(blue + at);
    const light = f32x4.add(
      f32x4.add(f32x4.mul(f32x4.splat(RED), r), f32x4.mul(f32x4.splat(GREEN), g)),
      f32x4.mul(f32x4.splat(BLUE), b),
    );
    const excess = f32x4.sub(light, f32x4.splat(1));
    const beyond = v128.and(excess, f32x4.gt(excess, f32x4.splat(LEAST_OVER)));
    v128.store(over + at, beyond);
    if (!v128.any_true(beyond)) continue;
    any = v128.or(any, beyond);
    v128.store(red + at, f32x4.sub(r, beyond));
    v128.store(green + at, f32x4.sub(g, beyond));
    v128.store(blue + at, f32x4.sub(b, beyond));
  }
  let found = v128.any_true(any);
  for (let i = whole; i < n; i++) {
    const at = <usize>i << 2;
    const excess = RED * load<f32>(red + at) + GREEN * load<f32>(green + at) + BLUE * load<f32>(blue + at) - <f32>1;
    const beyond = excess > LEAST_OVER ? excess : <f32>0;
    store<f32>(over + at, beyond);
    store<f32>(red + at, load<f32>(red + at) - beyond);
    store<f32>(green + at, load<f32>(green + at) - beyond);
    store<f32>(blue + at, load<f32>(blue + at) - beyond);
    found = found || beyond > 0;
  }
  return found;
}

/**
 * Half floats (to nearest, ties to even) of a rectangle: rows of `width` values one after the other. Up to three values are written beyond
 * the last.
 */
export function halvesOfRect(src: usize, stride: i32, width: i32, height: i32, out: usize): void {
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * stride) << 2);
    const to = out + (<usize>(y * width) << 1);
    let x = 0;
    for (; x <= width - 8; x += 8) {
      const o = <usize>x << 2;
      v128.store(to + (<usize>x << 1), i16x8.narrow_i32x4_u(halfx4(v128.load(from + o)), halfx4(v128.load(from + o, 16))));
    }
    for (; x < width; x += 4) {
      const h = halfx4(v128.load(from + (<usize>x << 2)));
      v128.store64_lane(to + (<usize>x << 1), i16x8.narrow_i32x4_u(h, h), 0);
    }
  }
}

/** 2×2 mean of one f32 plane; odd last rows and columns are repeated. */
export function halve(src: usize, srcWidth: i32, srcHeight: i32, out: usize, outWidth: i32, outHeight: i32): void {
  for (let y = 0; y < outHeight; y++) {
    const top = src + (<usize>(2 * y * srcWidth) << 2);
    const bottom = src + (<usize>(min(2 * y + 1, srcHeight - 1) * srcWidth) << 2);
    const o = out + (<usize>(y * outWidth) << 2);
    let x = 0;
    for (; 2 * x <= srcWidth - 8; x += 4)
      v128.store(o + (<usize>x << 2), f32x4.mul(sumCells(top, bottom, <usize>x << 3), f32x4.splat(0.25)));
    for (; x < outWidth; x++) {
      const left = <usize>(2 * x) << 2, right = <usize>min(2 * x + 1, srcWidth - 1) << 2;
      const sum = load<f32>(top + left) + load<f32>(top + right) + load<f32>(bottom + left) + load<f32>(bottom + right);
      store<f32>(o + (<usize>x << 2), sum * <f32>0.25);
    }
  }
}

/** Sums of 2 × 2 values of two rows, four of them. */
// @ts-ignore: decorator
@inline
export function sumCells(a: usize, b: usize, at: usize): v128 {
  const a0 = v128.load(a + at), a1 = v128.load(a + at, 16), b0 = v128.load(b + at), b1 = v128.load(b + at, 16);
  const top = f32x4.add(v128.shuffle<f32>(a0, a1, 0, 2, 4, 6), v128.shuffle<f32>(a0, a1, 1, 3, 5, 7));
  return f32x4.add(f32x4.add(top, v128.shuffle<f32>(b0, b1, 0, 2, 4, 6)), v128.shuffle<f32>(b0, b1, 1, 3, 5, 7));
}
