import { loadHalfx4 } from "./half";
import { exp2x4 } from "./math";

/**
 * E = r·R + g·G + b·B from three half-float planes (stride = width) to one f32 plane of stride `outStride`. Up to three
 * values are written beyond each row's end, so `outStride` leaves room for them.
 */
export function weighHalf(
  red: usize, green: usize, blue: usize, width: i32, height: i32, out: usize, outStride: i32, r: f32, g: f32, b: f32,
): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b);
  for (let y = 0; y < height; y++) {
    const from = <usize>(y * width) << 1;
    const to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = from + (<usize>x << 1);
      let e = f32x4.mul(wr, loadHalfx4(red + at));
      e = f32x4.add(e, f32x4.mul(wg, loadHalfx4(green + at)));
      e = f32x4.add(e, f32x4.mul(wb, loadHalfx4(blue + at)));
      v128.store(to + (<usize>x << 2), e);
    }
  }
}

/**
 * Gives back what a lens lost towards the corners, in place: E · 2^(stops · r²), r in half diagonals from the centre.
 * (x0, y0) is the first pixel's place from the centre and `step` a pixel, in half diagonals.
 */
export function liftCorners(light: usize, stride: i32, width: i32, height: i32, x0: f32, y0: f32, step: f32, stops: f32): void {
  const steps = f32x4(0, 1, 2, 3);
  for (let y = 0; y < height; y++) {
    const v = y0 + step * <f32>y;
    const row = light + (<usize>(y * stride) << 2);
    const base = f32x4.splat(stops * v * v);
    for (let x = 0; x < width; x += 4) {
      const u = f32x4.add(f32x4.splat(x0 + step * <f32>x), f32x4.mul(steps, f32x4.splat(step)));
      const lift = exp2x4(f32x4.add(base, f32x4.mul(f32x4.splat(stops), f32x4.mul(u, u))));
      const at = row + (<usize>x << 2);
      v128.store(at, f32x4.mul(v128.load(at), lift));
    }
  }
}
