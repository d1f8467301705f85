// Whose a colour is, tabulated over ratios of channels and light: memberships in families, mixtures of two of them told apart.

import { exp2x4, log2x4, sum3 } from "./math";

/** Light of nodes with the same ratios of channels: so many levels of green, a stop each. */
const LEVELS: i32 = 13;
/** Bytes of what is known of a family (place and inverse squared reach), and of a pair of them. */
const FAMILY_BYTES: usize = 16;
const PAIR_BYTES: usize = 48;
/** What four colours of a level have in common for all families, and for the neutrals. */
const lanes = memory.data(32, 16);

// @ts-ignore: decorator
@inline
function cubeRoot(x: v128): v128 {
  return exp2x4(f32x4.mul(log2x4(x), f32x4.splat(1 / 3)));
}

// @ts-ignore: decorator
@inline
function row3(matrix: usize, x: v128, y: v128, z: v128): v128 {
  return sum3(v128.load32_splat(matrix), x, v128.load32_splat(matrix, 4), y, v128.load32_splat(matrix, 8), z);
}

// @ts-ignore: decorator
@inline
function withinOne(x: v128): v128 {
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), x));
}

/**
 * For the colours of a pair's mixtures that are nearest to four colours: how much of the pair is its first family, and how well
 * the colours are that mixture, 0–1; into 32 bytes at `out`.
 */
// @ts-ignore: decorator
@inline
function tellMixture(pair: usize, a: v128, b: v128, red: v128, green: v128, blue: v128, own: f32, oklab: usize, out: usize): void {
  const one = f32x4.splat(1), room = f32x4.splat(1 / (1 - 2 * own)), edge = f32x4.splat(own);
  const fr = v128.load32_splat(pair, 8), fg = v128.load32_splat(pair, 12), fb = v128.load32_splat(pair, 16);
  const wr = v128.load32_splat(pair, 20), wg = v128.load32_splat(pair, 24), wb = v128.load32_splat(pair, 28);
  const along = sum3(wr, f32x4.sub(red, fr), wg, f32x4.sub(green, fg), wb, f32x4.sub(blue, fb));
  const t = withinOne(f32x4.mul(along, v128.load32_splat(pair, 32)));
  const r = f32x4.add(fr, f32x4.mul(t, wr)), g = f32x4.add(fg, f32x4.mul(t, wg)), bl = f32x4.add(fb, f32x4.mul(t, wb));
  const l = cubeRoot(row3(oklab, r, g, bl)), m = cubeRoot(row3(oklab + 12, r, g, bl)), s = cubeRoot(row3(oklab + 24, r, g, bl));
  const light = row3(oklab + 36, l, m, s);
  const da = f32x4.sub(f32x4.div(row3(oklab + 48, l, m, s), light), a);
  const db = f32x4.sub(f32x4.div(row3(oklab + 60, l, m, s), light), b);
  const miss = f32x4.mul(v128.load32_splat(pair, 36), f32x4.add(f32x4.mul(da, da), f32x4.mul(db, db)));
  const first = f32x4.mul(withinOne(f32x4.mul(f32x4.sub(f32x4.sub(one, t), edge), room)), v128.load32_splat(pair, 40));
  const second = f32x4.mul(withinOne(f32x4.mul(f32x4.sub(t, edge), room)), v128.load32_splat(pair, 44));
  v128.store(out, f32x4.div(first, f32x4.add(first, second)));
  // Of one colour twice there is no mixture.
  const fit = load<f32>(pair, 32) == 0 ? f32x4.splat(0) : f32x4.div(one, f32x4.add(one, f32x4.mul(miss, miss)));
  v128.store(out, fit, 16);
}

/**
 * Table of what nodes of colour get: of `nodes` ratios of channels, at 13 levels of light each, the share of each of `count`
 * families times the film's gain, then that of the neutrals, then 1; `nodeBytes` a node. As in `weigh/membership.ts`.
 * @param chroma - eight planes of `nodes` values, rounded up to a multiple of 4: OKLab a/L, b/L and L (as lightness counts) of the ratios
 * where green is 1, how far they are from neutral (0–1; 0 without families), red, green, blue of their colour that mixtures are told by, and the film's gain.
 * @param lights - of each level, what L is times that where green is 1.
 * @param families - a/L, b/L, L as it counts, and reach^-2 of each.
 * @param pairs - for each two families their numbers (i32), the first's colour at luminance 1, the way to the second's, the
 * inverse of its squared length or 0, how little a colour may lie off, both reaches.
 * @param nearness - what nearness counts against a mixture; 1 and no pairs where mixtures are not told apart.
 * @param oklab - linear colours to cone responses, their roots to L, a, b: two matrices by rows.
 * @param room - 32 bytes for each family and each pair.
 */
