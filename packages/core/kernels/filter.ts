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

/** Least of three planes, each times a factor; n values, a multiple of 4. */
export function leastOfThree(a: usize, b: usize, c: usize, out: usize, n: i32, timesA: f32, timesB: f32, timesC: f32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const first = f32x4.mul(v128.load(a + at), f32x4.splat(timesA)), second = f32x4.mul(v128.load(b + at), f32x4.splat(timesB));
    v128.store(out + at, f32x4.pmin(f32x4.pmin(first, second), f32x4.mul(v128.load(c + at), f32x4.splat(timesC))));
  }
}

/** Least of `taps` values `step` bytes apart, in rows: src rows of `srcStride`, out rows of width, a multiple of 4. */
export function erode(src: usize, srcStride: i32, out: usize, width: i32, height: i32, step: usize, taps: i32): void {
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * srcStride) << 2), to = out + (<usize>(y * width) << 2);
    for (let x = 0; x < width; x += 4) {
      let at = from + (<usize>x << 2);
      let least = v128.load(at);
      for (let k = 1; k < taps; k++) {
        at += step;
        least = f32x4.pmin(least, v128.load(at));
      }
      v128.store(to + (<usize>x << 2), least);
    }
  }
}
