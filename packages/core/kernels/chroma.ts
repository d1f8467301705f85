import { sum3 } from "./math";
import { sumCells } from "./pyramid";

/** Means of 2 × 2 pixels: width and height are even; `out` holds a quarter of the values. */
export function cellMeans(src: usize, out: usize, width: i32, height: i32): void {
  const half = width >> 1;
  const quarter = f32x4.splat(0.25);
  for (let y = 0; y < height >> 1; y++) {
    const a = src + (<usize>(2 * y * width) << 2), b = a + (<usize>width << 2);
    const o = out + (<usize>(y * half) << 2);
    let x = 0;
    for (; x <= half - 4; x += 4) v128.store(o + (<usize>x << 2), f32x4.mul(quarter, sumCells(a, b, <usize>x << 3)));
    for (; x < half; x++) {
      const at = <usize>x << 3;
      const sum = load<f32>(a + at) + load<f32>(a + at + 4) + load<f32>(b + at) + load<f32>(b + at + 4);
      store<f32>(o + (<usize>x << 2), <f32>0.25 * sum);
    }
  }
}

/** out = a · b, n values, a multiple of 4. */
export function multiplyPlanes(a: usize, b: usize, out: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    v128.store(out + at, f32x4.mul(v128.load(a + at), v128.load(b + at)));
  }
}

/**
 * Means over (2·radius + 1)² values, the border repeated; in place. `rows` has room for four rows of width + 2·radius + 12
 * values, `ring` for 2·radius + 1 rows and one more, each of width rounded up to 4. Nothing is ever taken off a sum (van Herk 1992, with
 * sums): what lies outside a window, however bright, leaves no trace in it, so that a mean of dark values is as exact as one of light ones.
 */
export function boxMean(plane: usize, width: i32, height: i32, radius: i32, rows: usize, ring: usize): void {
  const taps = 2 * radius + 1;
  const wide = (width + 3) & ~3;
  const scale = f32x4.splat(<f32>1 / <f32>(taps * taps));
  const bytes = <usize>wide << 2;
  const values = rows, fours = rows + (<usize>((width + 2 * radius + 12) & ~3) << 2);
  // Rows come in blocks of as many as a window has: the window is what came of this block, and the end of the one before.
  const total = ring + bytes * <usize>taps;
  for (let j = 0; j < height + 2 * radius; j++) {
    // Rows below are read before they are written: row j − radius is always ahead of the one written.
    const i = j - radius, to = i - radius, phase = j % taps;
    const at = ring + bytes * <usize>phase;
    const end = phase < taps - 1 ? at + bytes : 0;
    const out = to < 0 ? 0 : plane + (<usize>(to * width) << 2);
    if (i >= height || (i > -radius && i <= 0)) {
      // Beyond the border its row goes on.
      memory.copy(at, ring + bytes * <usize>((j + taps - 1) % taps), bytes);
      for (let x = 0; x < wide; x += 4) take(v128.load(at + (<usize>x << 2)), x, width, total, end, out, phase, scale);
    } else {
      sumFours(pad(plane, i, width, radius, values), fours, width + 2 * radius);
      switch (taps >> 2) {
        case 0: windows(0, taps, values, fours, at, width, total, end, out, phase, scale); break;
        case 1: windows(1, taps, values, fours, at, width, total, end, out, phase, scale); break;
        case 2: windows(2, taps, values, fours, at, width, total, end, out, phase, scale); break;
        case 3: windows(3, taps, values, fours, at, width, total, end, out, phase, scale); break;
        default: windows(taps >> 2, taps, values, fours, at, width, total, end, out, phase, scale);
      }
    }
    if (out)
      for (let x = width & ~3; x < width; x++) {
        const o = <usize>x << 2;
        store<f32>(out + o, (load<f32>(total + o) + (end ? load<f32>(end + o) : 0)) / <f32>(taps * taps));
      }
    // The block is full: each of its rows becomes the sum of itself and all after it.
    if (!end) for (let row = at - bytes; row >= ring; row -= bytes) for (let x = 0; x < wide; x += 4) add(row, row + bytes, x);
  }
}

