import { grainx4 } from "./grain";
import { lookUpx4 } from "./math";

// @ts-ignore: decorator
@inline
function ditherx4(x: i32, y: i32): v128 {
  // Additive recurrence on the plastic number (Roberts 2018): uniform in [0, 1), low discrepancy in both directions.
  const place = i32x4.add(
    i32x4.mul(i32x4.add(i32x4.splat(x), i32x4(0, 1, 2, 3)), i32x4.splat(<i32>0xc13fa9a9)),
    i32x4.splat(y * <i32>0x91e10da5),
  );
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(place, 8)), f32x4.splat(5.960464477539063e-8));
}

/** Adding this puts a whole number below 2^23 into the low bits. */
const TO_BITS: f32 = 8388608;

// @ts-ignore: decorator
@inline
function codex4(v: v128, top: f32, offset: v128): v128 {
  const code = f32x4.floor(f32x4.add(f32x4.mul(v, f32x4.splat(top)), offset));
  const inside = f32x4.pmin(f32x4.splat(top), f32x4.pmax(f32x4.splat(0), code));
  return v128.and(f32x4.add(inside, f32x4.splat(TO_BITS)), i32x4.splat(0x7fffff));
}

/**
 * Grain, tone and dither in one pass: reflectance → dithered 8-bit RGBA rows of a picture whose corner is (x0, y0).
 * Tables: red, green, blue; equal when neutral. `noise` (0: none) has the source's stride; `sigma` as in `grainx4`.
 */
export function encodeRgba8(
  src: usize, stride: i32, noise: usize, sigma: f32, out: usize, width: i32, height: i32, x0: i32, y0: i32,
  red: usize, green: usize, blue: usize,
): void {
  const opaque = i32x4.splat(<i32>0xff000000);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      const at = <usize>(y * stride + x) << 2;
      let v = v128.load(src + at);
      if (noise) v = grainx4(v, v128.load(noise + at), sigma);
      const d = ditherx4(x0 + x, y0 + y);
      const r = codex4(lookUpx4(red, v), 255, d);
      const g = green == red ? r : codex4(lookUpx4(green, v), 255, d);
      const b = blue == red ? r : codex4(lookUpx4(blue, v), 255, d);
      const rgba = v128.or(v128.or(r, i32x4.shl(g, 8)), v128.or(i32x4.shl(b, 16), opaque));
      v128.store(out + (<usize>(y * width + x) << 2), rgba);
    }
  }
}

/** One channel through a table to 16-bit codes, rounded, written every `step` values. */
export function encode16(src: usize, out: usize, n: i32, table: usize, step: i32): void {
  const half = f32x4.splat(0.5);
  for (let i = 0; i < n; i += 4) {
    const c = codex4(lookUpx4(table, v128.load(src + (<usize>i << 2))), 65535, half);
    const at = out + (<usize>(i * step) << 1);
    store<u16>(at, <u16>i32x4.extract_lane(c, 0));
    store<u16>(at + (<usize>step << 1), <u16>i32x4.extract_lane(c, 1));
    store<u16>(at + (<usize>step << 2), <u16>i32x4.extract_lane(c, 2));
    store<u16>(at + <usize>step * 6, <u16>i32x4.extract_lane(c, 3));
  }
}

/** Three linear planes (working space) → 8-bit RGBA through a 3×3 matrix at `matrix` (row-major f32) and one table. */
export function encodeColour8(red: usize, green: usize, blue: usize, out: usize, n: i32, matrix: usize, table: usize): void {
  const opaque = i32x4.splat(<i32>0xff000000);
  const half = f32x4.splat(0.5);
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const r = v128.load(red + at), g = v128.load(green + at), b = v128.load(blue + at);
    let rgba = opaque;
    for (let c = 0; c < 3; c++) {
      const m = matrix + <usize>c * 12;
      let v = f32x4.mul(r, v128.load32_splat(m));
      v = f32x4.add(v, f32x4.mul(g, v128.load32_splat(m + 4)));
      v = f32x4.add(v, f32x4.mul(b, v128.load32_splat(m + 8)));
      rgba = v128.or(rgba, i32x4.shl(codex4(lookUpx4(table, v), 255, half), c * 8));
    }
    v128.store(out + at, rgba);
  }
}
