import { betweenx4 } from "./math";
import { betweenRows, stretchRow } from "./stretch";

// Shapes of light. Coordinates are negative fractions; a frame pixel (x, y) lies at (ax·x + bx·y + cx, ay·x + by·y + cy).

// @ts-ignore: decorator
@inline
function fade(distance: v128, hard: f32): v128 {
  // 1 within `hard`, 0 beyond 1, quintic between (smooth in value, slope and curvature).
  const span = max<f32>(1 - hard, 1e-4);
  let t = f32x4.div(f32x4.sub(f32x4.splat(1), distance), f32x4.splat(span));
  t = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), t));
  const inner = f32x4.add(f32x4.mul(t, f32x4.sub(f32x4.mul(t, f32x4.splat(6)), f32x4.splat(15))), f32x4.splat(10));
  return f32x4.mul(f32x4.mul(f32x4.mul(t, t), t), inner);
}

/** An ellipse's mask. The affine map leads to the ellipse's own unit circle. */
export function drawEllipse(
  out: usize, width: i32, height: i32, ax: f64, bx: f64, cx: f64, ay: f64, by: f64, cy: f64, hard: f32,
): void {
  const steps = f32x4(0, 1, 2, 3);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      const u = f32x4.add(f32x4.splat(<f32>(ax * x + bx * y + cx)), f32x4.mul(steps, f32x4.splat(<f32>ax)));
      const v = f32x4.add(f32x4.splat(<f32>(ay * x + by * y + cy)), f32x4.mul(steps, f32x4.splat(<f32>ay)));
      const m = fade(f32x4.sqrt(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v))), hard);
      v128.store(out + (<usize>(y * width + x) << 2), m);
    }
  }
}

/** A ramp's mask: 1 where ax·x + bx·y + cx is 0 or less, fading to 0 at 1; to both sides of 0 when `both` is not 0. */
export function drawRamp(out: usize, width: i32, height: i32, ax: f64, bx: f64, cx: f64, both: i32): void {
  const steps = f32x4(0, 1, 2, 3);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      const d = f32x4.add(f32x4.splat(<f32>(ax * x + bx * y + cx)), f32x4.mul(steps, f32x4.splat(<f32>ax)));
      v128.store(out + (<usize>(y * width + x) << 2), fade(both ? f32x4.abs(d) : d, 0));
    }
  }
}

/** Edge burn: adds `gain` × (how far past `start` towards the corner), along the longer of the two half axes. */
export function addEdgeBurn(
  out: usize, stride: i32, width: i32, height: i32, x0: f64, y0: f64, stepX: f64, stepY: f64, start: f32, roundness: f32, gain: f32,
  centreX: f64, centreY: f64,
): void {
  for (let y = 0; y < height; y++) {
    const v = f32x4.splat(<f32>Math.abs(fromCentre(y0 + stepY * y, centreY)));
    for (let x = 0; x < width; x += 4) {
      const at = out + (<usize>(y * stride + x) << 2);
      const u = centreX == 0
        ? f32x4.abs(f32x4.add(f32x4.splat(<f32>(x0 + stepX * x)), f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(<f32>stepX))))
        : f32x4.abs(f32x4(
          <f32>fromCentre(x0 + stepX * x, centreX), <f32>fromCentre(x0 + stepX * (x + 1), centreX),
          <f32>fromCentre(x0 + stepX * (x + 2), centreX), <f32>fromCentre(x0 + stepX * (x + 3), centreX),
        ));
      v128.store(at, f32x4.add(v128.load(at), f32x4.mul(f32x4.splat(gain), edgeShare(u, v, start, roundness))));
    }
  }
}

/** A place between −1 and 1 from a centre that is elsewhere: the edges stay at −1 and 1. */
// @ts-ignore: decorator
@inline
function fromCentre(at: f64, centre: f64): f64 {
  return (at - centre) / (at > centre ? 1 - centre : 1 + centre);
}

/** How far places (u, v), 0 at the centre and 1 at the edges, count as edge: 0 up to `start`, 1 in the corner. */
// @ts-ignore: decorator
@inline
function edgeShare(u: v128, v: v128, start: f32, roundness: f32): v128 {
  const round = f32x4.mul(f32x4.sqrt(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v))), f32x4.splat(0.70710678));
  const square = f32x4.max(u, v);
  const d = f32x4.add(square, f32x4.mul(f32x4.splat(roundness), f32x4.sub(round, square)));
  let t = f32x4.div(f32x4.sub(d, f32x4.splat(start)), f32x4.splat(max<f32>(1 - start, 1e-4)));
  t = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), t));
  return f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.mul(f32x4.splat(2), t)));
}

