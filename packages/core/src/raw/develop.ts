import { transform3, transpose3, type Vector3 } from "../colour/matrix.ts";
import { REC2020 } from "../colour/rgb-space.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import { cutBand, withOver, type TileBand } from "../tiles/pyramid.ts";
import { levelCount, TILE_SIZE } from "../tiles/tiles.ts";
import { cameraToWorking } from "./camera-matrix.ts";
import type { CaptureInfo } from "./capture-info.ts";
import { CHROMA_BORDER, noiseOfSites, smoothChroma } from "./chroma-smoothing.ts";
import { demosaicRows } from "./demosaic.ts";
import { balanceGains, type Mosaic } from "./mosaic.ts";
import { measureNoise, scaleNoise, type NoiseModel } from "./noise-model.ts";
import { orientMosaic } from "./orient.ts";

/** Size of a picture that is developed to have everything optimised, and how often. */
const REHEARSED = [128, 64] as const;
const REHEARSALS = 3;

/** What a mosaic is developed by. Plain data: threads may share it. */
export interface DevelopPlan {
  /** Upright. */
  readonly mosaic: Mosaic;
  readonly gains: Vector3;
  /** Of the sensor's own channels, and of the balanced ones; null when nothing is known of it. */
  readonly noise: NoiseModel | null;
  readonly balancedNoise: NoiseModel | null;
  /** Balanced camera colours to the working space, row-major. */
  readonly matrix: Float32Array;
  /** Weights of balanced camera colours that make luminance. */
  readonly luminance: Vector3;
}

/** How a mosaic as unpacked is to be developed. */
export function developPlan(unpacked: Mosaic, info: CaptureInfo): DevelopPlan {
  const neutral = info.neutral ?? [1, 1, 1];
  const camera = cameraToWorking(info.calibrations, neutral);
  const mosaic = orientMosaic(unpacked, info.quarterTurns, info.mirrored);
  const gains = balanceGains(neutral);
  const noise = info.noise ?? measureNoise(mosaic);
  return {
    mosaic,
    gains,
    noise,
    balancedNoise: noise && scaleNoise(noise, gains),
    matrix: Float32Array.from(camera),
    luminance: transform3(transpose3(camera), REC2020.luminance),
  };
}

/** How many bands a mosaic is developed in: one for each row of tiles. */
export function bandCount({ mosaic }: DevelopPlan): number {
  return Math.ceil(mosaic.height / TILE_SIZE);
}

/** Develops a little of nothing, so that kernels are optimised before a picture comes. */
export function rehearse(heap: KernelHeap): void {
  const [width, height] = REHEARSED;
  const mosaic: Mosaic = {
    width, height, data: new Uint16Array(width * height).fill(2), stride: width, left: 0, top: 0, phase: { redX: 0, redY: 0 },
    black: [1, 1, 1, 1], white: 4,
  }; // prettier-ignore
  const noise: NoiseModel = { slope: [1e-4, 1e-4, 1e-4], offset: [1e-6, 1e-6, 1e-6], source: "measured" };
  const matrix = Float32Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1);
  const plan = { mosaic, gains: [1, 1, 1], noise, balancedNoise: noise, matrix, luminance: REC2020.luminance } as const;
  for (let turn = 0; turn < REHEARSALS; turn++) developMosaic(heap, plan, 0);
}

/** Develops one row of full-size tiles, from the mosaic to linear working colour. Bands do not depend on each other. */
export function developMosaic(heap: KernelHeap, plan: DevelopPlan, index: number): TileBand {
  const { mosaic, gains, balancedNoise, matrix, luminance } = plan;
  const { width, height } = mosaic;
  const top = index * TILE_SIZE;
  const rows = Math.min(TILE_SIZE, height - top);
  // Smoothing looks beyond the band, so it is given more rows than are taken.
  const first = balancedNoise ? Math.max(0, top - CHROMA_BORDER) : top;
  const end = balancedNoise ? Math.min(height, top + rows + CHROMA_BORDER) : top + rows;
  const n = width * (end - first);
  const mark = heap.mark();
  const planes = demosaicRows(heap, mosaic, gains, first, end - first, "directional", balancedNoise);
  const [red, green, blue] = [planes, planes + 4 * n, planes + 8 * n];
  heap.kernels.reconstructHighlights(red, green, blue, n, ...gains);
  if (balancedNoise) smoothChroma(heap, planes, width, end - first, noiseOfSites(balancedNoise), luminance);
  heap.kernels.applyMatrix(red, green, blue, n, heap.place(matrix));
  const skipped = 4 * width * (top - first);
  const size = { width, height: rows };
  const band = withOver(heap, size, [red + skipped, green + skipped, blue + skipped]);
  const cut = cutBand(heap, band, levelCount(mosaic) === 1);
  heap.release(mark);
  return cut;
}
