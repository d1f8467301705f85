import { REC2020_TO_REC709 } from "../colour/rgb-space.ts";
import { SRGB_TRANSFER, type Transfer } from "../colour/transfer.ts";
import type { Vector3 } from "../colour/matrix.ts";
import { isNeutral, tonedColour } from "../finish/toning.ts";
import { frameOf, type Frame, type Size } from "../ground/geometry.ts";
import { D65, type Chromaticity } from "../colour/white.ts";
import { scaleGreyNoise, type GreyNoise } from "../ground/grey-noise.ts";
import { balanceMatrix } from "../ground/white-balance.ts";
import { bakeLattice, bakeMemberships } from "../weigh/colour-lattice.ts";
import { bakeFilm } from "../weigh/film.ts";
import { colourFloor, greyModel, isPlain, type GreyModel } from "../weigh/grey-model.ts";
import { hashOf } from "./stage-key.ts";
import { bakeLightTable } from "../kernels/light-table.ts";
import type { Recipe, WeighArea } from "../recipe/schema.ts";
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
  /** Colour into grey for the tiles' own colours. */
  readonly grey: GreyModel;
  /** Stops of the grey model for the kernel; null when it is plain. */
  readonly lattice: { readonly table: Float32Array; readonly key: string } | null;
  /** Areas with a conversion of their own, those that are on. */
  readonly areas: readonly PreparedArea[];
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

/** An area and the print that is seen in it. */
export interface PreparedArea {
  readonly shape: WeighArea["shape"];
  readonly invert: boolean;
  readonly print: PreparedPrint;
}

/** Keeps the last results of costly preparations, by the recipe parts they read. */
export class Preparer {
  readonly #kept = new Map<string, { key: string; value: unknown }>();

  prepare(recipe: Recipe, negative: Size, facts: NegativeFacts): PreparedPrint {
    return this.#prepare(recipe, negative, facts, "");
  }

  /** @param area - id of the area that the print is made for; each keeps tables of its own. */
  #prepare(recipe: Recipe, negative: Size, facts: NegativeFacts, area: string): PreparedPrint {
    const { ground, weigh, shape } = recipe;
    const { asShot, noise } = facts;
    const grey = this.#grey(recipe, asShot, noise, area);
    const { weights } = grey;
    return {
      recipe,
      negative,
      frame: frameOf(negative, ground),
      grey,
      lattice: isPlain(grey) ? null : this.#lattice(grey, weigh, ground.whiteBalance, area),
      areas: weigh.areas
        .filter(({ on }) => on)
        .map(({ id, shape: outline, invert, ...own }) => ({
          shape: outline,
          invert,
          print: this.#prepare(areaRecipe(recipe, own), negative, facts, id),
        })),
      overShare: overShareOf(weights, shape.whitePoint),
      lightNoise: noise && scaleGreyNoise(noise, weights[0] + weights[1] + weights[2]),
      toneTable: this.#keep("tone", shape, () => bakeLightTable(toneCurve(shape))),
    };
  }

  #grey({ ground, weigh }: Recipe, asShot: Chromaticity, noise: GreyNoise | null, area: string): GreyModel {
    return greyModel(weigh, {
      gain: 2 ** ground.exposureEv,
      balance: balanceMatrix(ground.whiteBalance, asShot),
      floor: colourFloor(noise),
      film: weigh.by === "film" ? this.#keep(`film ${area}`, weigh.film, () => bakeFilm(weigh.film)) : undefined,
    });
  }

  /** Memberships are baked anew only for other families, so that moving one costs little. */
  #lattice(grey: GreyModel, weigh: Recipe["weigh"], balance: Recipe["ground"]["whiteBalance"], area: string) {
    const families = weigh.families.map(({ hueDegrees, saturation, lightness, reach }) => [
      hueDegrees,
      saturation,
      lightness,
      reach,
    ]);
    const places = [families, weigh.softness, balance, grey.floor];
    const memberships = this.#keep("memberships", places, () => bakeMemberships(grey));
    const film = weigh.by === "film" ? weigh.film : null;
    const key = [places, film, [...grey.familyStops]];
    return this.#keep(`lattice ${area}`, key, () => ({
      table: bakeLattice(grey, memberships),
      key: hashOf(JSON.stringify(key)),
    }));
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

/** The recipe of what is seen in an area. */
export function areaRecipe(recipe: Recipe, { by, red, green, blue, film }: AreaWeights): Recipe {
  return { ...recipe, weigh: { ...recipe.weigh, by, red, green, blue, film, areas: [] } };
}

type AreaWeights = Pick<WeighArea, "by" | "red" | "green" | "blue" | "film">;

/** Stops beyond sensor white for which room is made when the exposure leaves it. */
const OVER_STOPS = 1.5;

function overShareOf(weights: Vector3, whitePoint: number): number {
  const sensorWhite = weights[0] + weights[1] + weights[2];
  const printedWhite = 0.18 * 2 ** whitePoint;
  if (!(sensorWhite > 0)) return 1;
  const room = (printedWhite / sensorWhite - 1) / (2 ** OVER_STOPS - 1);
  return Math.round(1e4 * Math.min(1, Math.max(0, room))) / 1e4;
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