/** Mixes `edge` into `out`, both 8-bit RGBA, by how far each place counts as edge; places as in {@link addEdgeBurn}. */
export function mixEdge8(
  out: usize, edge: usize, stride: i32, width: i32, height: i32, x0: f64, y0: f64, stepX: f64, stepY: f64, start: f32, roundness: f32,
): void {
  for (let y = 0; y < height; y++) {
    const v = f32x4.splat(<f32>Math.abs(y0 + stepY * y));
    for (let x = 0; x < width; x += 4) {
      const u = f32x4.abs(f32x4.add(f32x4.splat(<f32>(x0 + stepX * x)), f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(<f32>stepX))));
      const share = i32x4.trunc_sat_f32x4_s(f32x4.mul(edgeShare(u, v, start, roundness), f32x4.splat(256)));
      const at = <usize>(y * stride + x) << 2;
      const a = v128.load(out + at), b = v128.load(edge + at);
      // Each pixel's share four times over, for its four bytes.
      const low = i8x16.shuffle(share, share, 0, 1, 0, 1, 0, 1, 0, 1, 4, 5, 4, 5, 4, 5, 4, 5);
      const high = i8x16.shuffle(share, share, 8, 9, 8, 9, 8, 9, 8, 9, 12, 13, 12, 13, 12, 13, 12, 13);
      v128.store(out + at, i8x16.narrow_i16x8_u(
        mixed8(i16x8.extend_low_i8x16_u(a), i16x8.extend_low_i8x16_u(b), low),
        mixed8(i16x8.extend_high_i8x16_u(a), i16x8.extend_high_i8x16_u(b), high),
      ));
    }
  }
}

// @ts-ignore: decorator
@inline
function mixed8(a: v128, b: v128, share: v128): v128 {
  // a·(256 − share) + b·share stays below 2^16, unsigned.
  const sum = i16x8.add(i16x8.mul(a, i16x8.sub(i16x8.splat(256), share)), i16x8.mul(b, share));
  return i16x8.shr_u(i16x8.add(sum, i16x8.splat(128)), 8);
}

/**
 * Squared distances to one piece of a stroke: out = min(out, d²) in a box (x0 and x1 multiples of 4), everything in pixels of the
 * plane, p to q.
 */
export function pieceDistances(
  out: usize, stride: i32, x0: i32, y0: i32, x1: i32, y1: i32, px: f32, py: f32, qx: f32, qy: f32,
): void {
  const dx = qx - px, dy = qy - py;
  const length2 = dx * dx + dy * dy;
  const inverse = length2 > 0 ? <f32>1 / length2 : <f32>0;
  const vx = f32x4.splat(dx), vy = f32x4.splat(dy);
  const along = f32x4.splat(dx * inverse);
  const zero = f32x4.splat(0), one = f32x4.splat(1), four = f32x4.splat(4);
  const first = f32x4.add(f32x4.splat(<f32>x0 - px), f32x4(0, 1, 2, 3));
  for (let y = y0; y < y1; y++) {
    const down = <f32>y - py;
    const v = f32x4.splat(down), rest = f32x4.splat(down * dy * inverse);
    let u = first;
    let at = out + (<usize>(y * stride + x0) << 2);
    for (let x = x0; x < x1; x += 4) {
      const t = f32x4.pmin(one, f32x4.pmax(zero, f32x4.add(f32x4.mul(u, along), rest)));
      const ex = f32x4.sub(u, f32x4.mul(t, vx)), ey = f32x4.sub(v, f32x4.mul(t, vy));
      v128.store(at, f32x4.pmin(v128.load(at), f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey))));
      u = f32x4.add(u, four);
      at += 16;
    }
  }
}

/** Squared distances, pixels → a stroke's mask, flow · fade(distance / radius), in place. n is a multiple of 4. */
export function fadeDistances(plane: usize, n: i32, radius: f32, hard: f32, flow: f32): void {
  const scale = f32x4.splat(1 / (radius * radius)), f = f32x4.splat(flow);
  for (let i = 0; i < n; i += 4) {
    const at = plane + (<usize>i << 2);
    v128.store(at, f32x4.mul(f, fade(f32x4.sqrt(f32x4.mul(v128.load(at), scale)), hard)));
  }
}

