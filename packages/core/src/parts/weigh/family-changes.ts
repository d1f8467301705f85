import { type Weigh, familySchema, type Family } from "./schema.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import { rangeOf } from "../../schema/defaults.ts";
import { familyPlace, familyToPlace } from "./family.ts";
import { nameColour, nameColours } from "./family-names.ts";
import type { FamilyProbe } from "./family-probe.ts";
import { newFamily } from "./find-families.ts";
import type { ColourSample } from "./picture-colours.ts";

const { minimum: LOWEST, maximum: HIGHEST } = rangeOf(familySchema, "stops");
const BISECTIONS = 14;

/** An id that none of the families has. */
function freeId(families: readonly Family[]): string {
  let number = families.length + 1;
  while (families.some(({ id }) => id === `f${number}`)) number++;
  return `f${number}`;
}

/**
 * Parts one family into two across the direction in which its colours spread most; both keep its stops.
 * @returns the families with the two in its stead; the same ones when its colours are all alike.
 */
export function splitFamily(families: readonly Family[], id: string, samples: readonly ColourSample[]): Family[] {
  const index = families.findIndex((family) => family.id === id);
  const places = samples.map(({ working, weight }) => ({ place: familyPlace(working), weight }));
  if (index === -1 || places.length < 2) return [...families];
  const centre = meanPlace(places);
  const axis = mainDirection(places, centre);
  const along = (place: Vector3) => place.reduce((sum, v, c) => sum + (v - centre[c]) * axis[c], 0);
  const sides = [places.filter(({ place }) => along(place) > 0), places.filter(({ place }) => along(place) <= 0)];
  if (sides.some((side) => side.length === 0)) return [...families];
  const middles = sides.map(meanPlace);
  const names = nameColours(middles);
  const { stops, pinned, reach } = families[index];
  const kept = middles.map((place, i) => ({
    ...newFamily(i === 0 ? id : freeId(families), names[i].slice(0, 40), place),
    stops,
    pinned,
    reach,
  }));
  return families.flatMap((family, i) => (i === index ? kept : [family]));
}

/** Makes one family of two, in the place of the first, its middle by their shares of the picture. */
export function mergeFamilies(
  families: readonly Family[],
  first: { readonly id: string; readonly share: number },
  second: { readonly id: string; readonly share: number },
): Family[] {
  const [one, other] = [first, second].map(({ id }) => families.find((family) => family.id === id));
  if (!one || !other || one === other) return [...families];
  const weightOne = Math.max(first.share, 1e-6);
  const weightOther = Math.max(second.share, 1e-6);
  const share = weightOther / (weightOne + weightOther);
  const mix = (p: number, q: number) => p + share * (q - p);
  const [p, q] = [familyToPlace(one), familyToPlace(other)];
  const place: Vector3 = [mix(p[0], q[0]), mix(p[1], q[1]), mix(p[2], q[2])];
  const merged: Family = {
    ...newFamily(one.id, share < 0.5 ? one.name : other.name, place),
    stops: Math.round(100 * mix(one.stops, other.stops)) / 100,
    reach: Math.max(one.reach, other.reach),
    pinned: one.pinned || other.pinned,
  };
  return families.flatMap((family) => (family === one ? [merged] : family === other ? [] : [family]));
}

/** A family more, about a colour picked. @param working - linear working colour as shot. */
export function addFamily(families: readonly Family[], working: Vector3): Family[] {
  const place = familyPlace(working);
  const name = nameColour(place);
  const taken = families.some((family) => family.name === name);
  return [...families, newFamily(freeId(families), taken ? `${name}, picked` : name, place)];
}

/** The stops that bring a family to a lightness, as near as its range allows; to hundredths. */
export function stopsForLightness(probe: FamilyProbe, index: number, lightness: number): number {
  const { weigh } = probe;
  const at = (stops: number) =>
    probe.greyOf(index, {
      ...weigh,
      families: weigh.families.map((family, i) => (i === index ? { ...family, stops } : family)),
    }).lightness;
  let low = LOWEST;
  let high = HIGHEST;
  for (let i = 0; i < BISECTIONS; i++) {
    const middle = (low + high) / 2;
    if (at(middle) < lightness) low = middle;
    else high = middle;
  }
  return Math.round(50 * (low + high)) / 100;
}

/** Takes stops back, family by family or all, until none is noisier than allowed. */
export function easeFamilies(probe: FamilyProbe, mostNoiseStops: number): Weigh {
  const scaled = (share: number): Weigh => ({
    ...probe.weigh,
    families: probe.weigh.families.map((family) => ({
      ...family,
      stops: Math.round(100 * share * family.stops) / 100,
    })),
  });
  const loudest = (weigh: Weigh) => Math.max(...probe.noiseStops(weigh).map((stops) => stops ?? 0));
  let low = 0;
  let high = 1;
  for (let i = 0; i < BISECTIONS; i++) {
    const middle = (low + high) / 2;
    if (loudest(scaled(middle)) <= mostNoiseStops) low = middle;
    else high = middle;
  }
  return scaled(low);
}

interface WeightedPlace {
  readonly place: Vector3;
  readonly weight: number;
}

function meanPlace(places: readonly WeightedPlace[]): Vector3 {
  const sum = places.reduce((total, { weight }) => total + weight, 0);
  const mean = (c: number) => places.reduce((total, { place, weight }) => total + weight * place[c], 0) / sum;
  return [mean(0), mean(1), mean(2)];
}

/** The direction of greatest spread, by power iteration on the covariance. */
function mainDirection(places: readonly WeightedPlace[], centre: Vector3): Vector3 {
  let axis: Vector3 = [0.6, 0.7, 0.4];
  for (let round = 0; round < 24; round++) {
    const next = [0, 0, 0];
    for (const { place, weight } of places) {
      const d = place.map((v, c) => v - centre[c]);
      const along = d.reduce((sum, v, c) => sum + v * axis[c], 0);
      d.forEach((v, c) => (next[c] += weight * along * v));
    }
    const length = Math.hypot(...next);
    if (!(length > 1e-12)) return axis;
    axis = [next[0] / length, next[1] / length, next[2] / length];
  }
  return axis;
}
