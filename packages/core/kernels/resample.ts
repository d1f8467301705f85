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
    const row = out + (<usize>(y * outStride) << 2);
    const rowX = bx * y + cx, rowY = by * y + cy;
    let x = 0;
    for (; x + 4 <= outWidth; x += 4) {
      const firstX = ax * x + rowX, firstY = ay * x + rowY;
      const lastX = ax * (x + 3) + rowX, lastY = ay * (x + 3) + rowY;
      const inside =
        min(firstX, lastX) >= 1 && min(firstY, lastY) >= 1 &&
        max(firstX, lastX) < srcWidth - 2 && max(firstY, lastY) < srcHeight - 2;
      if (!inside) {
        for (let i = x; i < x + 4; i++)
          store<f32>(row + (<usize>i << 2), bicubic(src, srcWidth, srcHeight, ax * i + rowX, ay * i + rowY));
        continue;
      }
      v128.store(row + (<usize>x << 2), bicubicx4(src, srcWidth, firstX, firstY, ax, ay));
    }
    for (; x < outWidth; x++)
      store<f32>(row + (<usize>x << 2), bicubic(src, srcWidth, srcHeight, ax * x + rowX, ay * x + rowY));
  }
}

/** Room for the weights of four places, a vector a tap: across, then down. */
const fourWeights = memory.data(128, 16);

/** Four places of one row, all of whose neighbours lie within: as `bicubic`, with the weights of all four at once. */
// @ts-ignore: decorator
@inline
function bicubicx4(src: usize, srcWidth: i32, sx: f64, sy: f64, ax: f64, ay: f64): v128 {
  // Whole parts are taken off in double precision, as for a single place; what is left is small.
  const wholeX = Math.floor(sx), wholeY = Math.floor(sy);
  const lanes = f32x4(0, 1, 2, 3);
  const px = f32x4.add(f32x4.splat(<f32>(sx - wholeX)), f32x4.mul(lanes, f32x4.splat(<f32>ax)));
  const py = f32x4.add(f32x4.splat(<f32>(sy - wholeY)), f32x4.mul(lanes, f32x4.splat(<f32>ay)));
  const ix = f32x4.floor(px), iy = f32x4.floor(py);
  putWeights(f32x4.sub(px, ix), fourWeights);
  putWeights(f32x4.sub(py, iy), fourWeights + 64);
  const step = <usize>srcWidth << 2;
  const corner = src + <usize>(<i32>wholeY - 1) * step + (<usize>(<i32>wholeX - 1) << 2);
  const down = i32x4.mul(i32x4.trunc_sat_f32x4_s(iy), i32x4.splat(<i32>step));
  const offsets = i32x4.add(down, i32x4.shl(i32x4.trunc_sat_f32x4_s(ix), 2));
  const a = overRows(corner + i32x4.extract_lane(offsets, 0), step, 0);
  const b = overRows(corner + i32x4.extract_lane(offsets, 1), step, 4);
  const c = overRows(corner + i32x4.extract_lane(offsets, 2), step, 8);
  const d = overRows(corner + i32x4.extract_lane(offsets, 3), step, 12);
  // Turned, so that each vector holds one tap of all four.
  const ab = v128.shuffle<i32>(a, b, 0, 4, 1, 5), cd = v128.shuffle<i32>(c, d, 0, 4, 1, 5);
  const ab2 = v128.shuffle<i32>(a, b, 2, 6, 3, 7), cd2 = v128.shuffle<i32>(c, d, 2, 6, 3, 7);
  let sum = f32x4.mul(v128.shuffle<i32>(ab, cd, 0, 1, 4, 5), v128.load(fourWeights));
  sum = f32x4.add(sum, f32x4.mul(v128.shuffle<i32>(ab, cd, 2, 3, 6, 7), v128.load(fourWeights, 16)));
  sum = f32x4.add(sum, f32x4.mul(v128.shuffle<i32>(ab2, cd2, 0, 1, 4, 5), v128.load(fourWeights, 32)));
  return f32x4.add(sum, f32x4.mul(v128.shuffle<i32>(ab2, cd2, 2, 3, 6, 7), v128.load(fourWeights, 48)));
}