/** A row's windows: kept at `at`, added to the block's total, and joined with the end of the one before where a row is written. */
// @ts-ignore: decorator
@inline
function windows(
  count: i32, taps: i32, values: usize, fours: usize, at: usize, width: i32, total: usize, end: usize, out: usize,
  phase: i32, scale: v128,
): void {
  for (let x = 0; x < width; x += 4) {
    const o = <usize>x << 2;
    let sum = f32x4.splat(0);
    let f = fours + o;
    // Two at a time, so that rounding errors do not add up along wide windows.
    if (count >= 2) {
      sum = f32x4.add(v128.load(f), v128.load(f, 16));
      f += 32;
      if (count >= 4)
        for (let left = count - 2; left >= 2; left -= 2, f += 32) sum = f32x4.add(sum, f32x4.add(v128.load(f), v128.load(f, 16)));
    }
    if (count & 1) sum = f32x4.add(sum, v128.load(f));
    let v = values + o + (<usize>count << 4);
    if (taps & 2) {
      sum = f32x4.add(sum, f32x4.add(v128.load(v), v128.load(v, 4)));
      v += 8;
    }
    sum = f32x4.add(sum, v128.load(v));
    v128.store(at + o, sum);
    take(sum, x, width, total, end, out, phase, scale);
  }
}

// @ts-ignore: decorator
@inline
function take(sum: v128, x: i32, width: i32, total: usize, end: usize, out: usize, phase: i32, scale: v128): void {
  const o = <usize>x << 2;
  const came = phase ? f32x4.add(v128.load(total + o), sum) : sum;
  v128.store(total + o, came);
  if (out && x <= width - 4) v128.store(out + o, f32x4.mul(scale, end ? f32x4.add(came, v128.load(end + o)) : came));
}

// @ts-ignore: decorator
@inline
function add(total: usize, row: usize, x: i32): void {
  const o = <usize>x << 2;
  v128.store(total + o, f32x4.add(v128.load(total + o), v128.load(row + o)));
}

/** A row with `radius` values before it and more than that after it, the ends repeated. */
function pad(plane: usize, row: i32, width: i32, radius: i32, padded: usize): usize {
  const src = plane + (<usize>(max(0, row) * width) << 2);
  const first = load<f32>(src), last = load<f32>(src + (<usize>(width - 1) << 2));
  for (let x = 0; x < radius; x++) store<f32>(padded + (<usize>x << 2), first);
  memory.copy(padded + (<usize>radius << 2), src, <usize>width << 2);
  for (let x = width + radius; x < width + 2 * radius + 8; x++) store<f32>(padded + (<usize>x << 2), last);
  return padded;
}

/** Sums of four neighbours from each of `size` values on; reads up to eleven more. */
function sumFours(values: usize, out: usize, size: i32): void {
  let next = v128.load(values, 16);
  const first = v128.load(values);
  let pairs = f32x4.add(first, v128.shuffle<i32>(first, next, 1, 2, 3, 4));
  for (let x = 0; x < size; x += 4) {
    const o = <usize>x << 2;
    const after = v128.load(values + o, 32);
    const nextPairs = f32x4.add(next, v128.shuffle<i32>(next, after, 1, 2, 3, 4));
    v128.store(out + o, f32x4.add(pairs, v128.shuffle<i32>(pairs, nextPairs, 2, 3, 4, 5)));
    pairs = nextPairs;
    next = after;
  }
}

/**
 * From local means and mean products of cells to the line that estimates clean chroma from a pixel's three channels: the
 * linear estimator that is best in the mean square for signal of the local covariance under noise of known covariance
 * (Wiener; as a local line like He, Sun, Tang 2010), with a spectral gain λ² / (λ² + k²) on the noise-whitened
 * covariance. It writes red and blue rows of the 3 × 3 line (six planes), their offsets (two), each times a weight that
 * favours windows without an edge, and that weight: nine planes over the nine it reads.
 * @param planes - means of r, g, b, then of rr, gg, bb, rg, rb, gb; `n` values each, a multiple of 4.
 * @param params - f32: covariances of the cells' noise, rr, gg, bb, rg, rb, gb: of each what it is in the dark and how much more by unit of r, g, b;
 *   luminance of r, g, b; k².
 */
