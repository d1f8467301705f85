import {
  colourShare,
  colourStops,
  defaultRecipe,
  familyPlace,
  greyModel,
  luminanceOf,
  luminanceToLightness,
  mixtureError,
  newFamily,
  placeDistance,
  REC709_TO_REC2020,
  transform3,
  type Engine,
  type MixtureError,
  type MixtureTruth,
  type Recipe,
  type Size,
  type Vector3,
} from "@yelm/core";
import { blur } from "./blur.ts";
import { COVERAGE_KINDS, drawCoverage, type CoverageScene } from "./coverage.ts";
import { createNormal, createRandom } from "./random.ts";

/** Linear Rec.709. */
const COLOURS = {
  straw: [0.45, 0.33, 0.14],
  sky: [0.3, 0.45, 0.75],
  red: [0.45, 0.04, 0.05],
  green: [0.08, 0.16, 0.04],
  leaf: [0.12, 0.22, 0.05],
  cloud: [0.8, 0.8, 0.82],
  skin: [0.55, 0.35, 0.27],
  foliage: [0.06, 0.12, 0.03],
  brick: [0.3, 0.12, 0.07],
  cloth: [0.05, 0.08, 0.3],
  grass: [0.15, 0.25, 0.06],
  twig: [0.06, 0.045, 0.035],
  sea: [0.08, 0.2, 0.25],
  violet: [0.3, 0.12, 0.4],
  yellow: [0.7, 0.55, 0.05],
  heather: [0.35, 0.2, 0.35],
} as const satisfies Record<string, Vector3>;
type ColourName = keyof typeof COLOURS;

const PAIRS: readonly (readonly [front: ColourName, back: ColourName])[] = [
  ["straw", "sky"],
  ["red", "green"],
  ["leaf", "cloud"],
  ["skin", "foliage"],
  ["brick", "sky"],
  ["cloth", "grass"],
  ["twig", "cloud"],
  ["straw", "sea"],
  ["violet", "grass"],
  ["yellow", "cloth"],
  ["heather", "sky"],
  ["red", "sky"],
];
const DEFOCUS_PX = [0.7, 1.5, 4];
/** Pixels along the border that are not judged. */
const BORDER = 16;
/** Families that have nothing to do with the scene, as a picture around it would have. */
const BYSTANDERS: readonly Vector3[] = [
  [0.25, 0.1, 0.6],
  [-0.12, -0.2, 0.6],
  [-0.15, 0.15, 0.5],
  [0.1, -0.2, 0.5],
];

/** One scene of a trial: two materials whose families are moved apart. */
export interface MixtureCase {
  readonly name: string;
  readonly scene: CoverageScene;
  /** Stops of the family in front and of the one behind. */
  readonly stops: readonly [number, number];
}

/** Scenes of every kind, pair and defocus, spread so that each meets several of the others. */
export function mixtureCases(width: number, height: number, count: number): MixtureCase[] {
  return Array.from({ length: count }, (_, i): MixtureCase => {
    const [front, back] = PAIRS[i % PAIRS.length];
    const kind = COVERAGE_KINDS[(i + Math.floor(i / PAIRS.length)) % COVERAGE_KINDS.length];
    const defocusPx = DEFOCUS_PX[Math.floor(i / 2) % DEFOCUS_PX.length];
    const scene = drawCoverage({ kind, width, height, front: COLOURS[front], back: COLOURS[back], defocusPx, seed: i + 1 }); // prettier-ignore
    return {
      name: `${front} on ${back}, ${kind}, defocus ${defocusPx} px`,
      scene,
      stops: i % 4 > 1 ? [-1, 0.8] : [0.8, -1],
    };
  });
}

/**
 * The same of materials whose light and colour vary from place to place, as those of straw, fur and petals do; what is behind varies half as much.
 * @param stops - deviation of the light; ratios of channels have half of it.
 * @param sigma - how far a shade goes on, pixels.
 */
export function unevenCase(one: MixtureCase, stops: number, sigma: number, seed: number): MixtureCase {
  const { scene } = one;
  const { width, height, coverage } = scene;
  const normal = createNormal(createRandom(seed));
  const varying = (deviation: number) => shades(width, height, sigma, normal).map((v) => deviation * v);
  const uneven = (rgb: Float32Array, deviation: number) => {
    const light = varying(deviation);
    const ratios = [varying(deviation / 2), null, varying(deviation / 2)];
    return rgb.map((v, i) => v * 2 ** (light[Math.floor(i / 3)] + (ratios[i % 3]?.[Math.floor(i / 3)] ?? 0)));
  };
  const [front, back] = [uneven(scene.front, stops), uneven(scene.back, stops / 2)];
  const rgb = front.map((v, i) => back[i] + coverage[Math.floor(i / 3)] * (v - back[i]));
  return { ...one, name: `${one.name}, uneven`, scene: { ...scene, rgb, front, back } };
}

/** A field of deviation 1 that varies over `sigma` pixels. */
function shades(width: number, height: number, sigma: number, normal: () => number): Float32Array {
  const field = blur(Float32Array.from({ length: width * height }, normal), width, 1, sigma);
  const found = Math.sqrt(field.reduce((sum, v) => sum + v * v, 0) / field.length);
  return field.map((v) => v / found);
}

/** Least light of a material that sparkles, deviations. */
const DIMMEST = -0.5;

/** A scene whose front sparkles beyond what the file holds. */
export interface SparklingCase extends MixtureCase {
  /** The same before it sparkles, which its families are of. */
  readonly plain: MixtureCase;
}

