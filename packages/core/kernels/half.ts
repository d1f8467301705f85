// IEEE 754 binary16 ↔ binary32. Infinities and NaN are never stored: out-of-range values clamp to ±65504, NaN to 0.

// @ts-ignore: decorator
@inline
export function loadHalfx4(src: usize): v128 {
  const h = v128.load16x4_u(src);
  const magnitude = f32x4.mul(i32x4.shl(v128.and(h, i32x4.splat(0x7fff)), 13), f32x4.splat(5.192296858534828e33));
  return v128.or(magnitude, i32x4.shl(v128.and(h, i32x4.splat(0x8000)), 16));
}

// @ts-ignore: decorator
@inline
export function halfx4(x: v128): v128 {
  const finite = v128.and(x, f32x4.eq(x, x));
  const sign = v128.and(i32x4.shr_u(finite, 16), i32x4.splat(0x8000));
  const size = f32x4.pmin(f32x4.abs(finite), f32x4.splat(65504));
  const bits = f32x4.mul(size, f32x4.splat(1.925929944387236e-34));
  const odd = v128.and(i32x4.shr_u(bits, 13), i32x4.splat(1));
  return v128.or(i32x4.shr_u(i32x4.add(i32x4.add(bits, i32x4.splat(0xfff)), odd), 13), sign);
}

/** n is a multiple of 4; callers pad. */
export function halfToFloat(src: usize, dst: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) v128.store(dst + (<usize>i << 2), loadHalfx4(src + (<usize>i << 1)));
}
