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
  const inverse = f32x4.div(f32x4.splat(1), f32x4.add(signal, wrong));
  lastError = f32x4.mul(f32x4.mul(signal, wrong), inverse);
  return f32x4.mul(f32x4.add(f32x4.mul(raw, signal), f32x4.mul(low, wrong)), inverse);
}

/** Squares of what is not smooth. */
// @ts-ignore: decorator
@inline
function rough(raw: v128, low: v128): v128 {
  const rest = f32x4.sub(raw, low);
  return f32x4.mul(rest, rest);
}

/** Columns that are gone down at a time: what is summed along them stays near, and rows are still read in long pieces. */
const STRIP: i32 = 2048;
/** From one row of a strip to the next: no power of two, which would bring rows to the same places of the cache. */
// @ts-ignore: decorator
@inline
const STRIP_BYTES: usize = (2048 << 2) + 80;
/** Rows of a strip that are kept of each of three sums along columns: the last values, pairs (four of them), fours (eight). */
const KEPT: i32 = 13;
/** After them, estimates along the row and their errors. */
// @ts-ignore: decorator
@inline
const ESTIMATES: usize = 39 * STRIP_BYTES;

/**
 * Goes on with a sum over nine rows by one more, `row`, whose values are `value`; returns the sum about the row four above it. Sums of two
 * and of four rows are kept, so that each is added once; what is returned of the first eight rows has no meaning.
 */
// @ts-ignore: decorator
@inline
function sumDown(value: v128, kept: usize, row: i32): v128 {
  const pairs = kept + STRIP_BYTES, fours = kept + 5 * STRIP_BYTES;
  const pair = f32x4.add(v128.load(kept), value);
  v128.store(kept, value);
  const four = f32x4.add(v128.load(pairs + STRIP_BYTES * <usize>((row - 3) & 3)), pair);
  v128.store(pairs + STRIP_BYTES * <usize>((row - 1) & 3), pair);
  const sum = f32x4.add(v128.load(fours + STRIP_BYTES * <usize>(row & 7)), v128.load(fours + STRIP_BYTES * <usize>((row - 4) & 7)));
  v128.store(fours + STRIP_BYTES * <usize>((row - 3) & 7), four);
  return f32x4.add(sum, value);
}

/** Sums of four neighbours from each of four values on, which another four follow. */
// @ts-ignore: decorator
@inline
function fourAlong(v: v128, next: v128): v128 {
  const pair = f32x4.add(v, v128.shuffle<i32>(v, next, 1, 2, 3, 4));
  return f32x4.add(pair, v128.shuffle<i32>(pair, f32x4.add(next, v128.shuffle<i32>(next, next, 1, 2, 3, 3)), 2, 3, 4, 5));
}

/**
 * Both directions' estimates, each from the nine places about one, and each weighed by the other's expected error. `strip` is room for 41
 * rows of 2068 values.
 */
export function fuseDifferences(
  along: usize, down: usize, alongLow: usize, downLow: usize, out: usize, stride: i32, height: i32, strip: usize,
): void {
  for (let left = 12; left < stride - 12; left += STRIP) {
    const right = min(left + STRIP, stride - 12);
    for (let row = 6; row < height - 6; row++) {
      const y = row - 4;
      const at = <usize>(row * stride) << 2, middle = <usize>(y * stride) << 2;
      if (y < 10) {
        for (let x = left; x < right; x += 4) {
          const i = at + (<usize>x << 2), kept = strip + (<usize>(x - left) << 2);
          const low = v128.load(downLow + i);
          sumDown(low, kept, row);
          sumDown(f32x4.mul(low, low), kept + KEPT * STRIP_BYTES, row);
          sumDown(rough(v128.load(down + i), low), kept + 2 * KEPT * STRIP_BYTES, row);
        }
        continue;
      }
      const first = middle + (<usize>(left - 4) << 2);
      let low = v128.load(alongLow + first, 16), raw = v128.load(along + first, 16);
      let square = f32x4.mul(low, low), rest = rough(raw, low);
      const lowBefore = v128.load(alongLow + first);
      let lows = fourAlong(lowBefore, low);
      let squares = fourAlong(f32x4.mul(lowBefore, lowBefore), square);
      let rests = fourAlong(rough(v128.load(along + first), lowBefore), rest);
      for (let x = left; x < right; x += 4) {
        const o = <usize>x << 2;
        const i = middle + o;
        const lowNext = v128.load(alongLow + i, 16), rawNext = v128.load(along + i, 16);
        const squareNext = f32x4.mul(lowNext, lowNext), restNext = rough(rawNext, lowNext);
        const lowFour = fourAlong(low, lowNext), squareFour = fourAlong(square, squareNext), restFour = fourAlong(rest, restNext);
        const h = estimate(
          raw,
          low,
          f32x4.add(f32x4.add(lows, lowFour), lowNext),
          f32x4.add(f32x4.add(squares, squareFour), squareNext),
          f32x4.add(f32x4.add(rests, restFour), restNext),
        );
        const kept = strip + (<usize>(x - left) << 2);
        v128.store(kept + ESTIMATES, h);
        v128.store(kept + ESTIMATES + STRIP_BYTES, lastError);
        low = lowNext; square = squareNext; rest = restNext; raw = rawNext;
        lows = lowFour; squares = squareFour; rests = restFour;
      }
      for (let x = left; x < right; x += 4) {
        const o = <usize>x << 2;
        const i = middle + o;
        const kept = strip + (<usize>(x - left) << 2);
        const below = v128.load(downLow + at + o);
        const v = estimate(
          v128.load(down + i),
          v128.load(downLow + i),
          sumDown(below, kept, row),
          sumDown(f32x4.mul(below, below), kept + KEPT * STRIP_BYTES, row),
          sumDown(rough(v128.load(down + at + o), below), kept + 2 * KEPT * STRIP_BYTES, row),
        );
        const ev = lastError;
        const h = v128.load(kept + ESTIMATES), eh = v128.load(kept + ESTIMATES + STRIP_BYTES);
        v128.store(out + i, f32x4.div(f32x4.add(f32x4.mul(h, ev), f32x4.mul(v, eh)), f32x4.add(eh, ev)));
      }
    }
  }
}
