/**
 * Light with its capture's blur undone where an edge stands out: y + amount · M · (x − y), x = 3y − 3·Gy + GGy being two steps of
 * Van Cittert's deconvolution by the blur G. M rises smoothly from 0 to 1 while the range of y − Gy over 3 × 3 pixels goes from
 * `from` to `to` times the noise, √(slope·y + offset + relative²·y²): a gradient has none. x stays within `over` of the light's own
 * range there beyond it: no ringing. `light`, `once` (Gy) and `twice` point to the first pixel; the first two have a border of one.
 */
export function sharpenLight(
  light: usize, stride: i32, once: usize, onceStride: i32, twice: usize, twiceStride: i32, out: usize, outStride: i32,
  width: i32, height: i32, amount: f32, slope: f32, offset: f32, relative: f32, from: f32, to: f32, over: f32,
): void {
  const step = <usize>stride << 2;
  const three = f32x4.splat(3), zero = f32x4.splat(0), one = f32x4.splat(1);
  const perSpan = f32x4.splat(1 / (to - from));
  for (let y = 0; y < height; y++) {
    const row = light + <usize>y * step;
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      const here = row + at;
      const own = v128.load(here);
      let low = own, high = own;
      const blurred = once + (<usize>(y * onceStride) << 2) + at;
      let least = f32x4.sub(own, v128.load(blurred)), most = least;
      for (let dy = -1; dy <= 1; dy++) {
        const line = here + <usize>dy * step;
        const a = v128.load(line - 4), b = v128.load(line), c = v128.load(line + 4);
        low = f32x4.pmin(low, f32x4.pmin(a, f32x4.pmin(b, c)));
        high = f32x4.pmax(high, f32x4.pmax(a, f32x4.pmax(b, c)));
        const under = blurred + <usize>(dy * onceStride << 2);
        const p = f32x4.sub(a, v128.load(under - 4)), q = f32x4.sub(b, v128.load(under)), r = f32x4.sub(c, v128.load(under + 4));
        least = f32x4.pmin(least, f32x4.pmin(p, f32x4.pmin(q, r)));
        most = f32x4.pmax(most, f32x4.pmax(p, f32x4.pmax(q, r)));
      }
      const range = f32x4.sub(high, low);
      const lit = f32x4.pmax(zero, own);
      const rel = f32x4.mul(f32x4.splat(relative), lit);
      const variance = f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(slope), lit), f32x4.splat(offset)), f32x4.mul(rel, rel));
      const noise = f32x4.sqrt(f32x4.pmax(f32x4.splat(1e-12), variance));
      const t = f32x4.pmin(one, f32x4.pmax(zero, f32x4.mul(f32x4.sub(f32x4.div(f32x4.sub(most, least), noise), f32x4.splat(from)), perSpan)));
      const mask = f32x4.mul(f32x4.mul(t, t), f32x4.sub(three, f32x4.add(t, t)));
      const g = v128.load(blurred), gg = v128.load(twice + (<usize>(y * twiceStride) << 2) + at);
      let wanted = f32x4.add(f32x4.mul(three, f32x4.sub(own, g)), gg);
      const beyond = f32x4.mul(f32x4.splat(over), range);
      wanted = f32x4.pmin(f32x4.add(high, beyond), f32x4.pmax(f32x4.sub(low, beyond), wanted));
      const share = f32x4.mul(f32x4.splat(amount), mask);
      v128.store(out + (<usize>(y * outStride) << 2) + at, f32x4.add(own, f32x4.mul(share, f32x4.sub(wanted, own))));
    }
  }
}
