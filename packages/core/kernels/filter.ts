/** Rows convolved with `taps` weights: src is (width + taps - 1) wide, out is width wide. Width is a multiple of 4. */
export function convolveRows(src: usize, srcStride: i32, out: usize, width: i32, height: i32, weights: usize, taps: i32): void {
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * srcStride) << 2);
    const to = out + (<usize>(y * width) << 2);
    for (let x = 0; x < width; x += 4) {
      let sum = f32x4.splat(0);
      for (let k = 0; k < taps; k++) {
        sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(weights + (<usize>k << 2)), v128.load(from + (<usize>(x + k) << 2))));
      }
      v128.store(to + (<usize>x << 2), sum);
    }
  }
}

/** Columns convolved with `taps` weights: src has (height + taps - 1) rows, out has height. Width is a multiple of 4. */
export function convolveColumns(src: usize, out: usize, width: i32, height: i32, weights: usize, taps: i32): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      let sum = f32x4.splat(0);
      for (let k = 0; k < taps; k++) {
        sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(weights + (<usize>k << 2)), v128.load(src + (<usize>((y + k) * width + x) << 2))));
      }
      v128.store(out + (<usize>(y * width + x) << 2), sum);
    }
  }
}
