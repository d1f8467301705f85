/**
 * Sensor codes of one row → balanced light: (code - black) · gain / (white - black), at most `top`; black, scale and top
 * alternate with the column. `width` is even; two values after the row may be overwritten.
 */
export function scaleRow(
  codes: usize, out: usize, width: i32, black0: f32, black1: f32, scale0: f32, scale1: f32, top0: f32, top1: f32,
): void {
  const black = pair(black0, black1);
  const scale = pair(scale0, scale1);
  const top = pair(top0, top1);
  for (let x = 0; x < width; x += 4) {
    const code = f32x4.convert_i32x4_u(v128.load16x4_u(codes + (<usize>x << 1)));
    v128.store(out + (<usize>x << 2), f32x4.pmin(top, f32x4.mul(f32x4.sub(code, black), scale)));
  }
}

// @ts-ignore: decorator
@inline
function pair(even: f32, odd: f32): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(even), 1, odd), 3, odd);
}
