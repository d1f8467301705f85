import { hashOf } from "../../graph/stage-key.ts";
import { MIDDLE_GREY } from "../../colour/stops.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import { prepareShape, type PreparedShape } from "../../shapes/prepared.ts";
import { scaleGreyNoise } from "../ground/grey-noise.ts";
import type { GroundPrint, NoisyPrint } from "../ground/print.ts";
import type { Ground } from "../ground/schema.ts";
import { balanceMatrix } from "../ground/white-balance.ts";
import type { Keep } from "../part.ts";
import type { Shape } from "../shape/schema.ts";
import { bakeLattice, bakeMemberships } from "./colour-lattice.ts";
import { bakeFilm } from "./film.ts";
import { colourFloor, greyModel, isPlain, type GreyModel } from "./grey-model.ts";
import { greyPalette, type GreyPalette } from "./grey-palette.ts";
import type { Weigh, WeighArea } from "./schema.ts";

/** What of a recipe decides how a colour becomes light, and how it is judged. */
export interface WeighRecipe {
  readonly ground: Ground;
  readonly weigh: Weigh;
  readonly shape: Shape;
}

/** What Weigh adds to a print made ready. */
export interface WeighPrint extends GroundPrint, NoisyPrint {
  readonly recipe: WeighRecipe;
  /** Colour into grey for the tiles' own colours. */
  readonly grey: GreyModel;
  /** Stops of the grey model for the kernel; null when it is plain. */
  readonly lattice: GreyLattice | null;
  /** Areas with a conversion of their own, those that are on. */
  readonly areas: readonly PreparedArea[];
  /**
   * How much counts of the light beyond sensor white that the capture still measured, 0–1: none while sensor white prints
   * white, all of it when the exposure leaves room for it.
   */
  readonly overShare: number;
}

/** A grey model's stops by colour, tabulated. */
export interface GreyLattice {
  readonly table: Float32Array;
  /** Changes with whatever the table was made of. */
  readonly key: string;
  /** Least and greatest gain in it. */
  readonly least: number;
  readonly most: number;
  /** Colours that materials have for which the picture shows no pure pixel, with the light each is to have. */
  readonly palette: GreyPalette;
}

/** An area and the print that is seen in it. */
export interface PreparedArea extends PreparedShape {
  readonly print: WeighPrint;
}

type Before = GroundPrint & { readonly recipe: WeighRecipe };

export function prepareWeigh(print: Before, keep: Keep): Omit<WeighPrint, keyof GroundPrint> {
  const { recipe } = print;
  return {
    ...prepareConversion(print, keep, ""),
    areas: recipe.weigh.areas
      .filter(({ on }) => on)
      .map(({ id, shape, invert, ...own }): PreparedArea => {
        const inside = { ...print, recipe: areaRecipe(recipe, own) };
        return {
          ...prepareShape(shape, invert),
          print: { ...inside, ...prepareConversion(inside, keep, id), areas: [] },
        };
      }),
  };
}

/** The recipe of what is seen in an area. */
export function areaRecipe<R extends WeighRecipe>(recipe: R, { by, red, green, blue, film }: AreaWeights): R {
  return { ...recipe, weigh: { ...recipe.weigh, by, red, green, blue, film, areas: [] } };
}

type AreaWeights = Pick<WeighArea, "by" | "red" | "green" | "blue" | "film">;

/** @param area - id of the area that the print is made for; each keeps tables of its own. */
function prepareConversion(
  { recipe: { ground, weigh, shape }, facts: { asShot, noise } }: Before,
  keep: Keep,
  area: string,
): Pick<WeighPrint, "grey" | "lattice" | "overShare" | "lightNoise"> {
  const grey = greyModel(weigh, {
    gain: 2 ** ground.exposureEv,
    balance: balanceMatrix(ground.whiteBalance, asShot),
    floor: colourFloor(noise),
    film: weigh.by === "film" ? keep(`film ${area}`, weigh.film, () => bakeFilm(weigh.film)) : undefined,
  });
  const { weights } = grey;
  return {
    grey,
    lattice: isPlain(grey) ? null : lattice(grey, weigh, ground.whiteBalance, keep, area),
    overShare: overShareOf(weights, shape.whitePoint),
    lightNoise: noise && scaleGreyNoise(noise, weights[0] + weights[1] + weights[2]),
  };
}

/** Memberships are baked anew only for other families, so that moving one costs little. */
function lattice(
  grey: GreyModel,
  weigh: Weigh,
  balance: Ground["whiteBalance"],
  keep: Keep,
  area: string,
): GreyLattice {
  const families = weigh.families.map(({ hueDegrees, saturation, lightness, reach }) => [
    hueDegrees,
    saturation,
    lightness,
    reach,
  ]);
  const places = [families, weigh.softness, balance, grey.floor];
  const memberships = keep("memberships", places, () => bakeMemberships(grey));
  const film = weigh.by === "film" ? weigh.film : null;
  const key = [places, film, [...grey.familyStops]];
  const baked = keep(`lattice ${area}`, key, () => {
    const table = bakeLattice(grey, memberships);
    let [least, most] = [Infinity, -Infinity];
    for (const stops of table) {
      least = Math.min(least, stops);
      most = Math.max(most, stops);
    }
    return { table, key: hashOf(JSON.stringify(key)), least: 2 ** least, most: 2 ** most };
  });
  return { ...baked, palette: greyPalette(grey, weigh.families) };
}

/** Stops beyond sensor white for which room is made when the exposure leaves it. */
const OVER_STOPS = 1.5;

function overShareOf(weights: Vector3, whitePoint: number): number {
  const sensorWhite = weights[0] + weights[1] + weights[2];
  const printedWhite = MIDDLE_GREY * 2 ** whitePoint;
  if (!(sensorWhite > 0)) return 1;
  const room = (printedWhite / sensorWhite - 1) / (2 ** OVER_STOPS - 1);
  return Math.round(1e4 * Math.min(1, Math.max(0, room))) / 1e4;
}
