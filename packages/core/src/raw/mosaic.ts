import type { Vector3 } from "../colour/matrix.ts";

/** Red site within a 2×2 cell: column and row parity. */
export interface BayerPhase {
  readonly redX: 0 | 1;
  readonly redY: 0 | 1;
}

/** Sensor data as unpacked, with what is needed to scale it. */
export interface Mosaic {
  readonly data: Uint16Array;
  /** Values per row of `data`, masked borders included. */
  readonly stride: number;
  /** Top left corner of the picture within `data`. */
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
  readonly phase: BayerPhase;
  /** Black level of the four sites of a 2×2 cell at the picture's corner, row by row, sensor codes. */
  readonly black: readonly [number, number, number, number];
  /** Saturation level, sensor codes. */
  readonly white: number;
}

/** Gains that turn the camera's neutral into equal channels, the smallest being 1, so that sensor white stays 1.0. */
export function balanceGains(neutral: Vector3): Vector3 {
  const top = Math.max(...neutral);
  return [top / neutral[0], top / neutral[1], top / neutral[2]];
}

/**
 * Scales `rows` rows from `firstRow` to 1.0 = sensor white, balanced, with a border of two pixels mirrored about the
 * edge pixel so that the pattern continues. Values above 1.0 are clipped: beyond it a channel is no longer measured.
 * @param out - length (width + 4)·(rows + 4).
 */
export function scaleMosaic(mosaic: Mosaic, gains: Vector3, firstRow: number, rows: number, out: Float32Array): void {
  const { data, stride, left, top, width, height, phase, black, white } = mosaic;
  const outStride = width + 4;
  for (let row = -2; row < rows + 2; row++) {
    const y = mirror(firstRow + row, height);
    const from = (top + y) * stride + left;
    const to = (row + 2) * outStride;
    const redRow = ((y ^ phase.redY) & 1) === 0;
    const scale: [number, number] = [0, 0];
    const level: [number, number] = [0, 0];
    for (const parity of [0, 1] as const) {
      const redColumn = ((parity ^ phase.redX) & 1) === 0;
      const gain = redRow === redColumn ? (redRow ? gains[0] : gains[2]) : gains[1];
      level[parity] = black[(y & 1) * 2 + parity];
      scale[parity] = gain / (white - level[parity]);
    }
    for (let column = -2; column < width + 2; column++) {
      const x = column < 0 || column >= width ? mirror(column, width) : column;
      const value = (data[from + x] - level[x & 1]) * scale[x & 1];
      out[to + column + 2] = value > 1 ? 1 : value;
    }
  }
}

/** Reflects an index about the first and last pixel, which keeps its parity. */
function mirror(i: number, n: number): number {
  if (n === 1) return 0;
  const j = i < 0 ? -i : i >= n ? 2 * (n - 1) - i : i;
  return Math.min(n - 1, Math.max(0, j));
}
