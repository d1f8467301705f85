import { log2x4, sum3 } from "./math";

/** The least light of a colour whose logarithm is taken. */
const DARKEST: f32 = 1e-5;

// @ts-ignore: decorator
@inline
function clamp01(v: v128): v128 {
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), v));
}

/**
 * How much of each pixel lies inside, from its colour by a local line: out = (r·R + g·G + b·B + o − low) · slope, within 0 and 1.
 * Rows of the three colours may be longer than those of the line's planes (stride `lineStride`) and of `out`.
 */
export function matteOfColours(
  red: usize, green: usize, blue: usize, stride: i32, r: usize, g: usize, b: usize, o: usize, lineStride: i32,
  out: usize, outStride: i32, width: i32, height: i32, low: f32, slope: f32,
): void {
  for (let y = 0; y < height; y++) {
    const from = <usize>(y * stride) << 2, line = <usize>(y * lineStride) << 2, to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      let v = f32x4.mul(v128.load(r + line + at), v128.load(red + from + at));
      v = f32x4.add(v, f32x4.mul(v128.load(g + line + at), v128.load(green + from + at)));
      v = f32x4.add(v, f32x4.mul(v128.load(b + line + at), v128.load(blue + from + at)));
      v = f32x4.add(v, v128.load(o + line + at));
      v128.store(to + at, clamp01(f32x4.mul(f32x4.sub(v, f32x4.splat(low)), f32x4.splat(slope))));
    }
  }
}

/**
 * The local line of three colours that comes nearest to a mask, by least squares in each window: mask = r·R + g·G + b·B + o (He, Sun, Tang
 * 2010, with a colour guide). From means over the windows, planes of n values, a multiple of 4: of the products of colours, in the order
 * RR, RG, RB, GG, GB, BB; of the colours; of each times the mask, which become r, g, b; and of the mask, which becomes o.
 * @param even - colours that vary by less than this share of their mean are one and the same.
 */
export function lineOfColours(
  rr: usize, rg: usize, rb: usize, gg: usize, gb: usize, bb: usize, red: usize, green: usize, blue: usize,
  r: usize, g: usize, b: usize, mask: usize, n: i32, even: f32,
): void {
  const third = f32x4.splat(even / 3), tiny = f32x4.splat(1e-12), one = f32x4.splat(1);
  for (let i: usize = 0; i < <usize>n << 2; i += 16) {
    const R = v128.load(red + i), G = v128.load(green + i), B = v128.load(blue + i), M = v128.load(mask + i);
    const unit = f32x4.mul(third, f32x4.add(R, f32x4.add(G, B)));
    const ridge = f32x4.add(f32x4.mul(unit, unit), tiny);
    const vrr = f32x4.add(f32x4.pmax(f32x4.splat(0), f32x4.sub(v128.load(rr + i), f32x4.mul(R, R))), ridge);
    const vrg = f32x4.sub(v128.load(rg + i), f32x4.mul(R, G)), vrb = f32x4.sub(v128.load(rb + i), f32x4.mul(R, B));
    const vgg = f32x4.add(f32x4.sub(v128.load(gg + i), f32x4.mul(G, G)), ridge);
    const vgb = f32x4.sub(v128.load(gb + i), f32x4.mul(G, B));
    const vbb = f32x4.add(f32x4.sub(v128.load(bb + i), f32x4.mul(B, B)), ridge);
    const ir = f32x4.sub(v128.load(r + i), f32x4.mul(R, M));
    const ig = f32x4.sub(v128.load(g + i), f32x4.mul(G, M));
    const ib = f32x4.sub(v128.load(b + i), f32x4.mul(B, M));
    // L·D·Lᵀ of the symmetric system; no pivot of a covariance with its ridge is below the ridge.
    const d0 = f32x4.div(one, vrr);
    const l1 = f32x4.mul(vrg, d0), l2 = f32x4.mul(vrb, d0);
    const d1 = f32x4.div(one, f32x4.pmax(ridge, f32x4.sub(vgg, f32x4.mul(l1, vrg))));
    const u = f32x4.sub(vgb, f32x4.mul(l1, vrb));
    const m = f32x4.mul(u, d1);
    const d2 = f32x4.div(one, f32x4.pmax(ridge, f32x4.sub(f32x4.sub(vbb, f32x4.mul(l2, vrb)), f32x4.mul(m, u))));
    const y1 = f32x4.sub(ig, f32x4.mul(l1, ir));
    const y2 = f32x4.sub(f32x4.sub(ib, f32x4.mul(l2, ir)), f32x4.mul(m, y1));
    const z = f32x4.mul(y2, d2);
    const y = f32x4.sub(f32x4.mul(y1, d1), f32x4.mul(m, z));
    const x = f32x4.sub(f32x4.mul(ir, d0), f32x4.add(f32x4.mul(l1, y), f32x4.mul(l2, z)));
    v128.store(r + i, x);
    v128.store(g + i, y);
    v128.store(b + i, z);
    v128.store(mask + i, f32x4.sub(M, sum3(x, R, y, G, z, B)));
  }
}

