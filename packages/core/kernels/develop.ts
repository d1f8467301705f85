import { exp2x4, lookUpx4 } from "./math";

/**
 * Light and tone in one pass: out = table(exposure · 2^stops). `stops` may be 0 for none. Both sources share a stride.
 * Up to three values are written beyond each row's end.
 */
export function develop(
  exposure: usize, stops: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32, table: usize,
): void {
  for (let y = 0; y < height; y++) {
    const from = <usize>(y * stride) << 2;
    const to = out + (<usize>(y * outStride) << 2);
    if (stops == 0) {
      for (let x = 0; x < width; x += 4) {
        const at = <usize>x << 2;
        v128.store(to + at, lookUpx4(table, v128.load(exposure + from + at)));
      }
    } else {
      for (let x = 0; x < width; x += 4) {
        const at = <usize>x << 2;
        const e = f32x4.mul(v128.load(exposure + from + at), exp2x4(v128.load(stops + from + at)));
        v128.store(to + at, lookUpx4(table, e));
      }
    }
  }
}

/** Copies a rectangle of f32 values. */
export function copyRect(src: usize, srcStride: i32, out: usize, outStride: i32, width: i32, height: i32): void {
  const bytes = <usize>width << 2;
  for (let y = 0; y < height; y++)
    memory.copy(out + (<usize>(y * outStride) << 2), src + (<usize>(y * srcStride) << 2), bytes);
}

/** out += plane, n values, a multiple of 4. */
export function addPlane(out: usize, plane: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    v128.store(out + at, f32x4.add(v128.load(out + at), v128.load(plane + at)));
  }
}
