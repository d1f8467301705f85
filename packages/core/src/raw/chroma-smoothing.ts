import type { Vector3 } from "../colour/matrix.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import type { NoiseModel } from "./noise-model.ts";

/** Cells of 2 × 2 pixels on each side of a window. */
const RADIUS = 6;
/** Multiple of the noise's variance at which half of a colour difference beyond it is kept. */
const KNEE = 1.4;
/**
 * Covariances of a cell's mean after demosaicing (rr, gg, bb, rg, rb, gb) as shares of the variances of a red, a green and a blue site: channels
 * follow each other's lines, and their noise with them. Measured on flat grey charts.
 */
export const CELL_NOISE: readonly Vector3[] = [
  [0.176, 0.109, 0.038], [0.038, 0.196, 0.038], [0.038, 0.109, 0.176],
  [0.058, 0.124, 0.038], [0.058, 0.093, 0.058], [0.038, 0.124, 0.058],
]; // prettier-ignore
/** Rows above and below that the result of a row depends on. */
export const CHROMA_BORDER = 4 * RADIUS + 4;
/** What is left of colour noise in flat areas, as a share of its deviation before; measured on flat charts. */
export const CHROMA_NOISE_LEFT = 0.17;

/**
 * Smooths the chroma of linear colours in place, by as much as their noise asks for; luminance stays as it is, bit
 * by bit but for rounding. Strong colour weights then no longer amplify noise, while colour edges that stand out of it keep
 * their sharpness.
 * @param planes - pointer to red, green and blue planes of width·rows f32; both even.
 * @param noise - of means of 2 × 2 pixels: {@link noiseOfSites} of the balanced channels, or that of a file ({@link FileNoise}).
 * @param luminance - weights of the channels, sum 1.
 */
export function smoothChroma(
  heap: KernelHeap,
  planes: number,
  width: number,
  rows: number,
  noise: CellNoise,
  luminance: Vector3,
): void {
  const { kernels } = heap;
  const mark = heap.mark();
  const cw = width >> 1;
  const ch = rows >> 1;
  const n = (cw * ch + 3) & ~3;
  const cells = heap.allocate(9 * 4 * n);
  const plane = (i: number) => cells + 4 * n * i;
  const row = heap.allocate(4 * 4 * (cw + 2 * RADIUS + 12));
  const ring = heap.allocate(4 * (cw + 4) * (2 * RADIUS + 2));
  const params = heap.place(Float32Array.from([...noise, ...luminance, KNEE ** 2]));
  const mean = (i: number) => kernels.boxMean(plane(i), cw, ch, RADIUS, row, ring);
  for (let c = 0; c < 3; c++) kernels.cellMeans(planes + 4 * width * rows * c, plane(c), width, rows);
  const pairs = [[0, 0], [1, 1], [2, 2], [0, 1], [0, 2], [1, 2]]; // prettier-ignore
  pairs.forEach(([a, b], i) => kernels.multiplyPlanes(plane(a), plane(b), plane(3 + i), n));
  for (let i = 0; i < 9; i++) mean(i);
  kernels.chromaLines(cells, n, params);
  for (let i = 0; i < 9; i++) mean(i);
  kernels.divideByLast(cells, 8, n);
  // The kernel takes planes that follow each other without a gap.
  if (n !== cw * ch)
    for (let i = 1; i < 8; i++) heap.floats(cells, 9 * n).copyWithin(i * cw * ch, i * n, i * n + cw * ch);
  const lines = heap.allocate(8 * 4 * (cw + 8));
  const step = 4 * width * rows;
  kernels.smoothChroma(planes, planes + step, planes + 2 * step, width, rows, cells, lines, ...luminance);
  heap.release(mark);
}

/** Covariances that noise has in means of 2 × 2 pixels, rr, gg, bb, rg, rb, gb: of each what it is in the dark, and how much more by unit of red, green and blue. */
export type CellNoise = readonly number[];

/** What a sensor's noise becomes in cells after demosaicing. */
export function noiseOfSites({ slope, offset }: NoiseModel): CellNoise {
  return CELL_NOISE.flatMap((shares) => [
    shares.reduce((sum, share, c) => sum + share * offset[c], 0),
    ...shares.map((share, c) => share * slope[c]),
  ]);
}
