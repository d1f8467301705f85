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
 * Strength of grain at four depths in octaves (−log2 of light), see {@link grainRow}: the root of V, and k·V. V/x comes first, from
 * which k·V follows without dividing by x or by the root.
 */
// @ts-ignore: decorator
@inline
function strengthOf(octaves: v128, root: usize, lean: usize, model: usize): void {
  const one = f32x4.splat(1);
  const x = f32x4.pmin(f32x4.splat(DEEPEST), f32x4.mul(octaves, f32x4.splat(0.69314718)));
  const rise = f32x4.add(one, f32x4.mul(v128.load32_splat(model, 4), x));
  const fall = f32x4.add(one, f32x4.mul(v128.load32_splat(model, 8), x));
  const slope = f32x4.div(f32x4.mul(v128.load32_splat(model), rise), fall);
  const variance = f32x4.mul(slope, x);
  const deviation = f32x4.sqrt(variance);
  const leaning = f32x4.add(slope, f32x4.mul(v128.load32_splat(model, 12), variance));
  v128.store(root, deviation);
  v128.store(lean, f32x4.pmin(f32x4.mul(leaning, f32x4.splat(0.16666667)), f32x4.mul(f32x4.splat(0.2236), deviation)));
}

/** A density in octaves with grain of a strength. */
// @ts-ignore: decorator
@inline
function grained(density: v128, noise: v128, root: v128, kV: v128): v128 {
  const six = f32x4.splat(6);
  const u = f32x4.add(kV, kV), onward = f32x4.add(f32x4.splat(1), u);
  const half = f32x4.mul(f32x4.mul(u, f32x4.add(six, u)), onward);
  const less = f32x4.mul(f32x4.mul(root, root), f32x4.add(six, f32x4.mul(f32x4.splat(4), u)));
  const under = f32x4.mul(onward, f32x4.add(f32x4.splat(12), f32x4.mul(f32x4.splat(8), u)));
  const mean = f32x4.div(f32x4.sub(half, less), under);
  const y = f32x4.add(f32x4.mul(noise, f32x4.sub(root, f32x4.mul(kV, noise))), mean);
  return f32x4.sub(density, f32x4.mul(y, f32x4.splat(1.4426950)));
}

/**
 * Grain on densities in octaves (−log2 of light). Light becomes light · e^y with y = m − k·m² + c: m is the noise with the
 * variance V = a·x·(1 + b·x)/(1 + c·x) at the depth x = −ln light; k gives the skewness of grains, (1/x + t)/6, no more than
 * makes the variance a tenth larger; c keeps the mean of light: ½·ln(1 + u) with u = 2k·V, as the fraction u·(6 + u)/(12 + 8u),
 * less V/(2 + 2u). In two short loops of eight values a turn, see `rows.ts`.
 * @param out - may be `densities`.
 * @param bytes - a multiple of 16.
 * @param model - a, b, c, t as f32.
 * @param room - for two rows.
 */
export function grainRow(densities: usize, noise: usize, out: usize, bytes: usize, model: usize, room: usize): void {
  const whole = bytes & ~31, leans = room + bytes;
  let i: usize = 0;
  for (; i < whole; i += 32) {
    const from = densities + i, root = room + i, lean = leans + i;
    const a = v128.load(from), b = v128.load(from, 16);
    strengthOf(a, root, lean, model);
    strengthOf(b, root + 16, lean + 16, model);
  }
  for (; i < bytes; i += 16) strengthOf(v128.load(densities + i), room + i, leans + i, model);
  i = 0;
  for (; i < whole; i += 32) {
    const from = densities + i, to = out + i, n = noise + i, root = room + i, lean = leans + i;
    const a = grained(v128.load(from), v128.load(n), v128.load(root), v128.load(lean));
    const b = grained(v128.load(from, 16), v128.load(n, 16), v128.load(root, 16), v128.load(lean, 16));
    v128.store(to, a);
    v128.store(to, b, 16);
  }
  for (; i < bytes; i += 16)
    v128.store(out + i, grained(v128.load(densities + i), v128.load(noise + i), v128.load(room + i), v128.load(leans + i)));
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
const depths = memory.data(4 * 512, 16), lighter = memory.data(4 * 512, 16), room = memory.data(8 * 512, 16);

/** Grain on light, in place; `model` as in {@link grainRow}. Up to three values beyond a row's end are changed, too. */
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
  log2Row(light, depths, bytes, 1e-6, 1);
  for (let i: usize = 0; i < bytes; i += 16)
    v128.store(depths + i, f32x4.pmax(f32x4.splat(0), f32x4.neg(v128.load(depths + i))));
  grainRow(depths, noise, lighter, bytes, model, room);
  for (let i: usize = 0; i < bytes; i += 16)
    v128.store(lighter + i, f32x4.sub(v128.load(depths + i), v128.load(lighter + i)));
  exp2Row(lighter, lighter, bytes, 1);
  for (let i: usize = 0; i < bytes; i += 16) v128.store(light + i, f32x4.mul(v128.load(light + i), v128.load(lighter + i)));
}