/**
 * The same with a front that sparkles, as hair, straw and water in the sun do: its light goes beyond white, where a file keeps what each channel holds,
 * so that its colour turns.
 * @param stops - deviation of the light.
 * @param sigma - how far a spark goes on, pixels.
 */
export function sparklingCase(plain: MixtureCase, stops: number, sigma: number, seed: number): SparklingCase {
  const { width, height, coverage, front, back } = plain.scene;
  const light = shades(width, height, sigma, createNormal(createRandom(seed))).map((v) => 2 ** (stops * Math.max(DIMMEST, v))); // prettier-ignore
  const lit = front.map((v, i) => v * light[Math.floor(i / 3)]);
  const rgb = lit.map((v, i) => Math.min(1, back[i] + coverage[Math.floor(i / 3)] * (v - back[i])));
  const scene = { ...plain.scene, rgb, front: lit.map((v) => Math.min(1, v)) };
  return { name: `${plain.name}, sparkling`, scene, stops: plain.stops, plain };
}

/** How sparks of a front that is darkened differ from what its stops make of the file's light, where a channel is full and the least not nearly. */
export interface SparkError {
  /** Pixels judged. */
  readonly count: number;
  /** L*. */
  readonly mean: number;
  readonly p99: number;
}

/** Stops by which the front is darkened, so that none of it prints white, and what is behind lifted. */
const PARTED = [-1, 0.8] as const;
/** Least coverage of what counts as front alone, least channel that is full, and most that the least may have where it is no white. */
const [ALONE, FULL, NO_WHITE] = [0.99, 0.98, 0.7];

export function judgeSparks(
  engine: Engine,
  size: Size,
  { scene, plain }: SparklingCase,
  clippedBy: Recipe["weigh"]["clippedBy"] = "channels",
): SparkError {
  const heeding = (recipe: Recipe): Recipe => ({ ...recipe, weigh: { ...recipe.weigh, clippedBy } });
  const recipe = heeding(movedRecipe({ ...plain, stops: PARTED }));
  const still = movedRecipe({ ...plain, stops: [0, 0] });
  const view = { x: 0, y: 0, ...size, scale: 1, level: 0 };
  const [moved, file] = [recipe, still].map((one) => engine.renderLight(engine.prepare(one), view));
  const gain = 2 ** colourStops(greyModel(recipe.weigh), meanColour(plain.scene.front));
  const lightness = (light: number) => luminanceToLightness(Math.min(1, light));
  const errors: number[] = [];
  for (let y = BORDER; y < size.height - BORDER; y++)
    for (let x = BORDER; x < size.width - BORDER; x++) {
      const i = y * size.width + x;
      const colour = scene.front.subarray(3 * i, 3 * i + 3);
      if (scene.coverage[i] < ALONE || Math.max(...colour) < FULL || Math.min(...colour) > NO_WHITE) continue;
      errors.push(Math.abs(lightness(moved[i]) - lightness(gain * file[i])));
    }
  errors.sort((a, b) => a - b);
  const mean = errors.reduce((sum, error) => sum + error, 0) / errors.length;
  return { count: errors.length, mean, p99: errors[Math.floor(0.99 * errors.length)] };
}

/**
 * A recipe whose families are the two materials, moved, and bystanders.
 * @param bystander - stops of those.
 */
export function movedRecipe({ scene, stops }: MixtureCase, bystander = 0): Recipe {
  const recipe = defaultRecipe();
  const places = [scene.front, scene.back].map((rgb) => familyPlace(meanColour(rgb)));
  const own = places.flatMap((place, i) =>
    colourShare(place) > 0.5 ? [{ ...newFamily(`f${i}`, `f${i}`, place), stops: stops[i] }] : [],
  );
  const bystanders = BYSTANDERS.filter((place) => places.every((near) => placeDistance(near, place) > 0.18));
  const others = bystanders.map((place, i) => ({ ...newFamily(`o${i}`, `o${i}`, place), stops: bystander }));
  return { ...recipe, weigh: { ...recipe.weigh, families: [...own, ...others] } };
}

/** What the picture makes of mixed pixels, against α·A·2^a + (1 − α)·B·2^b; a and b as the recipe gives them to the pure colours. */
export function judgeMixture(engine: Engine, size: Size, scene: CoverageScene, recipe: Recipe): MixtureError {
  const light = engine.renderLight(engine.prepare(recipe), { x: 0, y: 0, ...size, scale: 1, level: 0 });
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++)
      if (x < BORDER || y < BORDER || x >= size.width - BORDER || y >= size.height - BORDER)
        light[y * size.width + x] = NaN;
  return mixtureError(light, movedTruth(scene, recipe));
}

/** The lights that a recipe is to give both materials of a scene, as if either covered it wholly. */
export function movedTruth(scene: CoverageScene, { weigh }: Recipe): MixtureTruth {
  const model = greyModel(weigh);
  const [first, second] = [scene.front, scene.back].map((rgb) => {
    const gain = 2 ** colourStops(model, meanColour(rgb));
    return Float32Array.from(scene.coverage, (_, i) => gain * luminanceOf(workingAt(rgb, i)));
  });
  return { coverage: scene.coverage, first, second, width: scene.width };
}

function workingAt(rgb: Float32Array, i: number): Vector3 {
  return transform3(REC709_TO_REC2020, [rgb[3 * i], rgb[3 * i + 1], rgb[3 * i + 2]]);
}

function meanColour(rgb: Float32Array): Vector3 {
  const sum = [0, 0, 0];
  rgb.forEach((v, i) => (sum[i % 3] += v));
  return transform3(REC709_TO_REC2020, sum.map((v) => (3 * v) / rgb.length) as unknown as Vector3);
}
