import { REC2020_TO_REC709 } from "../colour/rgb-space.ts";
import { SRGB_TRANSFER, type Transfer } from "../colour/transfer.ts";
import type { Matrix3, Vector3 } from "../colour/matrix.ts";
import { isNeutral, tonedColour } from "../finish/toning.ts";
import { frameOf, type Frame, type Size } from "../ground/geometry.ts";
import { D65, type Chromaticity } from "../colour/white.ts";
import { scaleGreyNoise, type GreyNoise } from "../ground/grey-noise.ts";
import { balanceMatrix } from "../ground/white-balance.ts";
import { bakeLightTable } from "../kernels/light-table.ts";
import type { Recipe } from "../recipe/schema.ts";
import { toneCurve } from "../shape/tone-curve.ts";

/** What is known of a negative beyond its pixels. */
export interface NegativeFacts {
  /** The light that the tiles are balanced for. */
  readonly asShot: Chromaticity;
  /** Noise of a pixel's luminance under plain weights; null when it is not known. */
  readonly noise: GreyNoise | null;
}

/** What of a negative's facts is taken when nothing is known. */
export const PLAIN_FACTS: NegativeFacts = { asShot: D65, noise: null };

/** A recipe made ready for one negative: tables baked, geometry solved. Built anew only for the parts that changed. */
export interface PreparedPrint {
  readonly recipe: Recipe;
  readonly negative: Size;
  readonly frame: Frame;
  /** Weights for the tiles' own colours, with exposure and white balance in them. */
  readonly weights: Vector3;
  /**
   * How much counts of the light beyond sensor white that the capture still measured, 0–1: none while sensor white prints
   * white, all of it when the exposure leaves room for it.
   */
  readonly overShare: number;
  /** Variance of the weighed light = slope · light + offset; null when the noise is not known. */
  readonly lightNoise: GreyNoise | null;
  /** Light → print reflectance. */
  readonly toneTable: Float32Array;
}

/** Keeps the last results of costly preparations, by the recipe parts they read. */
export class Preparer {
  readonly #kept = new Map<string, { key: string; value: unknown }>();

  prepare(recipe: Recipe, negative: Size, { asShot, noise }: NegativeFacts): PreparedPrint {
    const { ground, weigh, shape } = recipe;
    const weights = weightsOf(weigh, 2 ** ground.exposureEv, balanceMatrix(ground.whiteBalance, asShot));
    return {
      recipe,
      negative,
      frame: frameOf(negative, ground),
      weights,
      overShare: overShareOf(weights, shape.whitePoint),
      lightNoise: noise && scaleGreyNoise(noise, weights[0] + weights[1] + weights[2]),
      toneTable: this.#keep("tone", shape, () => bakeLightTable(toneCurve(shape))),
    };
  }

  /** Tables reflectance → code 0–1 for red, green, blue; the three are one and the same when the print is neutral. */
  encodeTables(toning: Recipe["finish"]["toning"], transfer: Transfer, name: string): Float32Array[] {
    return this.#keep(`encode ${name}`, toning, () => encodeTables(toning, transfer));
  }

  #keep<T>(stage: string, reads: unknown, make: () => T): T {
    const key = JSON.stringify(reads);
    const known = this.#kept.get(stage);
    if (known?.key === key) return known.value as T;
    const value = make();
    this.#kept.set(stage, { key, value });
    return value;
  }
}

/** Stops beyond sensor white for which room is made when the exposure leaves it. */
const OVER_STOPS = 1.5;

function overShareOf(weights: Vector3, whitePoint: number): number {
  const sensorWhite = weights[0] + weights[1] + weights[2];
  const printedWhite = 0.18 * 2 ** whitePoint;
  if (!(sensorWhite > 0)) return 1;
  const room = (printedWhite / sensorWhite - 1) / (2 ** OVER_STOPS - 1);
  return Math.round(1e4 * Math.min(1, Math.max(0, room))) / 1e4;
}

/** Grey is weights · matrix · colour, so the balance goes into the weights and costs nothing. */
function weightsOf({ red, green, blue }: Recipe["weigh"], gain: number, balance: Matrix3 | null): Vector3 {
  const w = [red * gain, green * gain, blue * gain];
  if (!balance) return [w[0], w[1], w[2]];
  const column = (c: number) => w[0] * balance[c] + w[1] * balance[3 + c] + w[2] * balance[6 + c];
  return [column(0), column(1), column(2)];
}

/** Matrix and table that show the negative's own colours on an sRGB screen. */
export const COLOUR_MATRIX = Float32Array.from(REC2020_TO_REC709);
export const colourTable = (): Float32Array => bakeLightTable((v) => SRGB_TRANSFER.encode(Math.min(1, v)));

function encodeTables(toning: Recipe["finish"]["toning"], transfer: Transfer): Float32Array[] {
  if (isNeutral(toning)) {
    const table = bakeLightTable((r) => transfer.encode(Math.min(1, r)));
    return [table, table, table];
  }
  const channels = [0, 1, 2].map(() => [] as number[]);
  const colours = new Map<number, Vector3>();
  bakeLightTable((r) => {
    const colour = tonedColour(Math.min(1, r), toning);
    colours.set(r, colour);
    return 0;
  });
  return channels.map((_, c) => bakeLightTable((r) => transfer.encode(colours.get(r)![c])));
}
