import { grainRow } from "./grain";
import { lookUpx4, placesx4 } from "./math";
import { log2Row } from "./rows";

/** Adding this puts a whole number below 2^23 into the low bits. */
const TO_BITS: f32 = 8388608;

// @ts-ignore: decorator
@inline
function codex4(v: v128, top: f32, offset: v128): v128 {
  const code = f32x4.floor(f32x4.add(f32x4.mul(v, f32x4.splat(top)), offset));
  const inside = f32x4.pmin(f32x4.splat(top), f32x4.pmax(f32x4.splat(0), code));
  return v128.and(f32x4.add(inside, f32x4.splat(TO_BITS)), i32x4.splat(0x7fffff));
}

// Additive recurrence on the plastic number (Roberts 2018): uniform in [0, 1), low discrepancy in both directions.
const DITHER_X: i32 = <i32>0xc13fa9a9;
const DITHER_Y: i32 = <i32>0x91e10da5;

/**
 * Grain, tone and dither in one pass: reflectance, or density in octaves (−log2 of it) where `isDensity`, → dithered 8-bit RGBA rows of a
 * picture whose corner is (x0, y0). Short loops over each row, which stays in the nearest cache; one long chain of dependent
 * steps would be slower.
 * @param noise - 0: none; `model` as in `grainOctaves`.
 * @param table - a code table: density in octaves, 16 of them with 64 nodes each; a node is four pairs (here, next) of i16, codes
 *   of red, green, blue and opaque times 128.
 * @param rows - room for three rows of width rounded up to 4.
 */
export function encodeRgba8(
  src: usize, stride: i32, isDensity: i32, noise: usize, noiseStride: i32, model: usize, out: usize, outStride: i32, width: i32, height: i32,
  x0: i32, y0: i32, table: usize, rows: usize,
): void {
  const bytes = <usize>((width + 3) & ~3) << 2;
  const places = rows, dithers = rows + bytes, shares = rows + 2 * bytes;
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * stride) << 2), grains = noise + (<usize>(y * noiseStride) << 2);
    const to = out + (<usize>(y * outStride) << 2);
    let d = i32x4.add(
      i32x4.mul(i32x4.add(i32x4.splat(x0), i32x4(0, 1, 2, 3)), i32x4.splat(DITHER_X)),
      i32x4.splat((y0 + y) * DITHER_Y),
    );
    let densities = from;
    if (!isDensity) {
      log2Row(from, shares, bytes, 1e-6, 1);
      densityRow(shares, bytes);
      densities = shares;
    }
    if (noise) {
      grainRow(densities, grains, shares, bytes, model, places);
      densities = shares;
    }
    for (let i: usize = 0; i < bytes; i += 16) {
      v128.store(dithers + i, i32x4.shr_u(d, 17));
      d = i32x4.add(d, i32x4.splat(DITHER_X * 4));
    }
    for (let i: usize = 0; i < bytes; i += 16) {
      // 64 nodes an octave, 256 steps between nodes.
      const inside = f32x4.pmin(f32x4.splat(262143), f32x4.pmax(f32x4.splat(0), f32x4.mul(v128.load(densities + i), f32x4.splat(16384))));
      const q = v128.and(f32x4.add(inside, f32x4.splat(TO_BITS)), i32x4.splat(0x7fffff));
      const f = v128.and(q, i32x4.splat(0xff));
      v128.store(places + i, i32x4.add(v128.and(i32x4.shr_u(q, 4), i32x4.splat(0xfffff0)), i32x4.splat(table)));
      v128.store(shares + i, i32x4.add(i32x4.sub(i32x4.shl(f, 16), f), i32x4.splat(256)));
    }
    for (let i: usize = 0; i < bytes; i += 16) {
      const a = codesOf(places + i, shares + i, dithers + i);
      const b = codesOf(places + i + 4, shares + i + 4, dithers + i + 4);
      const c = codesOf(places + i + 8, shares + i + 8, dithers + i + 8);
      const e = codesOf(places + i + 12, shares + i + 12, dithers + i + 12);
      v128.store(to + i, i8x16.narrow_i16x8_u(i16x8.narrow_i32x4_s(a, b), i16x8.narrow_i32x4_s(c, e)));
    }
  }
}

/** log2 of light → density in octaves, none below 0; in place. */
// @ts-ignore: decorator
@inline
function densityRow(row: usize, bytes: usize): void {
  for (let i: usize = 0; i < bytes; i += 16)
    v128.store(row + i, f32x4.pmax(f32x4.splat(0), f32x4.neg(v128.load(row + i))));
}