export function bakeShares(
  chroma: usize, nodes: i32, lights: usize, families: usize, count: i32, power: f32, middle: f32,
  pairs: usize, pairCount: i32, own: f32, nearness: f32, oklab: usize, table: usize, nodeBytes: usize, room: usize,
): void {
  const one = f32x4.splat(1), near = f32x4.splat(nearness);
  const planeBytes = <usize>((nodes + 3) & ~3) << 2;
  const told = room + <usize>(count << 5);
  for (let n = 0; n < nodes; n += 4) {
    const at = chroma + (<usize>n << 2);
    const a = v128.load(at), b = v128.load(at + planeBytes), first = v128.load(at + 2 * planeBytes);
    const coloured = v128.load(at + 3 * planeBytes), film = v128.load(at + 7 * planeBytes);
    const red = v128.load(at + 4 * planeBytes), green = v128.load(at + 5 * planeBytes), blue = v128.load(at + 6 * planeBytes);
    for (let p = 0; p < pairCount; p++)
      tellMixture(pairs + <usize>p * PAIR_BYTES, a, b, red, green, blue, own, oklab, told + <usize>(p << 5));
    const here = min(4, nodes - n);
    for (let level = 0; level < LEVELS; level++) {
      const light = f32x4.mul(first, v128.load32_splat(lights + <usize>(level << 2)));
      let sum = f32x4.splat(1e-30);
      for (let k = 0; k < count; k++) {
        const family = families + <usize>k * FAMILY_BYTES;
        const da = f32x4.sub(a, v128.load32_splat(family)), db = f32x4.sub(b, v128.load32_splat(family, 4));
        const dl = f32x4.sub(light, v128.load32_splat(family, 8));
        const squared = f32x4.add(sum3(da, da, db, db, dl, dl), f32x4.splat(middle));
        const pull = exp2x4(f32x4.mul(f32x4.splat(-power), log2x4(f32x4.mul(squared, v128.load32_splat(family, 12)))));
        v128.store(room + <usize>(k << 5), pull);
        sum = f32x4.add(sum, pull);
      }
      const inverse = f32x4.div(one, sum);
      for (let k = 0; k < count; k++) {
        const share = f32x4.mul(v128.load(room + <usize>(k << 5)), inverse);
        v128.store(room + <usize>(k << 5), share);
        v128.store(room + <usize>(k << 5), f32x4.mul(share, near), 16);
      }
      sum = near;
      for (let p = 0; p < pairCount; p++) {
        const pair = pairs + <usize>p * PAIR_BYTES;
        const i = room + <usize>(load<i32>(pair) << 5), j = room + <usize>(load<i32>(pair, 4) << 5);
        const both = f32x4.add(v128.load(i), v128.load(j)), squared = f32x4.mul(both, both);
        const mixture = told + <usize>(p << 5);
        // A mixture of two counts the less, the more of a colour belongs to others.
        const weight = f32x4.mul(f32x4.mul(squared, f32x4.mul(squared, squared)), v128.load(mixture, 16));
        const ofFirst = f32x4.mul(weight, v128.load(mixture));
        sum = f32x4.add(sum, weight);
        v128.store(i, f32x4.add(v128.load(i, 16), ofFirst), 16);
        v128.store(j, f32x4.add(v128.load(j, 16), f32x4.sub(weight, ofFirst)), 16);
      }
      v128.store(lanes, f32x4.mul(film, f32x4.div(coloured, sum)));
      v128.store(lanes, f32x4.mul(film, f32x4.sub(one, coloured)), 16);
      for (let lane = 0; lane < here; lane++) {
        const node = <usize>((n + lane) * LEVELS + level), from = <usize>(lane << 2);
        const scale = load<f32>(lanes + from);
        const to = table + node * nodeBytes;
        for (let k = 0; k < count; k++)
          store<f32>(to + <usize>(k << 2), scale * load<f32>(room + <usize>(k << 5) + from, 16));
        store<f32>(to + <usize>(count << 2), load<f32>(lanes + from, 16));
        store<f32>(to + <usize>(count << 2), 1, 4);
      }
    }
  }
}
