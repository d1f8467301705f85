import { loadHalfx4 } from "./half";

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
