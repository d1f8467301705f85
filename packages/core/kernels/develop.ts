import { lookUpStopsx4 } from "./math";

/**
 * Scene stops through the tone curve: out = table(stops + moves). `moves` may be 0 for none. Both sources share a stride.
 * Up to three values are written beyond each row's end.
 */
export function develop(
  stops: usize, moves: usize, stride: i32, out: usize, outStride: i32, width: i32, height: i32, table: usize,
): void {
  const bytes = <usize>((width + 3) & ~3) << 2;
  for (let y = 0; y < height; y++) {
    const row = <usize>(y * stride) << 2;
    const to = out + (<usize>(y * outStride) << 2);
    if (moves == 0) developRow(stops + row, to, bytes, table);
    else developMovedRow(stops + row, moves + row, to, bytes, table);
  }
}

/** Eight values in a turn, see `rows.ts`. */
function developRow(stops: usize, out: usize, bytes: usize, table: usize): void {
  const whole = bytes & ~31;
  let i: usize = 0;
  for (; i < whole; i += 32) {
    const a = lookUpStopsx4(table, v128.load(stops + i)), b = lookUpStopsx4(table, v128.load(stops + i, 16));
    v128.store(out + i, a);
    v128.store(out + i, b, 16);
  }
  for (; i < bytes; i += 16) v128.store(out + i, lookUpStopsx4(table, v128.load(stops + i)));
}

/** The same with stops of moves added. */
function developMovedRow(stops: usize, moves: usize, out: usize, bytes: usize, table: usize): void {
  const whole = bytes & ~31;
  let i: usize = 0;
  for (; i < whole; i += 32) {
    const a = lookUpStopsx4(table, f32x4.add(v128.load(stops + i), v128.load(moves + i)));
    const b = lookUpStopsx4(table, f32x4.add(v128.load(stops + i, 16), v128.load(moves + i, 16)));
    v128.store(out + i, a);
    v128.store(out + i, b, 16);
  }
  for (; i < bytes; i += 16)
    v128.store(out + i, lookUpStopsx4(table, f32x4.add(v128.load(stops + i), v128.load(moves + i))));
}

/** Copies a rectangle of f32 values. */
export function copyRect(src: usize, srcStride: i32, out: usize, outStride: i32, width: i32, height: i32): void {
  const bytes = <usize>width << 2;
  for (let y = 0; y < height; y++)
    memory.copy(out + (<usize>(y * outStride) << 2), src + (<usize>(y * srcStride) << 2), bytes);
}

/** out += plane, n values, a multiple of 4. */
export function addPlane(out: usize, plane: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    v128.store(out + at, f32x4.add(v128.load(out + at), v128.load(plane + at)));
  }
}

/** a = shareA · a + shareB · b, n values, a multiple of 4. */
export function mixPlanes(a: usize, b: usize, n: i32, shareA: f32, shareB: f32): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const own = f32x4.mul(f32x4.splat(shareA), v128.load(a + at));
    v128.store(a + at, f32x4.add(own, f32x4.mul(f32x4.splat(shareB), v128.load(b + at))));
  }
}

/** out = max(0, src) in a rectangle. */
export function copyLight(src: usize, srcStride: i32, out: usize, outStride: i32, width: i32, height: i32): void {
  for (let y = 0; y < height; y++) {
    const from = src + (<usize>(y * srcStride) << 2), to = out + (<usize>(y * outStride) << 2);
    for (let x = 0; x < width; x += 4) {
      const at = <usize>x << 2;
      v128.store(to + at, f32x4.pmax(f32x4.splat(0), v128.load(from + at)));
    }
  }
}

/** What values are above a floor, 0 where they are below; in place, n a multiple of 4. */
export function aboveFloor(values: usize, n: i32, floor: f32): void {
  const zero = f32x4.splat(0), less = f32x4.splat(floor);
  for (let i = 0; i < n; i += 4) {
    const at = values + (<usize>i << 2);
    v128.store(at, f32x4.pmax(zero, f32x4.sub(v128.load(at), less)));
  }
}
