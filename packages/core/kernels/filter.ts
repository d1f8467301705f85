/** Rows convolved with `taps` weights: src is (width + taps - 1) wide, out is width wide. Width is a multiple of 4. */
export function convolveRows(src: usize, srcStride: i32, out: usize, width: i32, height: i32, weights: usize, taps: i32): void {
  for (let y = 0; y < height; y++)
    convolve(src + (<usize>(y * srcStride) << 2), 4, out + (<usize>(y * width) << 2), width, weights, taps);
}

/** Columns convolved with `taps` weights: src has (height + taps - 1) rows, out has height. Width is a multiple of 4. */
export function convolveColumns(src: usize, out: usize, width: i32, height: i32, weights: usize, taps: i32): void {
  const row = <usize>width << 2;
  for (let y = 0; y < height; y++) convolve(src + <usize>y * row, row, out + <usize>y * row, width, weights, taps);
}

/** One row of sums over values `step` bytes apart, sixteen side by side: one sum alone would wait for itself. */
// @ts-ignore: decorator
@inline
export function convolve(from: usize, step: usize, to: usize, width: i32, weights: usize, taps: i32): void {
  const end = <usize>width << 2;
  const whole = end & ~63;
  let x: usize = 0;
  for (; x < whole; x += 64) {
    let a = f32x4.splat(0), b = f32x4.splat(0), c = f32x4.splat(0), d = f32x4.splat(0);
    let at = from + x;
    for (let k = 0; k < taps; k++) {
      const w = v128.load32_splat(weights + (<usize>k << 2));
      a = f32x4.add(a, f32x4.mul(w, v128.load(at)));
      b = f32x4.add(b, f32x4.mul(w, v128.load(at, 16)));
      c = f32x4.add(c, f32x4.mul(w, v128.load(at, 32)));
      d = f32x4.add(d, f32x4.mul(w, v128.load(at, 48)));
      at += step;
    }
    v128.store(to + x, a);
    v128.store(to + x, b, 16);
    v128.store(to + x, c, 32);
    v128.store(to + x, d, 48);
  }
  for (; x < end; x += 16) {
    let sum = f32x4.splat(0);
    let at = from + x;
    for (let k = 0; k < taps; k++) {
      sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(weights + (<usize>k << 2)), v128.load(at)));
      at += step;
    }
    v128.store(to + x, sum);
  }
}
