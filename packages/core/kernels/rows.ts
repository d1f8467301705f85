import { exp2x4, log2x4 } from "./math";

// One row at a time, sixteen values in a turn: what each turn needs besides is then fetched once for all of them, which takes half
// of the time of four values in a turn, to the same bits. `bytes` is a multiple of 16; `out` may be the source.

const MOST: f32 = 1e6;

// @ts-ignore: decorator
@inline
function scaledExp2(from: usize, gain: v128): v128 {
  return f32x4.mul(exp2x4(v128.load(from)), gain);
}

/** out = gain · 2^x. */
export function exp2Row(from: usize, out: usize, bytes: usize, gain: f32): void {
  const times = f32x4.splat(gain);
  const whole = bytes & ~63;
  let i: usize = 0;
  for (; i < whole; i += 64) {
    const a = scaledExp2(from + i, times), b = scaledExp2(from + i + 16, times);
    const c = scaledExp2(from + i + 32, times), d = scaledExp2(from + i + 48, times);
    v128.store(out + i, a);
    v128.store(out + i, b, 16);
    v128.store(out + i, c, 32);
    v128.store(out + i, d, 48);
  }
  for (; i < bytes; i += 16) v128.store(out + i, scaledExp2(from + i, times));
}

// @ts-ignore: decorator
@inline
function log2Within(from: usize, least: v128, most: v128, gain: v128): v128 {
  return log2x4(f32x4.mul(f32x4.pmin(most, f32x4.pmax(least, v128.load(from))), gain));
}

/** out = log2(gain · x), x taken to lie between `floor` and a million. */
export function log2Row(from: usize, out: usize, bytes: usize, floor: f32, gain: f32): void {
  const least = f32x4.splat(floor), most = f32x4.splat(MOST), times = f32x4.splat(gain);
  const whole = bytes & ~63;
  let i: usize = 0;
  for (; i < whole; i += 64) {
    const a = log2Within(from + i, least, most, times), b = log2Within(from + i + 16, least, most, times);
    const c = log2Within(from + i + 32, least, most, times), d = log2Within(from + i + 48, least, most, times);
    v128.store(out + i, a);
    v128.store(out + i, b, 16);
    v128.store(out + i, c, 32);
    v128.store(out + i, d, 48);
  }
  for (; i < bytes; i += 16) v128.store(out + i, log2Within(from + i, least, most, times));
}
