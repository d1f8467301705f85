import { exp2x4, lookUpx4 } from "./math";

/** Exposure → print reflectance through a light table; `stops` (0: none) holds the local burn and lift of each pixel. */
export function develop(exposure: usize, stops: usize, table: usize, out: usize, n: i32): void {
  if (stops == 0) {
    for (let i = 0; i < n; i += 4) {
      const at = <usize>i << 2;
      v128.store(out + at, lookUpx4(table, v128.load(exposure + at)));
    }
    return;
  }
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const e = f32x4.mul(v128.load(exposure + at), exp2x4(v128.load(stops + at)));
    v128.store(out + at, lookUpx4(table, e));
  }
}
