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
 * Scales `rows` rows from `firstRow` to 1.0 = sensor white, balanced, with a border mirrored about the edge pixel so that
 * the pattern continues. Values above 1.0 are clipped: beyond it a channel is no longer measured.
 * @param border - pixels on every side; even.
 * @param stride - values a row of `out`; at least width + 2·border.
 * @param out - length stride·(rows + 2·border).
 */
export function scaleMosaic(
  mosaic: Mosaic,
  gains: Vector3,
  firstRow: number,
  rows: number,
  border: number,
  stride: number,
  out: Float32Array,
): void {
  const { data, left, top, width, height, phase, black, white } = mosaic;
  const columns = Int32Array.from({ length: stride }, (_, i) => mirror(i - border, width));
  for (let row = -border; row < rows + border; row++) {
    const y = mirror(firstRow + row, height);
    const from = (top + y) * mosaic.stride + left;
    const to = (row + border) * stride;
    const redRow = ((y ^ phase.redY) & 1) === 0;
    const scale: [number, number] = [0, 0];
    const level: [number, number] = [0, 0];
    for (const parity of [0, 1] as const) {
      const redColumn = ((parity ^ phase.redX) & 1) === 0;
      const gain = redRow === redColumn ? (redRow ? gains[0] : gains[2]) : gains[1];
      level[parity] = black[(y & 1) * 2 + parity];
      scale[parity] = gain / (white - level[parity]);
    }
    for (let column = 0; column < stride; column++) {
      const x = columns[column];
      const value = (data[from + x] - level[x & 1]) * scale[x & 1];
      out[to + column] = value > 1 ? 1 : value;
    }
  }
}

/** Reflects an index about the first and last pixel, again and again, which keeps its parity. */
function mirror(i: number, n: number): number {
  if (n === 1) return 0;
  const period = 2 * (n - 1);
  const j = ((i % period) + period) % period;
  return j < n ? j : period - j;
}
