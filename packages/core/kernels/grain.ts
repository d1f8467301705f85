import { exp2x4, log2x4 } from "./math";

// @ts-ignore: decorator
@inline
function mix(h: v128): v128 {
  h = v128.xor(h, i32x4.shr_u(h, 16));
  h = i32x4.mul(h, i32x4.splat(0x7feb352d));
  h = v128.xor(h, i32x4.shr_u(h, 15));
  h = i32x4.mul(h, i32x4.splat(<i32>0x846ca68b));
  return v128.xor(h, i32x4.shr_u(h, 16));
}

/**
 * White noise of unit variance at lattice points (x0…x0+width, y0…y0+height): the sum of the four bytes of a hash of
 * place and seed. The same place gives the same value in every tile. Width is a multiple of 4.
 */
export function whiteNoise(out: usize, width: i32, height: i32, x0: i32, y0: i32, seed: i32): void {
  const steps = i32x4(0, 1, 2, 3);
  const bytes = i32x4.splat(0xff);
  for (let y = 0; y < height; y++) {
    const row = mix(i32x4.splat(((y0 + y) * <i32>0x85ebca77) ^ seed));
    for (let x = 0; x < width; x += 4) {
      const place = i32x4.mul(i32x4.add(i32x4.splat(x0 + x), steps), i32x4.splat(<i32>0x9e3779b1));
      const h = mix(v128.xor(place, row));
      let sum = v128.and(h, bytes);
      sum = i32x4.add(sum, v128.and(i32x4.shr_u(h, 8), bytes));
      sum = i32x4.add(sum, v128.and(i32x4.shr_u(h, 16), bytes));
      sum = i32x4.add(sum, i32x4.shr_u(h, 24));
      const centred = f32x4.convert_i32x4_s(i32x4.sub(sum, i32x4.splat(510)));
      v128.store(out + (<usize>(y * width + x) << 2), f32x4.mul(centred, f32x4.splat(0.0067658996)));
    }
  }
}

/**
 * R · 10^(-sigma · sqrt(D) · noise), D = -log10 R: density grain that grows with the root of density (Nutting 1913), divided
 * by the mean of that factor for normal noise, 10^(ln10 · sigma² · D / 2): the print reflects as much with grain as without.
 */
// @ts-ignore: decorator
@inline
export function grainx4(r: v128, noise: v128, sigma: f32): v128 {
  const log = log2x4(f32x4.pmax(f32x4.splat(1e-6), r));
  const density = f32x4.pmax(f32x4.splat(0), f32x4.mul(log, f32x4.splat(-0.30103)));
  const change = f32x4.mul(f32x4.mul(f32x4.splat(sigma * 3.3219281), f32x4.sqrt(density)), noise);
  // log2 of 10 times ln 10 over 2.
  const mean = f32x4.mul(f32x4.splat(sigma * sigma * 3.8245096), density);
  return f32x4.mul(r, exp2x4(f32x4.neg(f32x4.add(change, mean))));
}

/** Grain on n values in place. */
export function addGrain(reflectance: usize, noise: usize, n: i32, sigma: f32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    v128.store(reflectance + at, grainx4(v128.load(reflectance + at), v128.load(noise + at), sigma));
  }
}
