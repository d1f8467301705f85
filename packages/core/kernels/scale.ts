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
    const code = f32x4.convert_i32x4_s(v128.load16x4_u(codes + (<usize>x << 1)));
    v128.store(out + (<usize>x << 2), f32x4.pmin(top, f32x4.mul(f32x4.sub(code, black), scale)));
  }
}

/** Adds to two u32 counts how many codes of a row's even and of its odd columns are `white` or more; `width` is even. */
export function countFull(codes: usize, width: i32, white: i32, counts: usize): void {
  const full = i16x8.splat(<i16>white);
  // In lanes of sixteen bits: rows are shorter than half a million codes.
  let found = i16x8.splat(0);
  let x = 0;
  for (; x <= width - 8; x += 8) found = i16x8.sub(found, i16x8.ge_u(v128.load(codes + (<usize>x << 1)), full));
  let even = total(v128.and(found, i32x4.splat(0xffff))), odd = total(i32x4.shr_u(found, 16));
  for (; x < width; x += 2) {
    const at = codes + (<usize>x << 1);
    if (<i32>load<u16>(at) >= white) even++;
    if (<i32>load<u16>(at, 2) >= white) odd++;
  }
  store<u32>(counts, load<u32>(counts) + even);
  store<u32>(counts, load<u32>(counts, 4) + odd, 4);
}

// @ts-ignore: decorator
@inline
function total(v: v128): i32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + (i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3));
}

// @ts-ignore: decorator
@inline
function pair(even: f32, odd: f32): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(even), 1, odd), 3, odd);
}
