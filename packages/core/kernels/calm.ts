/**
 * From local mean and mean square of light to the line a·E + b that estimates it under noise of variance
 * slope·mean + offset (Lee 1980; averaged over windows like He, Sun, Tang 2010), `strength` of the way. In place: a over
 * mean, b over square. n is a multiple of 4.
 */
export function calmLines(mean: usize, square: usize, n: i32, slope: f32, offset: f32, strength: f32): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1), tiny = f32x4.splat(1e-20), s = f32x4.splat(strength);
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const m = v128.load(mean + at);
    const v = f32x4.pmax(tiny, f32x4.sub(v128.load(square + at), f32x4.mul(m, m)));
    const noise = f32x4.add(f32x4.splat(offset), f32x4.mul(f32x4.splat(slope), f32x4.pmax(zero, m)));
    const rest = f32x4.mul(s, f32x4.pmin(one, f32x4.div(noise, v)));
    v128.store(mean + at, f32x4.sub(one, rest));
    v128.store(square + at, f32x4.mul(rest, m));
  }
}

/** out = a·src + b for a rectangle; a and b are tight rows of `lineStride` values from the same corner. */
export function applyLines(
  src: usize, srcStride: i32, slope: usize, offset: usize, lineStride: i32, out: usize, outStride: i32, width: i32, height: i32,
): void {
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * srcStride) << 2), line = <usize>(y * lineStride) << 2;
    const to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      const e = f32x4.mul(v128.load(slope + line + at), v128.load(from + at));
      v128.store(to + at, f32x4.add(e, v128.load(offset + line + at)));
    }
  }
}
