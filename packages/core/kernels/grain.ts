import { exp2Row, log2Row } from "./rows";

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

/** −ln of light beyond which grain stays as it is there. */
const DEEPEST: f32 = 6;

/**
 * What grain adds to a depth in octaves (−log2 of light). Light becomes light · e^y with y = m − k·m² + c: m is the noise with the
 * variance V = a·x·(1 + b·x)/(1 + c·x) at the depth x = −ln light; k gives the skewness of grains, (1/x + t)/6, no more than
 * makes the variance a tenth larger; c keeps the mean of light.
 * @param model - a, b, c, t as f32.
 */
// @ts-ignore: decorator
@inline
function grainOctaves(octaves: v128, noise: v128, model: usize): v128 {
  const one = f32x4.splat(1);
  const x = f32x4.pmin(f32x4.splat(DEEPEST), f32x4.mul(octaves, f32x4.splat(0.69314718)));
  const rise = f32x4.add(one, f32x4.mul(v128.load32_splat(model, 4), x));
  const fall = f32x4.add(one, f32x4.mul(v128.load32_splat(model, 8), x));
  const a = f32x4.mul(v128.load32_splat(model), x);
  const variance = f32x4.add(f32x4.div(f32x4.mul(a, rise), fall), f32x4.splat(1e-20));
  const root = f32x4.sqrt(variance);
  const m = f32x4.mul(root, noise);
  const lean = f32x4.mul(
    f32x4.add(f32x4.div(one, f32x4.pmax(f32x4.splat(1e-4), x)), v128.load32_splat(model, 12)),
    f32x4.splat(0.16666667),
  );
  const k = f32x4.pmin(lean, f32x4.div(f32x4.splat(0.2236), root));
  const u = f32x4.mul(f32x4.add(k, k), variance);
  // ½·ln(1 + u) as a fraction, then V / 2(1 + u).
  const half = f32x4.div(
    f32x4.mul(u, f32x4.add(f32x4.splat(6), u)),
    f32x4.add(f32x4.splat(12), f32x4.mul(f32x4.splat(8), u)),
  );
  const mean = f32x4.sub(half, f32x4.div(f32x4.mul(variance, f32x4.splat(0.5)), f32x4.add(one, u)));
  const y = f32x4.add(f32x4.sub(m, f32x4.mul(k, f32x4.mul(m, m))), mean);
  return f32x4.mul(y, f32x4.splat(-1.4426950));
}

/** Densities in octaves with their grain, in place; eight at a time, see `rows.ts`. `bytes` is a multiple of 16. */
export function grainRow(densities: usize, noise: usize, bytes: usize, model: usize): void {
  const whole = bytes & ~31;
  let i: usize = 0;
  for (; i < whole; i += 32) {
    const a = v128.load(densities + i), b = v128.load(densities + i, 16);
    const p = grainOctaves(a, v128.load(noise + i), model), q = grainOctaves(b, v128.load(noise + i, 16), model);
    v128.store(densities + i, f32x4.add(a, p));
    v128.store(densities + i, f32x4.add(b, q), 16);
  }
  for (; i < bytes; i += 16) {
    const a = v128.load(densities + i);
    v128.store(densities + i, f32x4.add(a, grainOctaves(a, v128.load(noise + i), model)));
  }
}

/** Noise that is stronger or weaker from place to place: noise · (1 + share), the factor 0 to 2. Width is rounded up to 4. */
export function scaleNoise(
  noise: usize, noiseStride: i32, share: usize, shareStride: i32, out: usize, outStride: i32, width: i32, height: i32,
): void {
  const one = f32x4.splat(1), zero = f32x4.splat(0), two = f32x4.splat(2);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      const more = v128.load(share + (<usize>(y * shareStride) << 2) + at);
      const factor = f32x4.pmin(two, f32x4.pmax(zero, f32x4.add(one, more)));
      const value = v128.load(noise + (<usize>(y * noiseStride) << 2) + at);
      v128.store(out + (<usize>(y * outStride) << 2) + at, f32x4.mul(value, factor));
    }
  }
}

/** Pixels that {@link addGrain} takes at a time. */
const CHUNK: i32 = 512;
const octaves = memory.data(4 * 512, 16);

/** Grain on light, in place; `model` as in {@link grainOctaves}. Up to three values beyond a row's end are changed, too. */
export function addGrain(
  light: usize, stride: i32, noise: usize, noiseStride: i32, width: i32, height: i32, model: usize,
): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x += CHUNK) {
      const row = light + (<usize>(y * stride + x) << 2), grains = noise + (<usize>(y * noiseStride + x) << 2);
      grainOnRow(row, grains, <usize>((min(CHUNK, width - x) + 3) & ~3) << 2, model);
    }
}

/** Short loops, see `rows.ts`. */
function grainOnRow(light: usize, noise: usize, bytes: usize, model: usize): void {
  log2Row(light, octaves, bytes, 1e-6, 1);
  for (let i: usize = 0; i < bytes; i += 16) {
    const depth = f32x4.pmax(f32x4.splat(0), f32x4.neg(v128.load(octaves + i)));
    v128.store(octaves + i, f32x4.neg(grainOctaves(depth, v128.load(noise + i), model)));
  }
  exp2Row(octaves, octaves, bytes, 1);
  for (let i: usize = 0; i < bytes; i += 16) v128.store(light + i, f32x4.mul(v128.load(light + i), v128.load(octaves + i)));
}
