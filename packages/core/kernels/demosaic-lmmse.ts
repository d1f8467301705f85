// Directional LMMSE demosaicing (Zhang & Wu 2005). All planes share one stride and height and a border of at least 8.

// @ts-ignore: decorator
@inline
function at4(p: usize, offset: i32): v128 {
  return v128.load(p + <usize>(offset << 2));
}

/** 1 where a pixel holds red or blue, -1 where it holds green, for four pixels from x. */
// @ts-ignore: decorator
@inline
function signx4(x: i32, y: i32, redX: i32, redY: i32): v128 {
  const even = ((x ^ redX ^ y ^ redY) & 1) == 0;
  return even ? f32x4(1, -1, 1, -1) : f32x4(-1, 1, -1, 1);
}

/**
 * Green minus colour at every pixel, along the row and along the column: the missing one of the two is interpolated by
 * its neighbours, corrected by the known one's curvature (Hamilton & Adams 1997).
 */
export function colourDifferences(src: usize, along: usize, down: usize, stride: i32, height: i32, redX: i32, redY: i32): void {
  const half = f32x4.splat(0.5), quarter = f32x4.splat(0.25);
  for (let y = 2; y < height - 2; y++) {
    for (let x = 4; x < stride - 4; x += 4) {
      const i = <usize>(y * stride + x) << 2;
      const p = src + i;
      const c = v128.load(p);
      const twice = f32x4.add(c, c);
      const sign = signx4(x, y, redX, redY);
      const h = f32x4.add(
        f32x4.mul(half, f32x4.add(at4(p, -1), at4(p, 1))),
        f32x4.mul(quarter, f32x4.sub(twice, f32x4.add(at4(p, -2), at4(p, 2)))),
      );
      const v = f32x4.add(
        f32x4.mul(half, f32x4.add(at4(p, -stride), at4(p, stride))),
        f32x4.mul(quarter, f32x4.sub(twice, f32x4.add(at4(p, -2 * stride), at4(p, 2 * stride)))),
      );
      v128.store(along + i, f32x4.mul(sign, f32x4.sub(h, c)));
      v128.store(down + i, f32x4.mul(sign, f32x4.sub(v, c)));
    }
  }
}

// @ts-ignore: decorator
@inline
function smooth9(p: usize, step: i32): v128 {
  let s = f32x4.mul(f32x4.splat(0.203125), v128.load(p));
  s = f32x4.add(s, f32x4.mul(f32x4.splat(0.1796875), f32x4.add(at4(p, -step), at4(p, step))));
  s = f32x4.add(s, f32x4.mul(f32x4.splat(0.1171875), f32x4.add(at4(p, -2 * step), at4(p, 2 * step))));
  s = f32x4.add(s, f32x4.mul(f32x4.splat(0.0703125), f32x4.add(at4(p, -3 * step), at4(p, 3 * step))));
  return f32x4.add(s, f32x4.mul(f32x4.splat(0.03125), f32x4.add(at4(p, -4 * step), at4(p, 4 * step))));
}

/** Differences smoothed along their own direction by nine weights of a Gaussian of two pixels. */
export function smoothDifferences(along: usize, down: usize, alongLow: usize, downLow: usize, stride: i32, height: i32): void {
  for (let y = 6; y < height - 6; y++) {
    for (let x = 8; x < stride - 8; x += 4) {
      const i = <usize>(y * stride + x) << 2;
      v128.store(alongLow + i, smooth9(along + i, 1));
      v128.store(downLow + i, smooth9(down + i, stride));
    }
  }
}

/** Expected error of the last estimate. */
let lastError: v128 = f32x4.splat(0);

/**
 * The linear minimum mean square estimate from sums over nine places of a direction: of what is smooth, of its squares, and of the squares of
 * what is not; its expected error is left in `lastError`.
 */
// @ts-ignore: decorator
@inline
function estimate(raw: v128, low: v128, sum: v128, squares: v128, noise: v128): v128 {
  const ninth = f32x4.splat(0.11111111);
  const mean = f32x4.mul(sum, ninth);
  const tiny = f32x4.splat(1e-9);
  const signal = f32x4.add(tiny, f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.mul(squares, ninth), f32x4.mul(mean, mean))));
  const wrong = f32x4.add(tiny, f32x4.mul(noise, ninth));
  const total = f32x4.add(signal, wrong);
  lastError = f32x4.div(f32x4.mul(signal, wrong), total);
  return f32x4.div(f32x4.add(f32x4.mul(raw, signal), f32x4.mul(low, wrong)), total);
}

// @ts-ignore: decorator
@inline
function sum9(a: v128, b: v128, c: v128, d: v128, e: v128, f: v128, g: v128, h: v128, i: v128): v128 {
  const most = f32x4.add(f32x4.add(f32x4.add(f32x4.add(a, b), c), d), e);
  return f32x4.add(f32x4.add(f32x4.add(f32x4.add(most, f), g), h), i);
}

// @ts-ignore: decorator
@inline
function squared(v: v128): v128 {
  return f32x4.mul(v, v);
}

/** Squares of what is not smooth. */
// @ts-ignore: decorator
@inline
function rough(raw: v128, low: v128): v128 {
  return squared(f32x4.sub(raw, low));
}

