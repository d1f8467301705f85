import type { Weigh } from "./schema.ts";
import { transform3, type Matrix3, type Vector3 } from "../../colour/matrix.ts";
import { REC2020 } from "../../colour/rgb-space.ts";
import type { GreyNoise } from "../ground/grey-noise.ts";
import { colourShare, familyPlace } from "./family.ts";
import { bakeFilm, filmStops, type FilmResponse } from "./film.ts";
import { membershipOf, type Membership } from "./membership.ts";

const { log2, max } = Math;

/** What turns a colour of the tiles into light: weights, then stops that depend on the colour. */
export interface GreyModel {
  /** Weights for the tiles' own colours, with exposure and white balance in them. */
  readonly weights: Vector3;
  readonly membership: Membership;
  /** Stops of each family, neutrals last with 0. */
  readonly familyStops: Float64Array;
  readonly film: FilmResponse | null;
  readonly balance: Matrix3 | null;
  /** Light added to every channel before its colour is judged, so that noise in the dark has no colour. */
  readonly floor: number;
}

/** Least light added before colour is judged. */
const LEAST_FLOOR = 2 ** -12;

/** Light added before colour is judged: two deviations of what is measured in the dark. */
export function colourFloor(noise: GreyNoise | null): number {
  return Math.max(LEAST_FLOOR, 2 * Math.sqrt(Math.max(0, noise?.offset ?? 0)));
}

/**
 * The model of a recipe's Weigh.
 * @param gain - exposure, as a factor.
 * @param film - the film's response when it is at hand; else it is baked.
 */
export function greyModel(
  weigh: Weigh,
  { gain = 1, balance = null, floor = LEAST_FLOOR, film }: GreyModelOptions = {},
): GreyModel {
  const byFilm = weigh.by === "film";
  const base: Vector3 = byFilm ? REC2020.luminance : [weigh.red, weigh.green, weigh.blue];
  return {
    weights: balancedWeights(base, gain, balance),
    membership: membershipOf(weigh),
    familyStops: Float64Array.from([...weigh.families.map(({ stops }) => stops), 0]),
    film: byFilm ? (film ?? bakeFilm(weigh.film)) : null,
    balance,
    floor,
  };
}

export interface GreyModelOptions {
  readonly gain?: number;
  readonly balance?: Matrix3 | null;
  readonly floor?: number;
  readonly film?: FilmResponse;
}

/** Whether a model's stops are the same for every colour. */
export function isPlain({ film, familyStops }: GreyModel): boolean {
  return film === null && familyStops.every((stops) => stops === 0);
}

/** Stops that a colour gets beyond its weights: the film's, and the mean of its families' gains by its shares in them. */
export function colourStops(model: GreyModel, working: Vector3): number {
  const { floor } = model;
  return flooredStops(model, [max(0, working[0]) + floor, max(0, working[1]) + floor, max(0, working[2]) + floor]);
}

let room = new Float64Array(16);

/** The same of a colour that has the floor in it already. */
function flooredStops(model: GreyModel, floored: Vector3): number {
  const { count } = model.membership;
  if (room.length <= count) room = new Float64Array(count + 1);
  familyShares(model, floored, room);
  let gain = room[count];
  for (let k = 0; k < count; k++) gain += room[k] * 2 ** model.familyStops[k];
  return flooredFilmStops(model, floored) + log2(gain);
}

/** What the film sees of a floored colour, in stops against its luminance. */
export function flooredFilmStops({ film, balance }: GreyModel, floored: Vector3): number {
  return film ? filmStops(film, balance ? positive(transform3(balance, floored)) : floored) : 0;
}

/**
 * Memberships of a floored colour, neutrals last. Families are known by the colour as shot; what the white balance makes
 * neutral is neutral, whatever it was.
 */
export function familyShares({ membership, balance }: GreyModel, floored: Vector3, out: Float64Array): void {
  membership.at(familyPlace(floored), out);
  if (!balance) return;
  const coloured = colourShare(familyPlace(positive(transform3(balance, floored))));
  for (let k = 0; k < membership.count; k++) out[k] *= coloured;
  out[membership.count] = 1 - coloured * (1 - out[membership.count]);
}

/** Light of a colour: Σ weight · channel · 2^stops. */
export function greyLight(model: GreyModel, working: Vector3): number {
  const { weights } = model;
  const plain = weights[0] * working[0] + weights[1] * working[1] + weights[2] * working[2];
  return plain * 2 ** colourStops(model, working);
}

/** Grey is weights · matrix · colour, so the balance goes into the weights and costs nothing. */
function balancedWeights(base: Vector3, gain: number, balance: Matrix3 | null): Vector3 {
  const [r, g, b] = base.map((weight) => weight * gain);
  if (!balance) return [r, g, b];
  const column = (c: number) => r * balance[c] + g * balance[3 + c] + b * balance[6 + c];
  return [column(0), column(1), column(2)];
}

/** A colour without channels of no light, which have no ratio. */
export function positive([r, g, b]: Vector3): Vector3 {
  const least = 1e-6;
  return [max(least, r), max(least, g), max(least, b)];
}
