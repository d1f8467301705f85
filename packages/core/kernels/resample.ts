import { convolve } from "./filter";

/** Each output column j is the weighted sum of `taps` source columns from first[j]. Strides in values; taps is a multiple of 4. */
export function resampleRows(
  src: usize, srcStride: i32, out: usize, outStride: i32, outWidth: i32, height: i32, first: usize, weights: usize, taps: i32,
): void {
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * srcStride) << 2);
    const to = out + (<usize>(y * outStride) << 2);
    let w = weights;
    const whole = outWidth & ~3;
    const step = <usize>taps << 2;
    for (let x = 0; x < whole; x += 4) {
      const places = first + (<usize>x << 2);
      const a = weighted(from + (<usize>load<i32>(places) << 2), w, step);
      const b = weighted(from + (<usize>load<i32>(places, 4) << 2), w + step, step);
      const c = weighted(from + (<usize>load<i32>(places, 8) << 2), w + 2 * step, step);
      const d = weighted(from + (<usize>load<i32>(places, 12) << 2), w + 3 * step, step);
      // The four sums of four values each.
      const p = f32x4.add(v128.shuffle<i32>(a, b, 0, 4, 1, 5), v128.shuffle<i32>(a, b, 2, 6, 3, 7));
      const q = f32x4.add(v128.shuffle<i32>(c, d, 0, 4, 1, 5), v128.shuffle<i32>(c, d, 2, 6, 3, 7));
      const sums = f32x4.add(v128.shuffle<i32>(p, q, 0, 1, 4, 5), v128.shuffle<i32>(p, q, 2, 3, 6, 7));
      v128.store(to + (<usize>x << 2), sums);
      w += 4 * step;
    }
    for (let x = whole; x < outWidth; x++) {
      const a = weighted(from + (<usize>load<i32>(first + (<usize>x << 2)) << 2), w, step);
      const sum = (f32x4.extract_lane(a, 0) + f32x4.extract_lane(a, 2)) + (f32x4.extract_lane(a, 1) + f32x4.extract_lane(a, 3));
      store<f32>(to + (<usize>x << 2), sum);
      w += step;
    }
  }
}

// @ts-ignore: decorator
@inline
function weighted(from: usize, weights: usize, bytes: usize): v128 {
  let sum = f32x4.mul(v128.load(from), v128.load(weights));
  for (let k: usize = 16; k < bytes; k += 16) sum = f32x4.add(sum, f32x4.mul(v128.load(from + k), v128.load(weights + k)));
  return sum;
}

/** Each output row is the weighted sum of `taps` source rows from first[row]. Width is a multiple of 4, shared by both. */
export function resampleColumns(src: usize, out: usize, width: i32, outHeight: i32, first: usize, weights: usize, taps: i32): void {
  const row = <usize>width << 2;
  for (let y = 0; y < outHeight; y++) {
    const from = src + <usize>load<i32>(first + (<usize>y << 2)) * row;
    convolve(from, row, out + <usize>y * row, width, weights + (<usize>(y * taps) << 2), taps);
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
