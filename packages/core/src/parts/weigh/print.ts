import { hashOf } from "../../maths/hash-of.ts";
import { MIDDLE_GREY } from "../../colour/stops.ts";
import type { Matrix3, Vector3 } from "../../colour/matrix.ts";
import { prepareShape, type PreparedShape } from "../../shapes/prepared.ts";
import type { NegativeFacts } from "../ground/facts.ts";
import { scaleGreyNoise } from "../ground/grey-noise.ts";
import type { GroundPrint, NoisyPrint } from "../ground/print.ts";
import type { Ground } from "../ground/schema.ts";
import { balanceMatrix } from "../ground/white-balance.ts";
import type { Keep } from "../part.ts";
import type { Shape } from "../shape/schema.ts";
import { planLattice, type ColourLattice } from "./colour-lattice.ts";
import { bakeFilm } from "./film.ts";
import { colourFloor, greyModel, isPlain, type GreyModel } from "./grey-model.ts";
import { greyPalette, type GreyPalette } from "./grey-palette.ts";
import { plainWeigh } from "./plain-weigh.ts";
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
  /** What families and film do to colours; null when they do nothing. */
  readonly colourMoves: ColourMoves | null;
  /** Areas with a conversion of their own, those that are on. */
  readonly areas: readonly PreparedArea[];
  /**
   * How much counts of the light beyond sensor white that the capture still measured, 0–1: none while sensor white prints
   * white, all of it when the exposure leaves room for it.
   */
  readonly overShare: number;
}

/** What moves colours apart from their weights. */
export interface ColourMoves extends ColourLattice {
  /** Changes with whatever the lattice is made of. */
  readonly key: string;
  /** Gain of each target of the lattice but the last: of each family, then of the neutrals; of all together when none is moved. */
  readonly gains: Float32Array;
  /** Change of colour from pixel to pixel at which a pixel's vote is quartered, stops of a ratio. */
  readonly pureStops: number;
  /** Whether moved light is held to its surroundings where colours are noise: of a file whose noise was not smoothed at import. */
  readonly heedsNoise: boolean;
  /** The tiles' colours to the channels of the capture, by which clipping is told; null where it is told by colours. */
  readonly toChannels: Matrix3 | null;
  /** Colours of materials for which the picture may show no pure pixel, with the light each is to have. */
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
  { recipe: { ground, weigh, shape }, facts }: Before,
  keep: Keep,
  area: string,
): Pick<WeighPrint, "grey" | "colourMoves" | "overShare" | "lightNoise"> {
  const { asShot, noise } = facts;
  const grey = greyModel(weigh, {
    gain: 2 ** ground.exposureEv,
    balance: balanceMatrix(ground.whiteBalance, asShot),
    floor: colourFloor(noise),
    film: weigh.by === "film" ? keep(`film ${area}`, weigh.film, () => bakeFilm(weigh.film)) : undefined,
  });
  const { weights } = grey;
  return {
    grey,
    colourMoves: isPlain(grey) ? null : prepareMoves(grey, weigh, ground.whiteBalance, facts, keep, area),
    overShare: overShareOf(weights, shape.whitePoint),
    lightNoise: noise && scaleGreyNoise(noise, weights[0] + weights[1] + weights[2]),
  };
}

/** Doubled light of a family is one stop. */
const SHARE_STOPS = 1;

/**
 * Two prints by which it is seen how much of each place belongs to some families: their light is doubled in one, and in the
 * other nothing is moved; plain weights in both.
 */
export function prepareShare(
  print: Before & WeighPrint,
  keep: Keep,
  ids: readonly string[],
): { readonly lifted: WeighPrint; readonly plain: WeighPrint } {
  const weigh = { ...plainWeigh(print.recipe.weigh), areas: [] };
  const stopsFor = (lifted: boolean) => ({
    ...print.recipe,
    weigh: {
      ...weigh,
      families: weigh.families.map((family) => ({
        ...family,
        stops: lifted && ids.includes(family.id) ? SHARE_STOPS : 0,
      })),
    },
  });
  const made = (lifted: boolean): WeighPrint => {
    const inside = { ...print, recipe: stopsFor(lifted) };
    return { ...inside, ...prepareConversion(inside, keep, "share"), areas: [] };
  };
  return { lifted: made(true), plain: made(false) };
}

/** Natural: as textured as straw, fur and petals are. Measured on scenes with such texture, and on flat ones. */
const PURE_STOPS = { natural: 0.025, strict: 0.012 } as const satisfies Record<Weigh["evenness"], number>;

/** The lattice is another only for other families or another film, so that moving a family costs little. */
function prepareMoves(
  grey: GreyModel,
  weigh: Weigh,
  balance: Ground["whiteBalance"],
  { noise, toChannels }: NegativeFacts,
  keep: Keep,
  area: string,
): ColourMoves {
  const families = weigh.families.map(({ hueDegrees, saturation, lightness, reach }) => [
    hueDegrees,
    saturation,
    lightness,
    reach,
  ]);
  const byFamily = grey.familyStops.some((stops) => stops !== 0);
  const film = weigh.by === "film" ? weigh.film : null;
  const heedsNoise = noise === null && weigh.noisyColours === "held";
  const { softness, passage, evenness, clippedBy } = weigh;
  const reads = [byFamily, families, softness, passage, evenness, heedsNoise, clippedBy, balance, grey.floor, film];
  // Areas weighed by numbers share one table; each film has its own.
  const lattice = keep(film ? `lattice ${area}` : "lattice", reads, () => ({
    ...planLattice(grey, byFamily),
    key: hashOf(JSON.stringify(reads)),
  }));
  const gains = byFamily ? Float32Array.from(grey.familyStops, (stops) => 2 ** stops) : Float32Array.of(1);
  return {
    ...lattice,
    gains,
    pureStops: PURE_STOPS[evenness],
    heedsNoise,
    toChannels: clippedBy === "channels" ? toChannels : null,
    palette: greyPalette(grey, weigh.families),
  };
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