export function chromaLines(planes: usize, n: i32, params: usize): void {
  const step = <usize>n << 2;
  const one = f32x4.splat(1), zero = f32x4.splat(0), tiny = f32x4.splat(1e-12);
  const lr = v128.load32_splat(params + 96), lg = v128.load32_splat(params + 100), lb = v128.load32_splat(params + 104);
  const k2 = v128.load32_splat(params + 108);
  for (let i = 0; i < n; i += 4) {
    const at = planes + (<usize>i << 2);
    const r = v128.load(at), g = v128.load(at + step), b = v128.load(at + 2 * step);
    const pr = f32x4.pmax(zero, r), pg = f32x4.pmax(zero, g), pb = f32x4.pmax(zero, b);
    const vr = noiseOf(params, 0, pr, pg, pb), vg = noiseOf(params, 1, pr, pg, pb), vb = noiseOf(params, 2, pr, pg, pb);
    const nr = f32x4.sqrt(f32x4.pmax(tiny, vr)), ng = f32x4.sqrt(f32x4.pmax(tiny, vg)), nb = f32x4.sqrt(f32x4.pmax(tiny, vb));
    const ir = f32x4.div(one, nr), ig = f32x4.div(one, ng), ib = f32x4.div(one, nb);
    let a = whitened(v128.load(at + 3 * step), r, r, vr, ir, ir);
    let c = whitened(v128.load(at + 4 * step), g, g, vg, ig, ig);
    let f = whitened(v128.load(at + 5 * step), b, b, vb, ib, ib);
    let d = whitened(v128.load(at + 6 * step), r, g, noiseOf(params, 3, pr, pg, pb), ir, ig);
    let e = whitened(v128.load(at + 7 * step), r, b, noiseOf(params, 4, pr, pg, pb), ir, ib);
    let h = whitened(v128.load(at + 8 * step), g, b, noiseOf(params, 5, pr, pg, pb), ig, ib);
    const trace = f32x4.pmax(zero, f32x4.add(a, f32x4.add(c, f)));
    // Beyond some hundred times the noise everything is signal; its square must leave k² some of f32's digits.
    const calm = f32x4.div(f32x4.splat(700), f32x4.pmax(f32x4.splat(700), trace));
    a = f32x4.mul(a, calm); c = f32x4.mul(c, calm); f = f32x4.mul(f, calm);
    d = f32x4.mul(d, calm); e = f32x4.mul(e, calm); h = f32x4.mul(h, calm);
    const s11 = f32x4.add(k2, sum3(a, a, d, d, e, e)), s12 = sum3(a, d, d, c, e, h), s13 = sum3(a, e, d, h, e, f);
    const s22 = f32x4.add(k2, sum3(d, d, c, c, h, h)), s23 = sum3(d, e, c, h, h, f);
    const s33 = f32x4.add(k2, sum3(e, e, h, h, f, f));
    // Inverse by elimination; no pivot of S + k² is below k².
    const d1 = f32x4.div(one, s11), l21 = f32x4.mul(s12, d1), l31 = f32x4.mul(s13, d1);
    const d2 = f32x4.div(one, f32x4.pmax(k2, f32x4.sub(s22, f32x4.mul(l21, s12))));
    const u = f32x4.sub(s23, f32x4.mul(l21, s13)), l32 = f32x4.mul(u, d2);
    const i33 = f32x4.div(one, f32x4.pmax(k2, f32x4.sub(f32x4.sub(s33, f32x4.mul(l31, s13)), f32x4.mul(l32, u))));
    const i23 = f32x4.neg(f32x4.mul(l32, i33)), i22 = f32x4.sub(d2, f32x4.mul(l32, i23));
    const i13 = f32x4.neg(f32x4.add(f32x4.mul(l21, i23), f32x4.mul(l31, i33)));
    const i12 = f32x4.neg(f32x4.add(f32x4.mul(l21, i22), f32x4.mul(l31, i23)));
    const i11 = f32x4.sub(d1, f32x4.add(f32x4.mul(l21, i12), f32x4.mul(l31, i13)));
    // Gain in whitened colour 1 - k² S⁻¹, back in the channels' own units.
    const grr = f32x4.sub(one, f32x4.mul(k2, i11)), ggg = f32x4.sub(one, f32x4.mul(k2, i22));
    const gbb = f32x4.sub(one, f32x4.mul(k2, i33));
    const mrg = f32x4.neg(f32x4.mul(k2, i12)), mrb = f32x4.neg(f32x4.mul(k2, i13)), mgb = f32x4.neg(f32x4.mul(k2, i23));
    const grg = f32x4.mul(mrg, f32x4.mul(nr, ig)), ggr = f32x4.mul(mrg, f32x4.mul(ng, ir));
    const grb = f32x4.mul(mrb, f32x4.mul(nr, ib)), gbr = f32x4.mul(mrb, f32x4.mul(nb, ir));
    const ggb = f32x4.mul(mgb, f32x4.mul(ng, ib)), gbg = f32x4.mul(mgb, f32x4.mul(nb, ig));
    const tr = sum3(lr, grr, lg, ggr, lb, gbr), tg = sum3(lr, grg, lg, ggg, lb, gbg), tb = sum3(lr, grb, lg, ggb, lb, gbb);
    const y = sum3(lr, r, lg, g, lb, b);
    // Never so small beside others that their sum loses it.
    const weight = f32x4.pmax(f32x4.splat(1e-3), f32x4.div(one, f32x4.mul(f32x4.add(one, trace), f32x4.add(one, trace))));
    const rr = f32x4.sub(grr, tr), rg = f32x4.sub(grg, tg), rb = f32x4.sub(grb, tb);
    const br = f32x4.sub(gbr, tr), bg = f32x4.sub(gbg, tg), bb = f32x4.sub(gbb, tb);
    v128.store(at, f32x4.mul(weight, rr));
    v128.store(at + step, f32x4.mul(weight, rg));
    v128.store(at + 2 * step, f32x4.mul(weight, rb));
    v128.store(at + 3 * step, f32x4.mul(weight, br));
    v128.store(at + 4 * step, f32x4.mul(weight, bg));
    v128.store(at + 5 * step, f32x4.mul(weight, bb));
    v128.store(at + 6 * step, f32x4.mul(weight, f32x4.sub(f32x4.sub(r, y), sum3(rr, r, rg, g, rb, b))));
    v128.store(at + 7 * step, f32x4.mul(weight, f32x4.sub(f32x4.sub(b, y), sum3(br, r, bg, g, bb, b))));
    v128.store(at + 8 * step, weight);
  }
}

