import { loadHalfx4 } from "./half";
import { exp2x4, roughLog2x4 } from "./math";

/**
 * E = r·R + g·G + b·B from three half-float planes (stride = width) to one f32 plane of stride `outStride`. Up to three
 * values are written beyond each row's end, so `outStride` leaves room for them.
 */
export function weighHalf(
  red: usize, green: usize, blue: usize, width: i32, height: i32, out: usize, outStride: i32, r: f32, g: f32, b: f32,
): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b);
  for (let y = 0; y < height; y++) {
    const from = <usize>(y * width) << 1;
    const to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = from + (<usize>x << 1);
      let e = f32x4.mul(wr, loadHalfx4(red + at));
      e = f32x4.add(e, f32x4.mul(wg, loadHalfx4(green + at)));
      e = f32x4.add(e, f32x4.mul(wb, loadHalfx4(blue + at)));
      v128.store(to + (<usize>x << 2), e);
    }
  }
}

/**
 * Gives back what a lens lost towards the corners, in place: E · 2^(stops · r²), r in half diagonals from the centre.
 * (x0, y0) is the first pixel's place from the centre and `step` a pixel, in half diagonals.
 */
export function liftCorners(light: usize, stride: i32, width: i32, height: i32, x0: f32, y0: f32, step: f32, stops: f32): void {
  const steps = f32x4(0, 1, 2, 3);
  for (let y = 0; y < height; y++) {
    const v = y0 + step * <f32>y;
    const row = light + (<usize>(y * stride) << 2);
    const base = f32x4.splat(stops * v * v);
    for (let x = 0; x < width; x += 4) {
      const u = f32x4.add(f32x4.splat(x0 + step * <f32>x), f32x4.mul(steps, f32x4.splat(step)));
      const lift = exp2x4(f32x4.add(base, f32x4.mul(f32x4.splat(stops), f32x4.mul(u, u))));
      const at = row + (<usize>x << 2);
      v128.store(at, f32x4.mul(v128.load(at), lift));
    }
  }
}

const CHROMA_NODES: i32 = 37;
const GREEN_NODES: i32 = 13;

/** Pairs of neighbours along green at one corner of four cells, lerped by `w`. */
// @ts-ignore: decorator
@inline
function cornerx4(table: usize, at: v128, w: v128): v128 {
  let a = v128.load64_zero(table + i32x4.extract_lane(at, 0));
  a = v128.load64_lane(table + i32x4.extract_lane(at, 1), a, 1);
  let b = v128.load64_zero(table + i32x4.extract_lane(at, 2));
  b = v128.load64_lane(table + i32x4.extract_lane(at, 3), b, 1);
  const lo = v128.shuffle<i32>(a, b, 0, 2, 4, 6);
  const hi = v128.shuffle<i32>(a, b, 1, 3, 5, 7);
  return f32x4.add(lo, f32x4.mul(w, f32x4.sub(hi, lo)));
}

// @ts-ignore: decorator
@inline
function betweenx4(x: v128, high: f32): v128 {
  return f32x4.min(f32x4.max(x, f32x4.splat(0)), f32x4.splat(high));
}

/** Where log2 of a ratio lies among 37 nodes: bent by s / (1 + 0.45·|s|), which is 1.487603 at 4.5 stops. */
// @ts-ignore: decorator
@inline
function chromaNodex4(stops: v128): v128 {
  const bent = f32x4.div(stops, f32x4.add(f32x4.splat(1), f32x4.mul(f32x4.splat(0.45), f32x4.abs(stops))));
  return betweenx4(f32x4.add(f32x4.splat(18), f32x4.mul(bent, f32x4.splat(12.1))), 35.9999);
}

/**
 * E = (r·R + g·G + b·B) · 2^stops(colour), the stops looked up trilinearly in a lattice over log2(red / green),
 * log2(blue / green) and log2 green, each channel with `floor` added. Layout as in `weighHalf`; the lattice as in
 * `weigh/colour-lattice.ts`.
 */
export function weighByColour(
  red: usize, green: usize, blue: usize, width: i32, height: i32, out: usize, outStride: i32,
  r: f32, g: f32, b: f32, lattice: usize, floor: f32,
): void {
  const wr = f32x4.splat(r), wg = f32x4.splat(g), wb = f32x4.splat(b), least = f32x4.splat(floor);
  const none = f32x4.splat(0), eleven = f32x4.splat(11);
  const rowBytes = CHROMA_NODES * GREEN_NODES * 4, columnBytes = GREEN_NODES * 4;
  for (let y = 0; y < height; y++) {
    const from = <usize>(y * width) << 1;
    const to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = from + (<usize>x << 1);
      const R = loadHalfx4(red + at), G = loadHalfx4(green + at), B = loadHalfx4(blue + at);
      const e = f32x4.add(f32x4.add(f32x4.mul(wr, R), f32x4.mul(wg, G)), f32x4.mul(wb, B));
      const logG = roughLog2x4(f32x4.add(f32x4.max(G, none), least));
      const logR = roughLog2x4(f32x4.add(f32x4.max(R, none), least));
      const logB = roughLog2x4(f32x4.add(f32x4.max(B, none), least));
      const u = chromaNodex4(f32x4.sub(logR, logG));
      const v = chromaNodex4(f32x4.sub(logB, logG));
      const w = betweenx4(f32x4.add(logG, eleven), 11.9999);
      const iu = i32x4.trunc_sat_f32x4_s(u), iv = i32x4.trunc_sat_f32x4_s(v), iw = i32x4.trunc_sat_f32x4_s(w);
      const fu = f32x4.sub(u, f32x4.convert_i32x4_s(iu));
      const fv = f32x4.sub(v, f32x4.convert_i32x4_s(iv));
      const fw = f32x4.sub(w, f32x4.convert_i32x4_s(iw));
      const cell = i32x4.add(
        i32x4.add(i32x4.mul(iu, i32x4.splat(rowBytes)), i32x4.mul(iv, i32x4.splat(columnBytes))),
        i32x4.shl(iw, 2),
      );
      const s00 = cornerx4(lattice, cell, fw);
      const s01 = cornerx4(lattice + columnBytes, cell, fw);
      const s10 = cornerx4(lattice + rowBytes, cell, fw);
      const s11 = cornerx4(lattice + rowBytes + columnBytes, cell, fw);
      const s0 = f32x4.add(s00, f32x4.mul(fv, f32x4.sub(s01, s00)));
      const s1 = f32x4.add(s10, f32x4.mul(fv, f32x4.sub(s11, s10)));
      const stops = f32x4.add(s0, f32x4.mul(fu, f32x4.sub(s1, s0)));
      v128.store(to + (<usize>x << 2), f32x4.mul(e, exp2x4(stops)));
    }
  }
}
