import { loadHalfx4 } from "./half";

/** E = r·R + g·G + b·B from three half-float planes of n values (n a multiple of 4) to one f32 plane. */
export function weighHalf(red: usize, green: usize, blue: usize, out: usize, n: i32, r: f32, g: f32, b: f32): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b);
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 1;
    let e = f32x4.mul(wr, loadHalfx4(red + at));
    e = f32x4.add(e, f32x4.mul(wg, loadHalfx4(green + at)));
    e = f32x4.add(e, f32x4.mul(wb, loadHalfx4(blue + at)));
    v128.store(out + (<usize>i << 2), e);
  }
}
