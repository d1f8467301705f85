import type { KernelHeap } from "../kernels/heap.ts";
import type { BayerPhase } from "./mosaic.ts";

/** Border that lines read around what they are for, sites. */
export const LINES_BORDER = 20;

/** Slope and offset of the variance of a channel's noise over its light. */
export type NoiseLine = readonly [slope: number, offset: number];

/** A padded mosaic, and a first estimate of green at its red and blue sites. */
export interface Differences {
  readonly src: number;
  /** The mosaic whose red and blue are as light as green about them. */
  readonly level: number;
  /** Green less `level`, at sites of red and blue. */
  readonly difference: number;
  readonly stride: number;
  readonly height: number;
  readonly border: number;
  readonly phase: BayerPhase;
}

/**
 * Three planes by lines between the channels, each fitted about its place. Where two things meet, channels mix by the same shares, so that one is
 * a straight line of another, whatever the colours; taking their difference for smooth, as the first estimate does, blurs such borders, most where both sides are
 * equally light. First red and blue follow green, then green at their sites follows them, then they follow green once more; a second turn
 * would make noise of high ISO coarser
 * (residual interpolation: Kiku, Monno, Tanaka, Okutomi 2013, here with lines held by the noise).
 * @param room - for 16 planes of cells, as much as four padded ones.
 */
export function coloursByLines(
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
  kernels.splitSites(src, level, difference, room, bytes, stride, cells, down, redX, redY);
  kernels.slopesOfLines(greenAtRed, red, 0, 0, redSlope, cells, down, ...greenNoise);
  kernels.slopesOfLines(greenAtBlue, blue, 0, 0, blueSlope, cells, down, ...greenNoise);
  colours();
  kernels.slopesOfLines(redBeside, greenBeside, redBelow, greenBelow, greenByRed, cells, down, ...redNoise);
  kernels.slopesOfLines(blueBeside, greenBeside, blueBelow, greenBelow, greenByBlue, cells, down, ...blueNoise);
  kernels.greenByLines(greenByRed, red, greenBeside, redBeside, greenBelow, redBelow, greenAtRed, cells, down, -1, -1); // prettier-ignore
  kernels.greenByLines(greenByBlue, blue, greenBelow, blueBelow, greenBeside, blueBeside, greenAtBlue, cells, down, 1, 1); // prettier-ignore
  colours();
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