/** Covariance of what noise makes of two channels: four numbers for each of six pairs, the share of none, red, green and blue. */
// @ts-ignore: decorator
@inline
function noiseOf(params: usize, pair: i32, r: v128, g: v128, b: v128): v128 {
  const p = params + (<usize>pair << 4);
  const coloured = sum3(v128.load32_splat(p, 4), r, v128.load32_splat(p, 8), g, v128.load32_splat(p, 12), b);
  return f32x4.add(v128.load32_splat(p), coloured);
}

/** Covariance of the signal from a mean product less what noise makes of it, over the noise of both. */
// @ts-ignore: decorator
@inline
function whitened(product: v128, p: v128, q: v128, noise: v128, ip: v128, iq: v128): v128 {
  return f32x4.mul(f32x4.sub(f32x4.sub(product, f32x4.mul(p, q)), noise), f32x4.mul(ip, iq));
}

/** Divides `count` planes of n values by the plane after them, in place. */
export function divideByLast(planes: usize, count: i32, n: i32): void {
  const step = <usize>n << 2;
  const last = planes + step * <usize>count;
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const inverse = f32x4.div(f32x4.splat(1), f32x4.pmax(f32x4.splat(1e-30), v128.load(last + at)));
    for (let c = 0; c < count; c++) {
      const p = planes + step * <usize>c + at;
      v128.store(p, f32x4.mul(v128.load(p), inverse));
    }
  }
}

