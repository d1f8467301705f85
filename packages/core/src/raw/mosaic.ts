import type { Vector3 } from "../colour/matrix.ts";
import type { KernelHeap } from "../kernels/heap.ts";

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
 * Scales `rows` rows from `firstRow` to 1.0 = sensor white of the channel with the smallest gain, balanced, with a border
 * mirrored about the edge pixel so that the pattern continues. A channel saturates at its gain.
 * @param border - pixels on every side; even.
 * @param stride - values a row of `out`; at least width + 2·border.
 * @param out - pointer to stride·(rows + 2·border) f32.
 */
export function scaleMosaic(
  heap: KernelHeap,
  mosaic: Mosaic,
  gains: Vector3,
  firstRow: number,
  rows: number,
  border: number,
  stride: number,
  out: number,
): void {
  const { data, left, top, width, height, phase, black, white } = mosaic;
  const mark = heap.mark();
  const codes = heap.allocate(2 * width + 16);
  for (let row = -border; row < rows + border; row++) {
    const y = mirror(firstRow + row, height);
    const from = (top + y) * mosaic.stride + left;
    const to = out + 4 * ((row + border) * stride + border);
    const redRow = ((y ^ phase.redY) & 1) === 0;
    const level: [number, number] = [0, 0];
    const most: [number, number] = [1, 1];
    for (const parity of [0, 1] as const) {
      const redColumn = ((parity ^ phase.redX) & 1) === 0;
      most[parity] = redRow === redColumn ? (redRow ? gains[0] : gains[2]) : gains[1];
      level[parity] = black[(y & 1) * 2 + parity];
    }
    heap.halves(codes, width).set(data.subarray(from, from + width));
    heap.kernels.scaleRow(
      codes, to, width, ...level, most[0] / (white - level[0]), most[1] / (white - level[1]), ...most,
    ); // prettier-ignore
    const line = heap.floats(to - 4 * border, stride);
    for (let i = 1; i <= border; i++) line[border - i] = line[border + mirror(-i, width)];
    for (let i = border + width; i < stride; i++) line[i] = line[border + mirror(i - border, width)];
  }
  heap.release(mark);
}

/** Reflects an index about the first and last pixel, again and again, which keeps its parity. */
function mirror(i: number, n: number): number {
  if (n === 1) return 0;
  const period = 2 * (n - 1);
  const j = ((i % period) + period) % period;
  return j < n ? j : period - j;
}

/** Share of the sites of red, green and blue that are saturated. */
export function clippedShares(heap: KernelHeap, mosaic: Mosaic): Vector3 {
  const { data, stride, left, top, width, height, phase, white } = mosaic;
  const clipped = [0, 0, 0];
  const count = [0, 0, 0];
  const mark = heap.mark();
  const codes = heap.allocate(2 * width);
  const counts = heap.allocate(8);
  const found = new Uint32Array(heap.bytes(counts, 8).buffer, counts, 2);
  for (let y = 0; y < height; y++) {
    const from = (top + y) * stride + left;
    const redRow = ((y ^ phase.redY) & 1) === 0;
    heap.halves(codes, width).set(data.subarray(from, from + width));
    found.fill(0);
    heap.kernels.countFull(codes, width, white, counts);
    for (const parity of [0, 1]) {
      const redColumn = ((parity ^ phase.redX) & 1) === 0;
      const channel = redRow === redColumn ? (redRow ? 0 : 2) : 1;
      clipped[channel] += found[parity];
      count[channel] += width >> 1;
    }
  }
  heap.release(mark);
  return [clipped[0] / count[0], clipped[1] / count[1], clipped[2] / count[2]];
}
