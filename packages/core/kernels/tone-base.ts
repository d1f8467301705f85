// A bilateral filter by its grid (Chen, Paris, Durand 2007): cells of place and tone hold sums of values and their count, side by side.

/** Place of a pixel in the grid: four corners of one layer of tone, and how far between the layers it lies. */
let cornerX0Y0: usize = 0;
let cornerX0Y1: usize = 0;
let right: usize = 0;
let fx: f32 = 0;
let fy: f32 = 0;
let fz: f32 = 0;

// @ts-ignore: decorator
@inline
function find(guide: f32, x: i32, y: i32, grid: usize, across: i32, layers: i32, perPixel: f32, lowest: f32, perStop: f32): void {
  const gx = <f32>x * perPixel + 1, gy = <f32>y * perPixel + 1;
  const gz = min<f32>(max<f32>((guide - lowest) * perStop, 0), <f32>(layers - 3)) + 1;
  const ix = <i32>gx, iy = <i32>gy, iz = <i32>gz;
  fx = gx - <f32>ix;
  fy = gy - <f32>iy;
  fz = gz - <f32>iz;
  cornerX0Y0 = grid + (<usize>((iy * across + ix) * layers + iz) << 3);
  cornerX0Y1 = cornerX0Y0 + (<usize>(across * layers) << 3);
  right = <usize>layers << 3;
}

/** (sum, count) of two neighbouring layers, weighted by where between them a pixel lies. */
// @ts-ignore: decorator
@inline
function layerWeights(f: f32): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(1 - f), 2, f), 3, f);
}

// @ts-ignore: decorator
@inline
function addTo(cell: usize, value: v128, weight: f32): void {
  v128.store(cell, f32x4.add(v128.load(cell), f32x4.mul(value, f32x4.splat(weight))));
}

/**
 * Sums a plane's values into a grid, each spread over the eight cells about its place and its guide's tone. The grid is zero
 * before: `across` cells a row, `layers` a cell, one margin cell on each side of every axis.
 * @param perPixel - cells a pixel; `perStop` layers a unit of the guide, the first at `lowest`.
 */
export function splatGrid(
  values: usize, guide: usize, width: i32, height: i32, grid: usize, across: i32, layers: i32, perPixel: f32, lowest: f32, perStop: f32,
): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = <usize>(y * width + x) << 2;
      find(load<f32>(guide + at), x, y, grid, across, layers, perPixel, lowest, perStop);
      const pair = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(1), 0, load<f32>(values + at)), 2, load<f32>(values + at));
      const value = f32x4.mul(pair, layerWeights(fz));
      addTo(cornerX0Y0, value, (1 - fx) * (1 - fy));
      addTo(cornerX0Y0 + right, value, fx * (1 - fy));
      addTo(cornerX0Y1, value, (1 - fx) * fy);
      addTo(cornerX0Y1 + right, value, fx * fy);
    }
}

/** out = ¼ before + ½ here + ¼ after, `apart` bytes along; n values, a multiple of 4. Values one step beyond both ends are read. */
export function blurGrid(src: usize, out: usize, n: i32, apart: usize): void {
  const half = f32x4.splat(0.5);
  for (let i = 0; i < n; i += 4) {
    const at = src + (<usize>i << 2);
    const sides = f32x4.add(v128.load(at - apart), v128.load(at + apart));
    v128.store(out + (<usize>i << 2), f32x4.mul(half, f32x4.add(v128.load(at), f32x4.mul(half, sides))));
  }
}

/** Reads a grid at each pixel's place and guide: the mean of the values near in both. May write over the guide. */
export function sliceGrid(
  grid: usize, guide: usize, out: usize, width: i32, height: i32, across: i32, layers: i32, perPixel: f32, lowest: f32, perStop: f32,
): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = <usize>(y * width + x) << 2;
      const own = load<f32>(guide + at);
      find(own, x, y, grid, across, layers, perPixel, lowest, perStop);
      const upper = f32x4.add(
        f32x4.mul(v128.load(cornerX0Y0), f32x4.splat((1 - fx) * (1 - fy))),
        f32x4.mul(v128.load(cornerX0Y0 + right), f32x4.splat(fx * (1 - fy))),
      );
      const lower = f32x4.add(
        f32x4.mul(v128.load(cornerX0Y1), f32x4.splat((1 - fx) * fy)),
        f32x4.mul(v128.load(cornerX0Y1 + right), f32x4.splat(fx * fy)),
      );
      const both = f32x4.mul(f32x4.add(upper, lower), layerWeights(fz));
      const sum = f32x4.extract_lane(both, 0) + f32x4.extract_lane(both, 2);
      const count = f32x4.extract_lane(both, 1) + f32x4.extract_lane(both, 3);
      store<f32>(out + at, count > 1e-6 ? sum / count : own);
    }
}

/**
 * Light smoothed over a few pixels as a guide, in place: where a pixel lies far from it, by `from` to `to` stops, an edge is near, and
 * its own light takes over. n is a multiple of 4.
 */
export function guideByEdges(smoothed: usize, stops: usize, n: i32, from: f32, to: f32): void {
  const perSpan = f32x4.splat(1 / (to - from)), one = f32x4.splat(1);
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const s = v128.load(smoothed + at);
    const away = f32x4.sub(v128.load(stops + at), s);
    const t = f32x4.pmin(one, f32x4.pmax(f32x4.splat(0), f32x4.mul(f32x4.sub(f32x4.abs(away), f32x4.splat(from)), perSpan)));
    const share = f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)));
    v128.store(smoothed + at, f32x4.add(s, f32x4.mul(share, away)));
  }
}

/**
 * Least squares' line y = a·x + b in each window, from local means of x, y, xx and xy (He, Sun, Tang 2010): a over xx, b over
 * xy. n is a multiple of 4.
 */
export function lineOfMeans(x: usize, y: usize, xx: usize, xy: usize, n: i32, ridge: f32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const mx = v128.load(x + at), my = v128.load(y + at);
    const variance = f32x4.pmax(f32x4.splat(0), f32x4.sub(v128.load(xx + at), f32x4.mul(mx, mx)));
    const a = f32x4.div(f32x4.sub(v128.load(xy + at), f32x4.mul(mx, my)), f32x4.add(variance, f32x4.splat(ridge)));
    v128.store(xx + at, a);
    v128.store(xy + at, f32x4.sub(my, f32x4.mul(a, mx)));
  }
}
