import type { Finish } from "../parts/finish/schema.ts";
import type { PointsFit } from "../parts/shape/openings.ts";
import type { Shape } from "../parts/shape/schema.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Weigh } from "../parts/weigh/schema.ts";
import { USUAL_LOOK_PARTS, type Look } from "./look.ts";

/** What a look of ours settles; all else of its parts is as in a fresh print. */
interface Manner {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly weigh?: Partial<Weigh>;
  readonly shape?: Partial<Shape>;
  readonly finish?: { readonly [Group in keyof Finish]?: Partial<Finish[Group]> };
  readonly fit: PointsFit;
}

const weights = (red: number, green: number, blue: number): Partial<Weigh> => ({ by: "weights", red, green, blue });
const film = (name: Weigh["film"]["film"], filter: Weigh["film"]["filter"] = "none"): Partial<Weigh> => ({
  by: "film",
  film: { ...defaultRecipe().weigh.film, film: name, filter },
});

const MANNERS: readonly Manner[] = [
  {
    id: "neutral",
    name: "Neutral",
    note: "plain light from a speck of black to a speck of white; something to compare with",
    fit: { beyond: [0.001, 0.001], middle: null },
  },
  {
    id: "soft-portrait",
    name: "Soft portrait",
    note: "skin lighter and smooth, detail held back, a breath of warmth",
    weigh: weights(0.75, 0.25, 0),
    shape: {
      grade: 1.6,
      openShadows: 0.3,
      detail: { fine: -0.2, middle: -0.1, broad: 0 },
      scatter: { glow: 0, reach: 0.015, softness: 0.25 },
    },
    finish: { toning: { lights: { hueDegrees: 70, chroma: 0.008 } }, edgeBurn: { stops: -1 / 3 } },
    fit: { beyond: [0.001, 0.0005], middle: 5.8 },
  },
  {
    id: "hard-portrait",
    name: "Carved portrait",
    note: "skin darker and rough, every line told, deep ground",
    weigh: weights(0.1, 0.5, 0.4),
    shape: {
      grade: 2.8,
      localContrast: { low: 0.2, mid: 0.5, high: 0.1 },
      detail: { fine: 0.35, middle: 0.2, broad: 0 },
    },
    finish: { edgeBurn: { stops: -2 / 3 } },
    fit: { beyond: [0.006, 0.001], middle: 4 },
  },
  {
    id: "high-key",
    name: "High key",
    note: "the middle on Zone VII and a half, whites with their texture",
    shape: { grade: 1.5, openShadows: 0.6, holdHighlights: 0.4 },
    fit: { beyond: [0, 0.002], middle: 7.5 },
  },
  {
    id: "glowing",
    name: "Glowing",
    note: "high key, its lights shining into what is beside them",
    shape: { grade: 1.7, openShadows: 0.5, holdHighlights: 0.2, scatter: { glow: 0.6, reach: 0.02, softness: 0.3 } },
    fit: { beyond: [0, 0.006], middle: 7 },
  },
  {
    id: "low-key",
    name: "Splashes of light",
    note: "low key: the dark closed, the few lights left strong",
    shape: { grade: 2.6, openShadows: -0.4, holdHighlights: 0.2, localContrast: { low: 0, mid: 0.2, high: 0.3 } },
    finish: { edgeBurn: { stops: -2 / 3, start: 0.4 } },
    fit: { beyond: [0.03, 0.0005], middle: 2.6 },
  },
  {
    id: "drawing",
    name: "Drawn on snow",
    note: "light ground blown to paper, what is dark left as a drawing",
    shape: { grade: 3.6, detail: { fine: 0.5, middle: 0.3, broad: 0 }, letWhite: true },
    fit: { beyond: [0.002, 0.22], middle: 8.2 },
  },
  {
    id: "dark-sky",
    name: "Dark sky",
    note: "blue held far back, foliage and stone forward",
    weigh: film("panchromatic", "red"),
    shape: { grade: 2.4, localContrast: { low: 0, mid: 0.3, high: 0.2 }, holdHighlights: 0.2 },
    fit: { beyond: [0.002, 0.001], middle: 4.8 },
  },
  {
    id: "misty",
    name: "Misty",
    note: "haze laid in by distance, black lifted, everything far",
    shape: {
      grade: 1.4,
      haze: -0.5,
      detail: { fine: -0.2, middle: -0.2, broad: 0 },
      scatter: { glow: 0.2, reach: 0.02, softness: 0.2 },
      paperBlack: 1.7,
    },
    fit: { beyond: [0, 0.0005], middle: 6.2 },
  },
  {
    id: "ortho",
    name: "Ortho landscape",
    note: "orthochromatic: sky bare, leaves light, red and earth dark",
    weigh: film("orthochromatic"),
    shape: { characteristic: "film", grade: 2.2 },
    finish: { grain: { granularity: 9, crystalUm: 6 } },
    fit: { beyond: [0.002, 0.004], middle: 5 },
  },
  {
    id: "extended-red",
    name: "Extended red",
    note: "film that sees beyond red behind deep red: ink skies, white leaves, glow",
    weigh: film("near infrared", "red"),
    shape: { grade: 2.4, scatter: { glow: 0.35, reach: 0.012, softness: 0.1 } },
    finish: { grain: { granularity: 12, crystalUm: 8 } },
    fit: { beyond: [0.004, 0.003], middle: 4.8 },
  },
  {
    id: "flat-pan",
    name: "Wide latitude",
    note: "panchromatic film, everything kept from end to end, to be printed later",
    weigh: film("panchromatic", "light yellow"),
    shape: { characteristic: "film", grade: 1.5, openShadows: 0.6, holdHighlights: 0.6 },
    finish: { grain: { granularity: 7, crystalUm: 5 } },
    fit: { beyond: [0, 0], middle: 5 },
  },
  {
    id: "old-print",
    name: "Old print",
    note: "lifted black, lowered white, brown, its edges burned and faded",
    weigh: film("blue-sensitive"),
    shape: {
      characteristic: "film",
      grade: 2,
      paperWhite: 0.12,
      paperBlack: 1.35,
      scatter: { glow: 0.1, reach: 0.012, softness: 0.4 },
    },
    finish: {
      grain: { granularity: 10, crystalUm: 9, format: "large" },
      toning: { toner: "sepia", strength: 0.3, byDensity: true, paper: { hueDegrees: 85, chroma: 0.012 } },
      edgeBurn: { stops: -1 / 3, start: 0.45 },
      wear: { edges: 0.35, yellow: 0.6 },
    },
    fit: { beyond: [0.001, 0.001], middle: 5 },
  },
  {
    id: "gritty",
    name: "Gritty",
    note: "pushed film: hard, rough, its grain shown",
    weigh: weights(0.35, 0.5, 0.15),
    shape: {
      grade: 3.3,
      localContrast: { low: 0.3, mid: 0.6, high: 0.2 },
      detail: { fine: 0.3, middle: 0.3, broad: 0.1 },
    },
    finish: { grain: { granularity: 30, crystalUm: 11 }, edgeBurn: { stops: -1 / 2 } },
    fit: { beyond: [0.02, 0.006], middle: 4.4 },
  },
  {
    id: "warm-cold",
    name: "Warm lights, cold darks",
    note: "two tones far apart and still quiet, a full scale beneath",
    shape: { grade: 2.2, localContrast: { low: 0, mid: 0.2, high: 0 } },
    finish: {
      toning: { darks: { hueDegrees: 255, chroma: 0.018 }, lights: { hueDegrees: 70, chroma: 0.018 }, overlap: 0.5 },
    },
    fit: { beyond: [0.002, 0.001], middle: 5 },
  },
];

/** Looks that come with Yelm, for the needs of the job. */
export const OWN_LOOKS: readonly Look[] = MANNERS.map(({ id, name, note, weigh, shape, finish, fit }) => {
  const fresh = defaultRecipe();
  return {
    id,
    name,
    note,
    parts: USUAL_LOOK_PARTS,
    recipe: {
      ...fresh,
      weigh: { ...fresh.weigh, ...weigh },
      shape: { ...fresh.shape, ...shape },
      finish: {
        ...fresh.finish,
        grain: { ...fresh.finish.grain, ...finish?.grain },
        wear: { ...fresh.finish.wear, ...finish?.wear },
        toning: { ...fresh.finish.toning, ...finish?.toning },
        edgeBurn: { ...fresh.finish.edgeBurn, ...finish?.edgeBurn },
      },
    },
    fit,
  };
});
