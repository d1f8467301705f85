import { exp2x4, log2x4 } from "./math";

/** Cube roots of a block's reflectances, which are nearly in step with lightness: rows of `stride` values in, `outStride` out. */
export function cubeRoots(src: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32): void {
  const third = f32x4.splat(0.33333334);
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * stride) << 2), to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const light = f32x4.pmax(f32x4.splat(1e-7), v128.load(from + (<usize>x << 2)));
      v128.store(to + (<usize>x << 2), exp2x4(f32x4.mul(log2x4(light), third)));
    }
  }
}

/**
 * Unsharp masking of cube roots: out = (v + amount · (v − blurred), the change no more than `most`)³, within 0 and 1.
 * @param roots - the middle of a padded plane of `rootStride` values a row.
 */
export function sharpenRoots(
  roots: usize, rootStride: i32, blurred: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32,
  amount: f32, most: f32,
): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1), limit = f32x4.splat(most), gain = f32x4.splat(amount);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      const v = v128.load(roots + (<usize>(y * rootStride) << 2) + at);
      const change = f32x4.mul(gain, f32x4.sub(v, v128.load(blurred + (<usize>(y * stride) << 2) + at)));
      const kept = f32x4.pmin(limit, f32x4.pmax(f32x4.neg(limit), change));
      const sharp = f32x4.pmin(one, f32x4.pmax(zero, f32x4.add(v, kept)));
      v128.store(out + (<usize>(y * outStride) << 2) + at, f32x4.mul(f32x4.mul(sharp, sharp), sharp));
    }
}
