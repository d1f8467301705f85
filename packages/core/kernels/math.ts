// Elementary functions on four lanes. Errors: exp2 < 3e-7 relative, log2 < 4e-7 absolute (for normal, positive x).

/** Adding this and taking it away again rounds to a whole number, whose bits lie in the low mantissa of the sum. */
const ROUNDER: f32 = 12582912;
const ROUNDER_BITS: i32 = 0x4b400000;

// @ts-ignore: decorator
@inline
export function exp2x4(x: v128): v128 {
  x = f32x4.pmin(f32x4.splat(126), f32x4.pmax(f32x4.splat(-126), x));
  const shifted = f32x4.add(x, f32x4.splat(ROUNDER));
  const f = f32x4.sub(x, f32x4.sub(shifted, f32x4.splat(ROUNDER)));
  // Taylor series of 2^f on [-1/2, 1/2]: coefficients ln(2)^k / k!.
  let p = f32x4.splat(1.5403530e-4);
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(1.3333558e-3));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(9.6181291e-3));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(5.5504109e-2));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(2.4022651e-1));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(6.9314718e-1));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(1));
  const scale = i32x4.shl(i32x4.add(shifted, i32x4.splat(127 - ROUNDER_BITS)), 23);
  return f32x4.mul(p, scale);
}

// @ts-ignore: decorator
@inline
export function log2x4(x: v128): v128 {
  // Split so that the mantissa lies in [sqrt(1/2), sqrt(2)); then log2(m) = 2/ln2 · atanh((m-1)/(m+1)).
  const shifted = i32x4.sub(x, i32x4.splat(0x3f3504f3));
  const e = i32x4.shr_s(shifted, 23);
  const m = i32x4.sub(x, i32x4.shl(e, 23));
  const s = f32x4.div(f32x4.sub(m, f32x4.splat(1)), f32x4.add(m, f32x4.splat(1)));
  const s2 = f32x4.mul(s, s);
  let p = f32x4.splat(0.41219858);
  p = f32x4.add(f32x4.mul(p, s2), f32x4.splat(0.57707802));
  p = f32x4.add(f32x4.mul(p, s2), f32x4.splat(0.96179669));
  p = f32x4.add(f32x4.mul(p, s2), f32x4.splat(2.88539008));
  return f32x4.add(f32x4.mul(p, s), f32x4.convert_i32x4_s(e));
}

/** log2 of positive values within 9e-4, continuous, exact at powers of two: exponent + x + x·(1 − x)·(a + b·x). */
// @ts-ignore: decorator
@inline
export function roughLog2x4(value: v128): v128 {
  const exponent = f32x4.convert_i32x4_s(i32x4.sub(i32x4.shr_u(value, 23), i32x4.splat(127)));
  const mantissa = v128.and(value, i32x4.splat(0x7fffff));
  const x = f32x4.mul(f32x4.convert_i32x4_s(mantissa), f32x4.splat(1.1920928955078125e-7));
  const bend = f32x4.add(f32x4.splat(0.4199), f32x4.mul(x, f32x4.splat(-0.162)));
  const arch = f32x4.mul(f32x4.mul(x, f32x4.sub(f32x4.splat(1), x)), bend);
  return f32x4.add(f32x4.add(exponent, x), arch);
}

/** Bits of 2^-20 and the largest float below 2^6, the domain of every light table. */
// @ts-ignore: decorator
@inline
export const TABLE_MIN_BITS: i32 = 0x35800000;
// @ts-ignore: decorator
@inline
export const TABLE_MAX_BITS: i32 = 0x427fffff;
// @ts-ignore: decorator
@inline
export const TABLE_SHIFT: i32 = 17;
// @ts-ignore: decorator
@inline
const TABLE_MIN: f32 = 9.5367431640625e-7;

/** Where four values lie in a light table: byte offsets of the nodes before them, from the second word on. NaN and negatives count as 0. */
// @ts-ignore: decorator
@inline
function tableBits(positive: v128): v128 {
  return i32x4.min_s(i32x4.max_s(positive, i32x4.splat(TABLE_MIN_BITS)), i32x4.splat(TABLE_MAX_BITS));
}

// @ts-ignore: decorator
@inline
function tableIndex(bits: v128): v128 {
  return i32x4.shl(i32x4.shr_u(i32x4.sub(bits, i32x4.splat(TABLE_MIN_BITS)), TABLE_SHIFT), 2);
}

