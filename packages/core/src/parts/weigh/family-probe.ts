import type { Weigh } from "./schema.ts";
import type { CaptureInfo } from "../../raw/capture-info.ts";
import { luminanceToLightness, workingToLab } from "../../colour/lab.ts";
import { transform3, type Vector3 } from "../../colour/matrix.ts";
import { luminanceNoise, noisePriceOfColour, noiseToIsoStops } from "../ground/grey-noise.ts";
import { asShotWhite, balanceMatrix } from "../ground/white-balance.ts";
import { toneCurve } from "../shape/tone-curve.ts";
import { colourFloor, greyLight, greyModel, type GreyModel } from "./grey-model.ts";
import type { FilmResponse } from "./film.ts";
import type { FamilyFacts } from "./picture-colours.ts";
import type { WeighRecipe } from "./print.ts";
import { plainWeigh } from "./plain-weigh.ts";

/** The grey that a family prints. */
export interface FamilyGrey {
  /** Mean CIE L* of its colours in the print, 0–100; a zone is ten of it. */
  readonly lightness: number;
  /** Deviation of L* over its colours. */
  readonly spread: number;
  /** Mean scene light, 1.0 = sensor white. */
  readonly light: number;
}

/** Groups smaller than this share of the picture are not asked about noise or clipping. */
export const SMALLEST_ASKED = 0.003;
/** Colours of a group at which its noise is worked out. */
const NOISE_SAMPLES = 8;

/**
 * The greys that a picture's families take under a recipe, without rendering: their colours go through the weights, the
 * family stops, the film and the tone curve. Light moves and local contrast are left out.
 */
export class FamilyProbe {
  readonly #capture: CaptureInfo;
  readonly #recipe: WeighRecipe;
  readonly #facts: readonly FamilyFacts[];
  readonly #curve: (light: number) => number;
  readonly #options: Parameters<typeof greyModel>[1];
  readonly #balance: ReturnType<typeof balanceMatrix>;

  /**
   * @param facts - of the recipe's own families in their order, neutrals last.
   * @param film - the recipe's film, when it is at hand already.
   */
  constructor(capture: CaptureInfo, recipe: WeighRecipe, facts: readonly FamilyFacts[], film?: FilmResponse) {
    if (facts.length !== recipe.weigh.families.length + 1)
      throw new RangeError(
        `Expected facts of ${recipe.weigh.families.length + 1} groups but received ${facts.length}.`,
      );
    this.#capture = capture;
    this.#recipe = recipe;
    this.#facts = facts;
    this.#curve = toneCurve(recipe.shape);
    this.#balance = balanceMatrix(recipe.ground.whiteBalance, asShotWhite(capture));
    const gain = 2 ** recipe.ground.exposureEv;
    this.#options = { gain, balance: this.#balance, floor: colourFloor(luminanceNoise(capture)), film };
  }

  get facts(): readonly FamilyFacts[] {
    return this.#facts;
  }

  get weigh(): Weigh {
    return this.#recipe.weigh;
  }

  /** The same picture under another Weigh with the same families. */
  under(weigh: Weigh): FamilyProbe {
    return new FamilyProbe(this.#capture, { ...this.#recipe, weigh }, this.#facts);
  }

  /** The greys under the recipe's Weigh or another one with the same families. */
  greys(weigh: Weigh = this.#recipe.weigh): FamilyGrey[] {
    const model = this.#model(weigh);
    return this.#facts.map(({ samples }) => this.#grey(model, samples));
  }

  /** One group's grey under other weights or stops. */
  greyOf(index: number, weigh: Weigh): FamilyGrey {
    return this.#grey(this.#model(weigh), this.#facts[index].samples);
  }

  /** The greys of plain luminance, families unmoved. */
  plainGreys(): FamilyGrey[] {
    return this.greys(plainWeigh(this.#recipe.weigh));
  }

  /** Mean colours as CIELAB under the recipe's balance and exposure. */
  colours(): Vector3[] {
    return this.#facts.map(({ working }) => {
      const { gain = 1 } = this.#options!;
      const balanced = this.#balance ? transform3(this.#balance, working) : working;
      return workingToLab([balanced[0] * gain, balanced[1] * gain, balanced[2] * gain]);
    });
  }

  /**
   * What each group's grey costs in noise against its luminance, in stops of ISO: the mean square over some of its colours,
   * since those in the passages to other families cost most. Null when the noise is not known.
   */
  noiseStops(weigh: Weigh = this.#recipe.weigh): (number | null)[] {
    const model = this.#model(weigh);
    return this.#facts.map(({ samples }) => {
      const step = Math.max(1, samples.length / NOISE_SAMPLES);
      let sum = 0;
      let weights = 0;
      for (let at = 0; at < samples.length; at += step) {
        const { working, weight } = samples[Math.floor(at)];
        const price = noisePriceOfColour(this.#capture, slopes(model, working), working, greyLight(model, working));
        if (!price) continue;
        sum += weight * price.after ** 2;
        weights += weight;
      }
      if (samples.length === 0) return 0;
      return weights > 0 ? noiseToIsoStops(Math.sqrt(sum / weights)) : null;
    });
  }

  #model(weigh: Weigh): GreyModel {
    const { film } = this.#recipe.weigh;
    const sameFilm = weigh.film === film || JSON.stringify(weigh.film) === JSON.stringify(film);
    return greyModel(weigh, sameFilm ? this.#options : { ...this.#options, film: undefined });
  }

  #grey(model: GreyModel, samples: FamilyFacts["samples"]): FamilyGrey {
    let light = 0;
    let lightness = 0;
    let squares = 0;
    for (const { working, weight } of samples) {
      const e = Math.max(0, greyLight(model, working));
      const l = luminanceToLightness(Math.min(1, this.#curve(e)));
      light += weight * e;
      lightness += weight * l;
      squares += weight * l * l;
    }
    return { light, lightness, spread: Math.sqrt(Math.max(0, squares - lightness * lightness)) };
  }
}

/** How light answers to each channel about a colour: ∂E/∂(r, g, b), central differences. */
function slopes(model: GreyModel, working: Vector3): Vector3 {
  const level = Math.max(1e-4, ...working.map(Math.abs));
  const step = 0.04 * level;
  const slope = (c: number) => {
    const moved = (by: number) => working.map((v, i) => (i === c ? v + by : v)) as unknown as Vector3;
    const up = moved(step);
    const down = moved(-step);
    return (greyLight(model, up) - greyLight(model, down)) / (2 * step);
  };
  return [slope(0), slope(1), slope(2)];
}
