import type { Vector3 } from "../colour/matrix.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import type { NoiseModel } from "./noise-model.ts";
import { scaleMosaic, type BayerPhase, type Mosaic } from "./mosaic.ts";

/** `directional`: Zhang & Wu 2005, then local lines, for pictures. `linear`: Malvar, He, Cutler 2004, some times as fast. */
export type DemosaicMethod = "directional" | "linear";

/** Cells of 2 × 2 sites on each side of the window in which channels are compared; it is laid twice. */
const COMPARED = 4;
/** Border that each method reads around its rows, pixels: the directional one 12 for green, 18 for lines, what is over for the comparison. */
const BORDER: Readonly<Record<DemosaicMethod, number>> = { directional: 32 + 4 * COMPARED + 4, linear: 2 };

/** Room that `fuseDifferences` takes, bytes. */
export const FUSING = 4 * 41 * 2068;

/** Contrast of texture, a share of green, for whose sake a weak channel is raised: where its noise would be more, less of it is. */
const TEXTURE = 0.07;
/** Added to channels before they are compared, of white. */
const FLOOR = 0.002;
/** Difference of channels of which half is heeded, so that grey things stay as they are; powers of e. */
const ALIKE = 0.15;
/** Gains of red and blue, at least and at most. */
const GAINS = [1 / 16, 4] as const;

/** How often green follows the colours and they follow it. */
const TURNS = 2;

/** Bytes that are written beyond the last plane. */
const BEYOND = 32;

/** Deviations of noise by which a site must stand out to be taken for stuck. */
const DEFECT_REACH = 8;

/**
 * Demosaics `rows` rows from `firstRow` into three planes in kernel memory.
 * @param firstRow - even, so that the pattern's phase is kept.
 * @param noise - of the balanced channels: with it, stuck sites are mended first, weak channels raised no further than it allows, and no lines fitted to it.
 * @returns pointer to red, green and blue planes of width·rows f32 each, balanced camera RGB.
 */
export function demosaicRows(
  heap: KernelHeap,
  mosaic: Mosaic,
  gains: Vector3,
  firstRow: number,
  rows: number,
  method: DemosaicMethod = "directional",
  noise: NoiseModel | null = null,
): number {
  if (firstRow & 1) throw new RangeError(`Expected an even first row but received ${firstRow}.`);
  const { width, phase } = mosaic;
  const border = BORDER[method];
  const stride = method === "linear" ? width + 2 * border : (width + 2 * border + 7) & ~7;
  const height = rows + 2 * border;
  const planes = heap.allocate(3 * width * rows * 4 + BEYOND);
  const mark = heap.mark();
  const padded = heap.allocate(4 * stride * height);
  scaleMosaic(heap, mosaic, gains, firstRow, rows, border, stride, padded);
  const { kernels } = heap;
  const lines = [0, 1, 2].map((c): NoiseLine => (noise ? [noise.slope[c], noise.offset[c]] : [0, 0]));
  const placed = heap.place(Float32Array.from(lines.flat()));
  if (noise) kernels.mendDefects(padded, stride, height, phase.redX, phase.redY, placed, DEFECT_REACH);
  if (method === "linear") kernels.demosaicMalvar(padded, planes, width, rows, phase.redX, phase.redY);
  else {
    const plane = 4 * stride * height;
    const room = heap.allocate(4 * plane);
    const [along, down, alongLow, downLow] = [0, 1, 2, 3].map((k) => room + k * plane);
    const [fused, level] = [heap.allocate(plane), heap.allocate(plane)];
    evenChannels(heap, padded, level, stride, height, phase, placed);
    kernels.colourDifferences(level, along, down, stride, height, phase.redX, phase.redY);
    kernels.smoothDifferences(along, down, alongLow, downLow, stride, height);
    kernels.fuseDifferences(along, down, alongLow, downLow, fused, stride, height, heap.allocate(FUSING));
    coloursByLines(heap, { src: padded, level, difference: fused, stride, height, border, phase }, lines, room, planes, width, rows); // prettier-ignore
  }
  heap.release(mark);
  return planes;
}

/** Slope and offset of the variance of a channel's noise over its light. */
type NoiseLine = readonly [slope: number, offset: number];

/** A padded mosaic, and a first estimate of green at its red and blue sites. */
interface Differences {
  readonly src: number;
  /** The mosaic whose red and blue are as light as green about them, and what green is beyond it at their sites. */
  readonly level: number;
  readonly difference: number;
  readonly stride: number;
  readonly height: number;
  readonly border: number;
  readonly phase: BayerPhase;
}