/**
 * One piece of a brush stroke whose pressure changes: out = max(out, flow · fade(distance to the segment / radius)) for rows and columns of
 * the given box (x0 and x1 multiples of 4). Radius and pressure vary linearly along the piece.
 */
export function strokePiece(
  out: usize, width: i32, x0: i32, y0: i32, x1: i32, y1: i32,
  ax: f64, bx: f64, cx: f64, ay: f64, by: f64, cy: f64,
  px: f32, py: f32, qx: f32, qy: f32, radius: f32, hard: f32, flowP: f32, flowQ: f32,
): void {
  const steps = f32x4(0, 1, 2, 3);
  const dx = qx - px, dy = qy - py;
  const length2 = dx * dx + dy * dy;
  const inverse = length2 > 0 ? <f32>1 / length2 : <f32>0;
  for (let y = y0; y < y1; y++) {
    for (let x = x0; x < x1; x += 4) {
      const u = f32x4.sub(f32x4.add(f32x4.splat(<f32>(ax * x + bx * y + cx)), f32x4.mul(steps, f32x4.splat(<f32>ax))), f32x4.splat(px));
      const v = f32x4.sub(f32x4.add(f32x4.splat(<f32>(ay * x + by * y + cy)), f32x4.mul(steps, f32x4.splat(<f32>ay))), f32x4.splat(py));
      let t = f32x4.mul(f32x4.add(f32x4.mul(u, f32x4.splat(dx)), f32x4.mul(v, f32x4.splat(dy))), f32x4.splat(inverse));
      t = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), t));
      const ex = f32x4.sub(u, f32x4.mul(t, f32x4.splat(dx))), ey = f32x4.sub(v, f32x4.mul(t, f32x4.splat(dy)));
      const d = f32x4.div(f32x4.sqrt(f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey))), f32x4.splat(radius));
      const flow = f32x4.add(f32x4.splat(flowP), f32x4.mul(t, f32x4.splat(flowQ - flowP)));
      const at = out + (<usize>(y * width + x) << 2);
      v128.store(at, f32x4.pmax(v128.load(at), f32x4.mul(flow, fade(d, hard))));
    }
  }
}

// @ts-ignore: decorator
@inline
function builtUp(m: v128, stroke: v128, erase: i32): v128 {
  const one = f32x4.splat(1);
  const rest = f32x4.sub(one, stroke);
  return erase ? f32x4.mul(m, rest) : f32x4.sub(one, f32x4.mul(f32x4.sub(one, m), rest));
}

