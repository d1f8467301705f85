// Reading planes of a coarser grid between their nodes.

/** Rows y0 and y1 of a plane mixed into `out`, the last column repeated, so that a pair can be read anywhere. */
// @ts-ignore: decorator
@inline
export function mixRows(plane: usize, y0: i32, y1: i32, f: f32, stride: i32, width: i32, out: usize): void {
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
