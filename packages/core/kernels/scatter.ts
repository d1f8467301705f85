import { exp2Row, log2Row } from "./rows";

const GREY: f32 = 0.18;
const PER_GREY: f32 = 5.5555556;
const FLOOR: f32 = 1e-6;

/** Scene stops of what is left of their light and what was scattered: kept · E + S. `out` may be `stops`. */
export function scatterLight(
  stops: usize, stopsStride: i32, scattered: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32, kept: f32,
): void {
  const bytes = <usize>((width + 3) & ~3) << 2;
  for (let y = 0; y < height; y++) {
    const to = out + (<usize>(y * outStride) << 2);
    const row = scattered + (<usize>(y * stride) << 2);
    exp2Row(stops + (<usize>(y * stopsStride) << 2), to, bytes, kept * GREY);
    for (let i: usize = 0; i < bytes; i += 16) v128.store(to + i, f32x4.add(v128.load(to + i), v128.load(row + i)));
    log2Row(to, to, bytes, FLOOR, PER_GREY);
  }
}

/**
 * Scene stops whose light is scattered toward the corners: E + w · (S − E), w = `share` · smoothstep of the distance from (centreX,
 * centreY), in pixels of this plane, from `start` to 1 after division by `corner`. `out` may be `stops`.
 */
export function softenCorners(
  stops: usize, stopsStride: i32, scattered: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32,
  centreX: f32, centreY: f32, corner: f32, start: f32, share: f32,
): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1), lanes = f32x4(0, 1, 2, 3);
  const scale = f32x4.splat(1 / corner), from = f32x4.splat(start), rise = f32x4.splat(1 / max<f32>(1 - start, 1e-3));
  const bytes = <usize>((width + 3) & ~3) << 2;
  for (let y = 0; y < height; y++) {
    const to = out + (<usize>(y * outStride) << 2);
    exp2Row(stops + (<usize>(y * stopsStride) << 2), to, bytes, GREY);
    const row = scattered + (<usize>(y * stride) << 2);
    const dy = f32x4.splat((<f32>y - centreY) * (<f32>y - centreY));
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      const dx = f32x4.sub(f32x4.add(f32x4.splat(<f32>x), lanes), f32x4.splat(centreX));
      const r = f32x4.mul(f32x4.sqrt(f32x4.add(f32x4.mul(dx, dx), dy)), scale);
      const t = f32x4.pmin(one, f32x4.pmax(zero, f32x4.mul(f32x4.sub(r, from), rise)));
      const smooth = f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)));
      const e = v128.load(to + at);
      v128.store(to + at, f32x4.add(e, f32x4.mul(f32x4.mul(f32x4.splat(share), smooth), f32x4.sub(v128.load(row + at), e))));
    }
    log2Row(to, to, bytes, FLOOR, PER_GREY);
  }
}

/**
 * Scene stops of light behind haze, E = J·t + A·(1 − t) (He, Sun, Tang 2009): taken out with `strength` above 0, J = (E − A)/t + A,
 * or laid in below 0. `passed` is t, the share of light that reaches the camera; A the airlight; what is left of t is at least
 * `least`. In place over `stops` when `out` is the same.
 */
export function clearHaze(
  stops: usize, stopsStride: i32, passed: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32,
  airlight: f32, strength: f32, least: f32, everywhere: f32,
): void {
  const a = f32x4.splat(airlight), one = f32x4.splat(1);
  const bytes = <usize>((width + 3) & ~3) << 2;
  for (let y = 0; y < height; y++) {
    const to = out + (<usize>(y * outStride) << 2);
    exp2Row(stops + (<usize>(y * stopsStride) << 2), to, bytes, GREY);
    const row = passed + (<usize>(y * stride) << 2);
    for (let at: usize = 0; at < bytes; at += 16) {
      const e = v128.load(to + at);
      const t = f32x4.pmin(one, f32x4.pmax(f32x4.splat(least), v128.load(row + at)));
      const veil = f32x4.sub(one, t);
      let j: v128;
      if (strength >= 0) {
        const left = f32x4.sub(one, f32x4.mul(f32x4.splat(strength), veil));
        j = f32x4.add(f32x4.div(f32x4.sub(e, a), left), a);
        // What is darker than the haze before it can be keeps a tenth of its light.
        j = f32x4.pmax(j, f32x4.mul(f32x4.splat(0.1), e));
      } else {
        const laid = f32x4.mul(f32x4.splat(-strength), f32x4.add(f32x4.splat(everywhere), f32x4.mul(f32x4.splat(1 - everywhere), veil)));
        j = f32x4.add(e, f32x4.mul(laid, f32x4.sub(a, e)));
      }
      v128.store(to + at, j);
    }
    log2Row(to, to, bytes, FLOOR, PER_GREY);
  }
}