/** Builds one stroke into a mask: mask ← 1 - (1 - mask)(1 - stroke), or mask·(1 - stroke) when it erases. Width is a multiple of 4. */
export function buildUp(
  mask: usize, stride: i32, stroke: usize, strokeStride: i32, width: i32, height: i32, erase: i32,
): void {
  for (let y = 0; y < height; y++) {
    const to = mask + (<usize>(y * stride) << 2), from = stroke + (<usize>(y * strokeStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      v128.store(to + at, builtUp(v128.load(to + at), v128.load(from + at), erase));
    }
  }
}

/** Steps in which masks are summed, stops: sums below 1024 stops are then exact in any order, and taking a move out again too. */
const SUM_STEPS: f32 = 16384;

/** out += gain · mask in whole steps of 1/16384, in a rectangle. Up to three values beyond each row's end are written. */
export function addScaled(out: usize, stride: i32, mask: usize, maskStride: i32, width: i32, height: i32, gain: f32): void {
  const g = f32x4.splat(gain * SUM_STEPS), step = f32x4.splat(1 / SUM_STEPS);
  for (let y = 0; y < height; y++) {
    const to = out + (<usize>(y * stride) << 2), from = mask + (<usize>(y * maskStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      const term = f32x4.mul(f32x4.nearest(f32x4.mul(g, v128.load(from + at))), step);
      v128.store(to + at, f32x4.add(v128.load(to + at), term));
    }
  }
}

/**
 * out += mask · table(tone) in a rectangle, in straight lines between the table's `count` nodes, `perStop` a stop from `lowest`
 * up; beyond them its ends. With `invert` the mask is 1 − mask. Up to three values beyond each row's end are written.
 */
export function addByTone(
  out: usize, stride: i32, mask: usize, maskStride: i32, tones: usize, toneStride: i32, width: i32, height: i32,
  table: usize, lowest: f32, perStop: f32, count: i32, invert: i32,
): void {
  const last = f32x4.splat(<f32>(count - 1) - <f32>0.0001);
  for (let y = 0; y < height; y++) {
    const to = out + (<usize>(y * stride) << 2), from = mask + (<usize>(y * maskStride) << 2);
    const tone = tones + (<usize>(y * toneStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      let m = v128.load(from + at);
      if (invert) m = f32x4.sub(f32x4.splat(1), m);
      const place = f32x4.mul(f32x4.sub(v128.load(tone + at), f32x4.splat(lowest)), f32x4.splat(perStop));
      const inside = f32x4.pmin(last, f32x4.pmax(f32x4.splat(0), place));
      const whole = f32x4.floor(inside);
      const index = i32x4.shl(i32x4.trunc_sat_f32x4_s(whole), 2);
      v128.store(to + at, f32x4.add(v128.load(to + at), f32x4.mul(m, betweenx4(table, index, f32x4.sub(inside, whole)))));
    }
  }
}

/**
 * out += a coarser plane stretched to it in straight lines, `ratio` coarse pixels a pixel (1/2, 1/4, …). The coarse plane
 * begins one pixel before the one in which the pixel `lead` pixels after the first of `out` lies first, and ends one beyond.
 * `rows` is room for two rows of width rounded up to 4.
 */
export function addStretched(
  out: usize, stride: i32, width: i32, height: i32, coarse: usize, coarseStride: i32, coarseWidth: i32, rows: usize,
  ratio: f32, lead: i32,
): void {
  stretchInto(ADD, out, stride, width, height, coarse, coarseStride, coarseWidth, rows, ratio, lead);
}

/** Builds a stroke that was drawn coarser into a mask; the planes lie as in `addStretched`. Width is a multiple of 4. */
export function buildUpStretched(
  mask: usize, stride: i32, width: i32, height: i32, coarse: usize, coarseStride: i32, coarseWidth: i32, rows: usize,
  ratio: f32, erase: i32,
): void {
  stretchInto(erase, mask, stride, width, height, coarse, coarseStride, coarseWidth, rows, ratio, 0);
}

/** Instead of building up (0) or erasing (1). */
const ADD: i32 = 2;

// @ts-ignore: decorator
@inline
function stretchInto(
  how: i32, out: usize, stride: i32, width: i32, height: i32, coarse: usize, coarseStride: i32, coarseWidth: i32, rows: usize,
  ratio: f32, lead: i32,
): void {
  const bytes = <usize>((width + 3) & ~3) << 2;
  const origin = <f32>0.5 + ratio * (<f32>0.5 - <f32>lead);
  let upper = rows, lower = rows + bytes;
  let have = -2;
  for (let y = 0; y < height; y++) {
    const sy = origin + ratio * <f32>y;
    const iy = <i32>sy;
    if (iy != have) {
      if (iy == have + 1) {
        const swapped = upper;
        upper = lower;
        lower = swapped;
      } else stretchRow(coarse + (<usize>(iy * coarseStride) << 2), coarseWidth, upper, width, origin, ratio);
      stretchRow(coarse + (<usize>((iy + 1) * coarseStride) << 2), coarseWidth, lower, width, origin, ratio);
      have = iy;
    }
    const f = f32x4.splat(sy - <f32>iy);
    const to = out + (<usize>(y * stride) << 2);
    for (let i: usize = 0; i < bytes; i += 16) {
      const here = v128.load(to + i), come = betweenRows(upper + i, lower + i, f);
      v128.store(to + i, how == ADD ? f32x4.add(here, come) : builtUp(here, come, how));
    }
  }
}

/** light += (own − light) · m, or · (1 − m) when `invert` is not 0; `light` and `mask` share a stride. */
export function mixByMask(
  light: usize, own: usize, ownStride: i32, mask: usize, stride: i32, width: i32, height: i32, invert: i32,
): void {
  const one = f32x4.splat(1);
  for (let y = 0; y < height; y++) {
    const row = <usize>(y * stride) << 2;
    const from = own + (<usize>(y * ownStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      let m = v128.load(mask + row + at);
      if (invert) m = f32x4.sub(one, m);
      const here = v128.load(light + row + at);
      v128.store(light + row + at, f32x4.add(here, f32x4.mul(m, f32x4.sub(v128.load(from + at), here))));
    }
  }
}