/**
 * Three planes by lines between the channels, each fitted about its place. Where two things meet, channels mix by the same shares, so that one is
 * a straight line of another, whatever the colours; taking their difference for smooth, as the first estimate does, blurs such borders, most where both sides are
 * equally light. First red and blue follow green, then in turns green at their sites follows them, and they follow green once more
 * (residual interpolation: Kiku, Monno, Tanaka, Okutomi 2013, here with lines held by the noise).
 * @param room - for 16 planes of cells, as much as four padded ones.
 */
function coloursByLines(
  heap: KernelHeap,
  { src, level, difference, stride, height, border, phase: { redX, redY } }: Differences,
  [redNoise, greenNoise, blueNoise]: readonly NoiseLine[],
  room: number,
  out: number,
  width: number,
  rows: number,
): void {
  const { kernels } = heap;
  const [cells, down] = [stride >> 1, (height - redY) >> 1];
  const bytes = 4 * cells * down;
  const [red, greenBeside, greenBelow, blue, greenAtRed, greenAtBlue, redBeside, redBelow, redAtBlue, blueBeside, blueBelow, blueAtRed, redSlope, blueSlope, greenByRed, greenByBlue] =
    Array.from({ length: 16 }, (_, k) => room + k * bytes); // prettier-ignore
  const colours = () => {
    kernels.colourByLines(
      redSlope, red, greenAtRed, greenBeside, greenBelow, greenAtBlue, redBeside, redBelow, redAtBlue, cells, down, 1, 1,
    ); // prettier-ignore
    kernels.colourByLines(
      blueSlope, blue, greenAtBlue, greenBelow, greenBeside, greenAtRed, blueBelow, blueBeside, blueAtRed, cells, down, -1, -1,
    ); // prettier-ignore
  };
  const greens = () => {
    kernels.greenByLines(
      greenByRed,
      red,
      greenBeside,
      redBeside,
      greenBelow,
      redBelow,
      greenAtRed,
      cells,
      down,
      -1,
      -1,
    );
    kernels.greenByLines(greenByBlue, blue, greenBelow, blueBelow, greenBeside, blueBeside, greenAtBlue, cells, down, 1, 1); // prettier-ignore
  };
  kernels.splitSites(src, level, difference, room, bytes, stride, cells, down, redX, redY);
  kernels.slopesOfLines(greenAtRed, red, 0, 0, redSlope, cells, down, ...greenNoise);
  kernels.slopesOfLines(greenAtBlue, blue, 0, 0, blueSlope, cells, down, ...greenNoise);
  colours();
  kernels.slopesOfLines(redBeside, greenBeside, redBelow, greenBelow, greenByRed, cells, down, ...redNoise);
  kernels.slopesOfLines(blueBeside, greenBeside, blueBelow, greenBelow, greenByBlue, cells, down, ...blueNoise);
  for (let turn = 0; turn < TURNS; turn++) {
    greens();
    colours();
  }
  [
    [red, redBeside, redBelow, redAtBlue],
    [greenAtRed, greenBeside, greenBelow, greenAtBlue],
    [blueAtRed, blueBeside, blueBelow, blue],
  ].forEach(([corner, beside, below, across], c) =>
    kernels.joinSites(
      corner, beside, below, across, out + 4 * width * rows * c, width, rows, cells, border >> 1, border >> 1, redX, redY,
    ),
  ); // prettier-ignore
}

/**
 * A mosaic whose sites of red and blue are multiplied by what brings them to green's level around them. Demosaicing takes the difference of two
 * channels for smooth; on a textured thing of strong colour that holds for channels of one level only, as light and shade
 * multiply all three (their ratio is what stays: Kimmel 1999; here over a window, so that noise and edges do not divide).
 */
function evenChannels(
  heap: KernelHeap,
  padded: number,
  out: number,
  stride: number,
  height: number,
  { redX, redY }: BayerPhase,
  noise: number,
): void {
  const { kernels } = heap;
  const mark = heap.mark();
  const [across, down] = [stride >> 1, height >> 1];
  const cells = (across * down + 3) & ~3;
  const gains = heap.allocate(4 * (3 * cells + 4));
  const room = heap.allocate(4 * 4 * (across + 2 * COMPARED + 12));
  const ring = heap.allocate(4 * (across + 4) * (2 * COMPARED + 2));
  kernels.cellColours(padded, gains, cells, stride, height, redX, redY);
  for (let pass = 0; pass < 2; pass++)
    for (let c = 0; c < 3; c++) kernels.boxMean(gains + 4 * cells * c, across, down, COMPARED, room, ring);
  kernels.channelGains(gains, cells, noise, TEXTURE, FLOOR, ALIKE, ...GAINS);
  kernels.evenSites(padded, out, gains, cells, stride, height, redX, redY, room);
  heap.release(mark);
}