/** From the nine places about one, `step` bytes apart. */
// @ts-ignore: decorator
@inline
function estimateAlong(raw: usize, low: usize, step: usize): v128 {
  const l0 = v128.load(low - 4 * step), r0 = v128.load(raw - 4 * step);
  const l1 = v128.load(low - 3 * step), r1 = v128.load(raw - 3 * step);
  const l2 = v128.load(low - 2 * step), r2 = v128.load(raw - 2 * step);
  const l3 = v128.load(low - step), r3 = v128.load(raw - step);
  const l4 = v128.load(low), r4 = v128.load(raw);
  const l5 = v128.load(low + step), r5 = v128.load(raw + step);
  const l6 = v128.load(low + 2 * step), r6 = v128.load(raw + 2 * step);
  const l7 = v128.load(low + 3 * step), r7 = v128.load(raw + 3 * step);
  const l8 = v128.load(low + 4 * step), r8 = v128.load(raw + 4 * step);
  return estimate(
    r4,
    l4,
    sum9(l0, l1, l2, l3, l4, l5, l6, l7, l8),
    sum9(squared(l0), squared(l1), squared(l2), squared(l3), squared(l4), squared(l5), squared(l6), squared(l7), squared(l8)),
    sum9(
      rough(r0, l0), rough(r1, l1), rough(r2, l2), rough(r3, l3), rough(r4, l4), rough(r5, l5), rough(r6, l6), rough(r7, l7),
      rough(r8, l8),
    ),
  );
}

/** Both directions' estimates, each weighed by the other's expected error. */
export function fuseDifferences(along: usize, down: usize, alongLow: usize, downLow: usize, out: usize, stride: i32, height: i32): void {
  for (let y = 10; y < height - 10; y++) {
    for (let x = 12; x < stride - 12; x += 4) {
      const i = <usize>(y * stride + x) << 2;
      const h = estimateAlong(along + i, alongLow + i, 4);
      const eh = lastError;
      const v = estimateAlong(down + i, downLow + i, <usize>stride << 2);
      const ev = lastError;
      v128.store(out + i, f32x4.div(f32x4.add(f32x4.mul(h, ev), f32x4.mul(v, eh)), f32x4.add(eh, ev)));
    }
  }
}

// @ts-ignore: decorator
@inline
function px(p: usize, offset: i32): f32 {
  return load<f32>(p + <usize>(offset << 2));
}

/**
 * Red, green and blue from mosaic and green-minus-colour: the missing colour follows its neighbours' differences.
 * Writes three planes of width × height without the border.
 */
export function coloursFromDifferences(
  src: usize, difference: usize, out: usize, width: i32, height: i32, stride: i32, border: i32, redX: i32, redY: i32,
): void {
  const plane = <usize>(width * height) << 2;
  for (let y = 0; y < height; y++) {
    const redRow = ((y ^ redY) & 1) == 0;
    const to = out + (<usize>(y * width) << 2);
    const first = redRow ? to : to + 2 * plane, second = redRow ? to + 2 * plane : to;
    const at = <usize>((y + border) * stride + border) << 2;
    // Columns with a colour of the row's own are the even ones or the odd ones.
    const even = redRow == (redX == 0);
    let x = 0;
    for (; x <= width - 4; x += 4) coloursx4(src + at, difference + at, stride, x, even, first, to + plane, second);
    for (; x < width; x++) colour(src + at, difference + at, stride, x, ((x & 1) == 0) == even, first, to + plane, second);
  }
}

/** Four pixels from an even one. */
// @ts-ignore: decorator
@inline
function coloursx4(
  src: usize, difference: usize, stride: i32, x: i32, even: bool, first: usize, green: usize, second: usize,
): void {
  const o = <usize>x << 2;
  const d = difference + o;
  const c = v128.load(src + o);
  const own = even ? i32x4(-1, 0, -1, 0) : i32x4(0, -1, 0, -1);
  const sum = f32x4.add(c, v128.load(d));
  const corners = f32x4.add(f32x4.add(f32x4.add(at4(d, -stride - 1), at4(d, -stride + 1)), at4(d, stride - 1)), at4(d, stride + 1));
  const beside = f32x4.sub(c, f32x4.mul(f32x4.splat(0.5), f32x4.add(at4(d, -1), at4(d, 1))));
  const above = f32x4.sub(c, f32x4.mul(f32x4.splat(0.5), f32x4.add(at4(d, -stride), at4(d, stride))));
  v128.store(first + o, v128.bitselect(c, beside, own));
  v128.store(green + o, v128.bitselect(sum, c, own));
  v128.store(second + o, v128.bitselect(f32x4.sub(sum, f32x4.mul(f32x4.splat(0.25), corners)), above, own));
}

// @ts-ignore: decorator
@inline
function colour(
  src: usize, difference: usize, stride: i32, x: i32, own: bool, first: usize, green: usize, second: usize,
): void {
  const o = <usize>x << 2;
  const d = difference + o;
  const c = load<f32>(src + o);
  const sum = c + load<f32>(d);
  const corners = px(d, -stride - 1) + px(d, -stride + 1) + px(d, stride - 1) + px(d, stride + 1);
  store<f32>(first + o, own ? c : c - <f32>0.5 * (px(d, -1) + px(d, 1)));
  store<f32>(green + o, own ? sum : c);
  store<f32>(second + o, own ? sum - <f32>0.25 * corners : c - <f32>0.5 * (px(d, -stride) + px(d, stride)));
}
