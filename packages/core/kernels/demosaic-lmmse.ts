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

/** The linear minimum mean square estimate along one direction; its expected error is left in `lastError`. */
// @ts-ignore: decorator
@inline
function estimate(raw: usize, low: usize, step: i32): v128 {
  let sum = f32x4.splat(0), squares = f32x4.splat(0), noise = f32x4.splat(0);
  for (let k = -4; k <= 4; k++) {
    const l = at4(low, k * step);
    const n = f32x4.sub(at4(raw, k * step), l);
    sum = f32x4.add(sum, l);
    squares = f32x4.add(squares, f32x4.mul(l, l));
    noise = f32x4.add(noise, f32x4.mul(n, n));
  }
  const ninth = f32x4.splat(0.11111111);
  const mean = f32x4.mul(sum, ninth);
  const tiny = f32x4.splat(1e-9);
  const signal = f32x4.add(tiny, f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.mul(squares, ninth), f32x4.mul(mean, mean))));
  const wrong = f32x4.add(tiny, f32x4.mul(noise, ninth));
  const total = f32x4.add(signal, wrong);
  lastError = f32x4.div(f32x4.mul(signal, wrong), total);
  return f32x4.div(f32x4.add(f32x4.mul(v128.load(raw), signal), f32x4.mul(v128.load(low), wrong)), total);
}

/** Both directions' estimates, each weighed by the other's expected error. */
export function fuseDifferences(along: usize, down: usize, alongLow: usize, downLow: usize, out: usize, stride: i32, height: i32): void {
  for (let y = 10; y < height - 10; y++) {
    for (let x = 12; x < stride - 12; x += 4) {
      const i = <usize>(y * stride + x) << 2;
      const h = estimate(along + i, alongLow + i, 1);
      const eh = lastError;
      const v = estimate(down + i, downLow + i, stride);
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
    for (let x = 0; x < width; x++) {
      const i = <usize>((y + border) * stride + x + border) << 2;
      const c = load<f32>(src + i);
      const d = difference + i;
      const redColumn = ((x ^ redX) & 1) == 0;
      let green: f32, first: f32, second: f32;
      if (redRow == redColumn) {
        green = c + load<f32>(d);
        first = c;
        second = green - <f32>0.25 * (px(d, -stride - 1) + px(d, -stride + 1) + px(d, stride - 1) + px(d, stride + 1));
      } else {
        green = c;
        first = c - <f32>0.5 * (px(d, -1) + px(d, 1));
        second = c - <f32>0.5 * (px(d, -stride) + px(d, stride));
      }
      const to = out + (<usize>(y * width + x) << 2);
      store<f32>(to, redRow ? first : second);
      store<f32>(to + plane, green);
      store<f32>(to + 2 * plane, redRow ? second : first);
    }
  }
}