/** Red, green, blue, opaque of one pixel: between two nodes, dithered. */
// @ts-ignore: decorator
@inline
function codesOf(place: usize, share: usize, dither: usize): v128 {
  const mixed = i32x4.dot_i16x8_s(v128.load(load<u32>(place)), v128.load32_splat(share));
  return i32x4.shr_u(i32x4.add(mixed, v128.load32_splat(dither)), 15);
}

/**
 * 8-bit RGBA whose distance from other codes is scaled by 1 + share, 0 to 2: out = plain + (1 + share) · (out − plain).
 * @param share - one value a pixel.
 */
export function scaleTone8(out: usize, plain: usize, stride: i32, width: i32, height: i32, share: usize, shareStride: i32): void {
  const half = f32x4.splat(0.5);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = <usize>(y * stride + x) << 2;
      const factor = min<f32>(2, max<f32>(0, 1 + load<f32>(share + (<usize>(y * shareStride + x) << 2))));
      const a = bytesOf(out + at), b = bytesOf(plain + at);
      const scaled = f32x4.add(b, f32x4.mul(f32x4.splat(factor), f32x4.sub(a, b)));
      const codes = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.pmax(scaled, f32x4.splat(0)), half));
      const narrow = i16x8.narrow_i32x4_s(codes, codes);
      store<u32>(out + at, i32x4.extract_lane(i8x16.narrow_i16x8_u(narrow, narrow), 0));
    }
  }
}

/** Four bytes as numbers. */
// @ts-ignore: decorator
@inline
function bytesOf(at: usize): v128 {
  return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(at))));
}

// @ts-ignore: decorator
@inline
function narrow16(a: v128, b: v128): v128 {
  const half = f32x4.splat(0.5);
  return i16x8.narrow_i32x4_u(codex4(a, 65535, half), codex4(b, 65535, half));
}

/** Light through a table to rounded 16-bit codes: rows of `width` one after the other. Up to three codes are written beyond the last. */
export function encode16(src: usize, stride: i32, out: usize, width: i32, height: i32, table: usize): void {
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * stride) << 2), to = out + (<usize>(y * width) << 1);
    for (let x = 0; x < width; x += 4) {
      const v = lookUpx4(table, v128.load(from + (<usize>x << 2)));
      v128.store64_lane(to + (<usize>x << 1), narrow16(v, v), 0);
    }
  }
}

/**
 * The same in three colours, the three codes of a pixel side by side. Up to nine codes are written beyond the last.
 * @param table - a light table of four f32 a node: red, green, blue, nothing. `room` is for eight f32.
 */
export function encode16Rgb(src: usize, stride: i32, out: usize, width: i32, height: i32, table: usize, room: usize): void {
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * stride) << 2), to = out + (<usize>(y * width) * 6);
    for (let x = 0; x < width; x += 4) {
      const light = v128.load(from + (<usize>x << 2));
      placesx4(light, room);
      const first = i16x8.narrow_i32x4_u(colourAt(table, room), colourAt(table, room + 4));
      const last = i16x8.narrow_i32x4_u(colourAt(table, room + 8), colourAt(table, room + 12));
      const at = to + <usize>x * 6;
      v128.store64_lane(at, first, 0);
      v128.store64_lane(at, first, 1, 6);
      v128.store64_lane(at, last, 0, 12);
      v128.store64_lane(at, last, 1, 18);
    }
  }
}

/** The codes of one pixel, whose place lies at `place` and its share four values on. */
// @ts-ignore: decorator
@inline
function colourAt(table: usize, place: usize): v128 {
  const node = table + <usize>load<u32>(place);
  const before = v128.load(node), share = v128.load32_splat(place, 16);
  const value = f32x4.add(before, f32x4.mul(share, f32x4.sub(v128.load(node, 16), before)));
  return codex4(value, 65535, f32x4.splat(0.5));
}

/** Three linear planes (working space) → 8-bit RGBA through a 3×3 matrix at `matrix` (row-major f32) and one table. */
export function encodeColour8(red: usize, green: usize, blue: usize, out: usize, n: i32, matrix: usize, table: usize): void {
  const opaque = i32x4.splat(<i32>0xff000000);
  const half = f32x4.splat(0.5);
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const r = v128.load(red + at), g = v128.load(green + at), b = v128.load(blue + at);
    let rgba = opaque;
    for (let c = 0; c < 3; c++) {
      const m = matrix + <usize>c * 12;
      let v = f32x4.mul(r, v128.load32_splat(m));
      v = f32x4.add(v, f32x4.mul(g, v128.load32_splat(m + 4)));
      v = f32x4.add(v, f32x4.mul(b, v128.load32_splat(m + 8)));
      rgba = v128.or(rgba, i32x4.shl(codex4(lookUpx4(table, v), 255, half), c * 8));
    }
    v128.store(out + at, rgba);
  }
}
