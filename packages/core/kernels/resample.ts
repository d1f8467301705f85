/** Each output column j is the weighted sum of `taps` source columns from first[j]. Strides in values. */
export function resampleRows(
  src: usize, srcStride: i32, out: usize, outStride: i32, outWidth: i32, height: i32, first: usize, weights: usize, taps: i32,
): void {
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * srcStride) << 2);
    const to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < outWidth; x++) {
      const at = from + (<usize>load<i32>(first + (<usize>x << 2)) << 2);
      const w = weights + (<usize>(x * taps) << 2);
      let four = f32x4.splat(0);
      let k = 0;
      for (; k + 4 <= taps; k += 4)
        four = f32x4.add(four, f32x4.mul(v128.load(at + (<usize>k << 2)), v128.load(w + (<usize>k << 2))));
      let sum = (f32x4.extract_lane(four, 0) + f32x4.extract_lane(four, 2)) + (f32x4.extract_lane(four, 1) + f32x4.extract_lane(four, 3));
      for (; k < taps; k++) sum += load<f32>(at + (<usize>k << 2)) * load<f32>(w + (<usize>k << 2));
      store<f32>(to + (<usize>x << 2), sum);
    }
  }
}

/** Each output row is the weighted sum of `taps` source rows from first[row]. Width is a multiple of 4, shared by both. */
export function resampleColumns(src: usize, out: usize, width: i32, outHeight: i32, first: usize, weights: usize, taps: i32): void {
  for (let y = 0; y < outHeight; y++) {
    const from = src + (<usize>(load<i32>(first + (<usize>y << 2)) * width) << 2);
    const w = weights + (<usize>(y * taps) << 2);
    for (let x = 0; x < width; x += 4) {
      let sum = f32x4.splat(0);
      for (let k = 0; k < taps; k++) {
        sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(w + (<usize>k << 2)), v128.load(from + (<usize>(k * width + x) << 2))));
      }
      v128.store(out + (<usize>(y * width + x) << 2), sum);
    }
  }
}

/**
 * Bicubic (Catmull–Rom) sampling of one plane along an affine grid: source place of output pixel (x, y) is
 * (ax·x + bx·y + cx, ay·x + by·y + cy) in pixel centres. Places outside repeat the border.
 */
export function sampleAffine(
  src: usize, srcWidth: i32, srcHeight: i32, out: usize, outStride: i32, outWidth: i32, outHeight: i32,
  ax: f64, bx: f64, cx: f64, ay: f64, by: f64, cy: f64,
): void {
  for (let y = 0; y < outHeight; y++) {
    for (let x = 0; x < outWidth; x++) {
      const sx = ax * x + bx * y + cx, sy = ay * x + by * y + cy;
      store<f32>(out + (<usize>(y * outStride + x) << 2), bicubic(src, srcWidth, srcHeight, sx, sy));
    }
  }
}

/**
 * Like sampleAffine, but the affine map leads to the flat picture, and from there through perspective and bending to the
 * negative (see lens.ts). The source's corner lies at (srcX, srcY); everything in pixel centres of the level.
 */
export function sampleThroughLens(
  src: usize, srcWidth: i32, srcHeight: i32, srcX: f64, srcY: f64, out: usize, outStride: i32, outWidth: i32, outHeight: i32,
  ax: f64, bx: f64, cx: f64, ay: f64, by: f64, cy: f64,
  centreX: f64, centreY: f64, radius: f64, distortion: f64, px: f64, py: f64,
): void {
  const inverse = 1 / radius;
  for (let y = 0; y < outHeight; y++) {
    for (let x = 0; x < outWidth; x++) {
      const u = (ax * x + bx * y + cx - centreX) * inverse, v = (ay * x + by * y + cy - centreY) * inverse;
      const p = 1 / (1 + px * u + py * v);
      let s: f64 = 1;
      if (distortion != 0) {
        const q = distortion * p * p * (u * u + v * v);
        s = 1 / (1 + q);
        for (let i = 0; i < 4; i++) s -= (s + q * s * s * s - 1) / (1 + 3 * q * s * s);
      }
      const to = s * p * radius;
      const grey = bicubic(src, srcWidth, srcHeight, centreX + to * u - srcX, centreY + to * v - srcY);
      store<f32>(out + (<usize>(y * outStride + x) << 2), grey);
    }
  }
}

/** One place between pixel centres; places outside repeat the border. */
// @ts-ignore: decorator
@inline
function bicubic(src: usize, srcWidth: i32, srcHeight: i32, sx: f64, sy: f64): f32 {
  const ix = <i32>Math.floor(sx), iy = <i32>Math.floor(sy);
  const wx = cubic(<f32>(sx - ix)), wy = cubic(<f32>(sy - iy));
  let sum = f32x4.splat(0);
  if (ix >= 1 && ix + 2 < srcWidth && iy >= 1 && iy + 2 < srcHeight) {
    const at = src + (<usize>((iy - 1) * srcWidth + ix - 1) << 2);
    const step = <usize>srcWidth << 2;
    sum = f32x4.mul(f32x4.splat(f32x4.extract_lane(wy, 0)), v128.load(at));
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(f32x4.extract_lane(wy, 1)), v128.load(at + step)));
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(f32x4.extract_lane(wy, 2)), v128.load(at + 2 * step)));
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(f32x4.extract_lane(wy, 3)), v128.load(at + 3 * step)));
  } else {
    const x0 = clamp(ix - 1, srcWidth), x1 = clamp(ix, srcWidth), x2 = clamp(ix + 1, srcWidth), x3 = clamp(ix + 2, srcWidth);
    for (let k = 0; k < 4; k++) {
      const row = src + (<usize>(clamp(iy - 1 + k, srcHeight) * srcWidth) << 2);
      const four = f32x4(load<f32>(row + (<usize>x0 << 2)), load<f32>(row + (<usize>x1 << 2)), load<f32>(row + (<usize>x2 << 2)), load<f32>(row + (<usize>x3 << 2)));
      const w = k == 0 ? f32x4.extract_lane(wy, 0) : k == 1 ? f32x4.extract_lane(wy, 1) : k == 2 ? f32x4.extract_lane(wy, 2) : f32x4.extract_lane(wy, 3);
      sum = f32x4.add(sum, f32x4.mul(f32x4.splat(w), four));
    }
  }
  const p = f32x4.mul(sum, wx);
  return f32x4.extract_lane(p, 0) + f32x4.extract_lane(p, 1) + f32x4.extract_lane(p, 2) + f32x4.extract_lane(p, 3);
}

// @ts-ignore: decorator
@inline
function clamp(i: i32, n: i32): i32 {
  return i < 0 ? 0 : i >= n ? n - 1 : i;
}

// @ts-ignore: decorator
@inline
function cubic(t: f32): v128 {
  const t2 = t * t, t3 = t2 * t;
  return f32x4(
    t2 - <f32>0.5 * (t3 + t),
    <f32>1.5 * t3 - <f32>2.5 * t2 + <f32>1,
    <f32>2 * t2 - <f32>1.5 * t3 + <f32>0.5 * t,
    <f32>0.5 * (t3 - t2),
  );
}