/** Four columns weighed over four rows, from their corner on; the weights lie `lane` bytes into their vectors. */
// @ts-ignore: decorator
@inline
function overRows(at: usize, step: usize, lane: usize): v128 {
  const w = fourWeights + 64 + lane;
  let sum = f32x4.mul(v128.load32_splat(w), v128.load(at));
  sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(w, 16), v128.load(at + step)));
  sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(w, 32), v128.load(at + 2 * step)));
  return f32x4.add(sum, f32x4.mul(v128.load32_splat(w, 48), v128.load(at + 3 * step)));
}

/** The four cubic weights of four fractions, a vector a tap. */
// @ts-ignore: decorator
@inline
function putWeights(t: v128, to: usize): void {
  const t2 = f32x4.mul(t, t), t3 = f32x4.mul(t2, t);
  const half = f32x4.splat(0.5), threeHalves = f32x4.splat(1.5);
  v128.store(to, f32x4.sub(t2, f32x4.mul(half, f32x4.add(t3, t))));
  v128.store(to, f32x4.add(f32x4.sub(f32x4.mul(threeHalves, t3), f32x4.mul(f32x4.splat(2.5), t2)), f32x4.splat(1)), 16);
  v128.store(to, f32x4.add(f32x4.sub(f32x4.add(t2, t2), f32x4.mul(threeHalves, t3)), f32x4.mul(half, t)), 32);
  v128.store(to, f32x4.mul(half, f32x4.sub(t3, t2)), 48);
}

/** Where `throughLens` found the last place to lie. */
let lensX: f64 = 0;
let lensY: f64 = 0;

/** A place of the flat picture (u, v from the lens's centre, in radii) through perspective and bending, in radii. */
// @ts-ignore: decorator
@inline
function throughLens(u: f64, v: f64, distortion: f64, px: f64, py: f64): void {
  const p = 1 / (1 + px * u + py * v);
  let s: f64 = 1;
  if (distortion != 0) {
    const q = distortion * p * p * (u * u + v * v);
    s = 1 / (1 + q);
    for (let i = 0; i < 4; i++) s -= (s + q * s * s * s - 1) / (1 + 3 * q * s * s);
  }
  lensX = s * p * u;
  lensY = s * p * v;
}

/**
 * Like sampleAffine, but the affine map leads to the flat picture, and from there through perspective and bending to the
 * negative (see lens.ts). The source's corner lies at (srcX, srcY); everything in pixel centres of the level. Places are found for every eighth
 * pixel of a row and lie in straight lines between, nowhere off by more than some thousandths of a pixel.
 */
export function sampleThroughLens(
  src: usize, srcWidth: i32, srcHeight: i32, srcX: f64, srcY: f64, out: usize, outStride: i32, outWidth: i32, outHeight: i32,
  ax: f64, bx: f64, cx: f64, ay: f64, by: f64, cy: f64,
  centreX: f64, centreY: f64, radius: f64, distortion: f64, px: f64, py: f64,
): void {
  const inverse = 1 / radius;
  const ux = ax * inverse, vx = ay * inverse;
  const originX = centreX - srcX, originY = centreY - srcY;
  for (let y = 0; y < outHeight; y++) {
    const row = out + (<usize>(y * outStride) << 2);
    const rowU = (bx * y + cx - centreX) * inverse, rowV = (by * y + cy - centreY) * inverse;
    throughLens(rowU, rowV, distortion, px, py);
    let sx = originX + radius * lensX, sy = originY + radius * lensY;
    for (let x = 0; x < outWidth; x += 8) {
      throughLens(ux * (x + 8) + rowU, vx * (x + 8) + rowV, distortion, px, py);
      const nextX = originX + radius * lensX, nextY = originY + radius * lensY;
      const stepX = 0.125 * (nextX - sx), stepY = 0.125 * (nextY - sy);
      for (let k = x; k < min(x + 8, outWidth); k += 4) {
        const lastX = sx + 3 * stepX, lastY = sy + 3 * stepY;
        const inside =
          k + 4 <= outWidth && min(sx, lastX) >= 1 && min(sy, lastY) >= 1 &&
          max(sx, lastX) < srcWidth - 2 && max(sy, lastY) < srcHeight - 2;
        if (inside) v128.store(row + (<usize>k << 2), bicubicx4(src, srcWidth, sx, sy, stepX, stepY));
        else
          for (let i = 0; i < min(4, outWidth - k); i++)
            store<f32>(row + (<usize>(k + i) << 2), bicubic(src, srcWidth, srcHeight, sx + stepX * i, sy + stepY * i));
        sx += 4 * stepX;
        sy += 4 * stepY;
      }
      sx = nextX;
      sy = nextY;
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