/**
 * Replaces the chroma (colour less luminance) of every pixel by what the lines give, interpolated between cells, and leaves
 * the luminance as it is. In place.
 * @param lines - eight planes of (width/2)·(height/2) values.
 * @param rows - room for eight rows of width/2 + 8 values.
 */
export function smoothChroma(
  red: usize, green: usize, blue: usize, width: i32, height: i32, lines: usize, rows: usize,
  lr: f32, lg: f32, lb: f32,
): void {
  const cw = width >> 1, ch = height >> 1;
  const n = <usize>(cw * ch) << 2;
  const rowBytes = <usize>(cw + 8) << 2;
  const vr = f32x4.splat(lr), vg = f32x4.splat(lg), vb = f32x4.splat(lb);
  const perGreen = f32x4.splat(-1 / lg);
  for (let y = 0; y < height; y++) {
    for (let p = 0; p < 8; p++) mixRows(lines + n * <usize>p, cw, ch, y, rows + rowBytes * <usize>p);
    const line = <usize>(y * width) << 2;
    for (let x = 0; x < width; x += 4) {
      const at = line + (<usize>x << 2);
      const from = rows + (<usize>(x >> 1) << 2);
      const r = v128.load(red + at), g = v128.load(green + at), b = v128.load(blue + at);
      const l = f32x4.add(f32x4.mul(vr, r), f32x4.add(f32x4.mul(vg, g), f32x4.mul(vb, b)));
      const cr = f32x4.add(sum3(between(from), r, between(from + rowBytes), g, between(from + 2 * rowBytes), b), between(from + 6 * rowBytes));
      const cb = f32x4.add(sum3(between(from + 3 * rowBytes), r, between(from + 4 * rowBytes), g, between(from + 5 * rowBytes), b), between(from + 7 * rowBytes));
      const cg = f32x4.mul(perGreen, f32x4.add(f32x4.mul(vr, cr), f32x4.mul(vb, cb)));
      if (x + 4 <= width) {
        v128.store(red + at, f32x4.add(l, cr));
        v128.store(green + at, f32x4.add(l, cg));
        v128.store(blue + at, f32x4.add(l, cb));
      } else {
        // An even width leaves two.
        v128.store64_lane(red + at, f32x4.add(l, cr), 0);
        v128.store64_lane(green + at, f32x4.add(l, cg), 0);
        v128.store64_lane(blue + at, f32x4.add(l, cb), 0);
      }
    }
  }
}

/**
 * The row of a plane of cw × ch cells that lies in line with row y of the pixels, with a cell before it and six after, the ends repeated.
 * @param out - room for cw + 8 values.
 */
export function mixRows(plane: usize, cw: i32, ch: i32, y: i32, out: usize): void {
  const near = f32x4.splat(0.75), far = f32x4.splat(0.25);
  const cell = y >> 1;
  const other = max(0, min(ch - 1, (y & 1) == 0 ? cell - 1 : cell + 1));
  const a = plane + (<usize>(cell * cw) << 2), b = plane + (<usize>(other * cw) << 2);
  const o = out + 4;
  for (let x = 0; x < cw; x += 4) {
    const at = <usize>x << 2;
    v128.store(o + at, f32x4.add(f32x4.mul(near, v128.load(a + at)), f32x4.mul(far, v128.load(b + at))));
  }
  store<f32>(out, load<f32>(o));
  const last = load<f32>(o + (<usize>(cw - 1) << 2));
  for (let x = cw; x < cw + 6; x++) store<f32>(o + (<usize>x << 2), last);
}

/** Four pixels between cells of a row that {@link mixRows} made. */
// @ts-ignore: decorator
@inline
export function between(row: usize): v128 {
  const v = v128.load(row);
  const near = v128.shuffle<f32>(v, v, 1, 1, 2, 2), far = v128.shuffle<f32>(v, v, 0, 2, 1, 3);
  return f32x4.add(f32x4.mul(near, f32x4.splat(0.75)), f32x4.mul(far, f32x4.splat(0.25)));
}