// @ts-ignore: decorator
@inline
function tableShare(bits: v128): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(v128.and(bits, i32x4.splat(0x1ffff))), f32x4.splat(7.62939453125e-6));
}

/** What lies below the first node goes to the value at 0 in a straight line. */
// @ts-ignore: decorator
@inline
function withSmall(table: usize, positive: v128, inside: v128): v128 {
  const small = f32x4.lt(positive, f32x4.splat(TABLE_MIN));
  if (!v128.any_true(small)) return inside;
  const zero = f32x4.splat(load<f32>(table));
  const first = f32x4.splat(load<f32>(table, 4));
  const below = f32x4.add(zero, f32x4.mul(f32x4.mul(positive, f32x4.splat(1048576)), f32x4.sub(first, zero)));
  return v128.bitselect(below, inside, small);
}

/**
 * Looks four values up in a light table: word 0 is the value at 0, then one node every 1/64 of an octave from
 * 2^-20 to 2^6. Linear between nodes, so linear functions are reproduced exactly. NaN and negatives count as 0.
 */
// @ts-ignore: decorator
@inline
export function lookUpx4(table: usize, x: v128): v128 {
  const positive = f32x4.pmax(f32x4.splat(0), x);
  const bits = tableBits(positive);
  return withSmall(table, positive, betweenx4(table + 4, tableIndex(bits), tableShare(bits)));
}

/** Where {@link lookUpx4} finds four values in a light table of 16 bytes a node: the byte offset of each one's first node, then its share of the next. */
// @ts-ignore: decorator
@inline
export function placesx4(x: v128, out: usize): void {
  const positive = f32x4.pmax(f32x4.splat(0), x);
  const bits = tableBits(positive);
  const small = f32x4.lt(positive, f32x4.splat(TABLE_MIN));
  const node = i32x4.add(i32x4.shl(tableIndex(bits), 2), i32x4.splat(16));
  v128.store(out, v128.andnot(node, small));
  v128.store(out, v128.bitselect(f32x4.mul(positive, f32x4.splat(1048576)), tableShare(bits), small), 16);
}

/** Scene stops of the first node of a stops table: 2^-20 of sensor white, so that white itself is a node; 64 nodes a stop. */
const FIRST_STOPS: f32 = -17.526068811;
const LAST_NODE: f32 = 1663.99;

/** Looks four values up in a stops table, linear between nodes. NaN counts as the first. */
// @ts-ignore: decorator
@inline
export function lookUpStopsx4(table: usize, stops: v128): v128 {
  const x = f32x4.mul(f32x4.sub(stops, f32x4.splat(FIRST_STOPS)), f32x4.splat(64));
  const inside = f32x4.pmin(f32x4.splat(LAST_NODE), f32x4.pmax(f32x4.splat(0), x));
  const whole = f32x4.floor(inside);
  const index = i32x4.shl(v128.and(f32x4.add(whole, f32x4.splat(8388608)), i32x4.splat(0x7fffff)), 2);
  return betweenx4(table, index, f32x4.sub(inside, whole));
}

/** Four values between pairs of neighbours at byte offsets `index`, `f` of the way. */
// @ts-ignore: decorator
@inline
export function betweenx4(row: usize, index: v128, f: v128): v128 {
  let p = v128.load64_zero(row + i32x4.extract_lane(index, 0));
  p = v128.load64_lane(row + i32x4.extract_lane(index, 1), p, 1);
  let q = v128.load64_zero(row + i32x4.extract_lane(index, 2));
  q = v128.load64_lane(row + i32x4.extract_lane(index, 3), q, 1);
  const lo = v128.shuffle<i32>(p, q, 0, 2, 4, 6);
  return f32x4.add(lo, f32x4.mul(f, f32x4.sub(v128.shuffle<i32>(p, q, 1, 3, 5, 7), lo)));
}

/** a·b + c·d + e·f. */
// @ts-ignore: decorator
@inline
export function sum3(a: v128, b: v128, c: v128, d: v128, e: v128, f: v128): v128 {
  return f32x4.add(f32x4.mul(a, b), f32x4.add(f32x4.mul(c, d), f32x4.mul(e, f)));
}

/** Sum of four lanes. */
// @ts-ignore: decorator
@inline
export function horizontalSum(v: v128): f32 {
  return (
    f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3))
  );
}