/**
 * How like a local mean colour each pixel is: 1 / (1 + (d² · tightness)²), d² the squared distance of the colours' logarithms
 * (stops). Planes lie as in `matteOfColours`: the means of log2 R, G, B, and the tightness.
 */
export function likenessOfColours(
  red: usize, green: usize, blue: usize, stride: i32, r: usize, g: usize, b: usize, tightness: usize, lineStride: i32,
  out: usize, outStride: i32, width: i32, height: i32,
): void {
  const least = f32x4.splat(DARKEST), one = f32x4.splat(1);
  for (let y = 0; y < height; y++) {
    const from = <usize>(y * stride) << 2, line = <usize>(y * lineStride) << 2, to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      const dr = f32x4.sub(log2x4(f32x4.pmax(least, v128.load(red + from + at))), v128.load(r + line + at));
      const dg = f32x4.sub(log2x4(f32x4.pmax(least, v128.load(green + from + at))), v128.load(g + line + at));
      const db = f32x4.sub(log2x4(f32x4.pmax(least, v128.load(blue + from + at))), v128.load(b + line + at));
      const d = f32x4.add(f32x4.mul(dr, dr), f32x4.add(f32x4.mul(dg, dg), f32x4.mul(db, db)));
      const t = f32x4.mul(d, v128.load(tightness + line + at));
      v128.store(to + at, f32x4.div(one, f32x4.add(one, f32x4.mul(t, t))));
    }
  }
}

/** Logarithms of a plane in place, log2 of what is at least the darkest light; n is a multiple of 4. */
export function logOfColour(plane: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = plane + (<usize>i << 2);
    v128.store(at, log2x4(f32x4.pmax(f32x4.splat(DARKEST), v128.load(at))));
  }
}

/**
 * What a move does beyond stops, all in stops and times its mask: out += mask · (fine · (L − F) + local · (F − B) + soft · (S − L)
 * + clear · (H − L)). A plane that is 0 counts as nothing; all but `out` and `mask` share one stride.
 */
export function addEffects(
  out: usize, outStride: i32, mask: usize, maskStride: i32, light: usize, lightStride: i32,
  fineBase: usize, base: usize, softened: usize, cleared: usize, stride: i32,
  width: i32, height: i32, fine: f32, local: f32, soft: f32, clear: f32,
): void {
  for (let y = 0; y < height; y++) {
    const to = out + (<usize>(y * outStride) << 2), m = mask + (<usize>(y * maskStride) << 2);
    const l = light + (<usize>(y * lightStride) << 2), row = <usize>(y * stride) << 2;
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      const stops = v128.load(l + at);
      let sum = f32x4.splat(0);
      if (fineBase) {
        const f = v128.load(fineBase + row + at);
        sum = f32x4.mul(f32x4.splat(fine), f32x4.sub(stops, f));
      }
      if (base) {
        const upper = fineBase ? v128.load(fineBase + row + at) : stops;
        sum = f32x4.add(sum, f32x4.mul(f32x4.splat(local), f32x4.sub(upper, v128.load(base + row + at))));
      }
      if (softened) sum = f32x4.add(sum, f32x4.mul(f32x4.splat(soft), f32x4.sub(v128.load(softened + row + at), stops)));
      if (cleared) sum = f32x4.add(sum, f32x4.mul(f32x4.splat(clear), f32x4.sub(v128.load(cleared + row + at), stops)));
      v128.store(to + at, f32x4.add(v128.load(to + at), f32x4.mul(v128.load(m + at), sum)));
    }
  }
}
