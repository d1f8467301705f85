import { Type, type Static } from "@sinclair/typebox";
import { REC2020 } from "../../colour/rgb-space.ts";
import { choice, fraction, group, number, stableId, switchedOn } from "../../schema/fields.ts";
import { shapeUnion } from "../../shapes/shapes.ts";

/** Plain luminance, to four places. */
const [PLAIN_RED, PLAIN_GREEN, PLAIN_BLUE] = REC2020.luminance.map((weight) => Math.round(weight * 1e4) / 1e4);

/** Most families a picture is parted into. */
export const MOST_FAMILIES = 12;

export const familySchema = group(
  {
    id: stableId("Stays with the family."),
    name: Type.String({ minLength: 1, maxLength: 40, description: "What the user calls it, or its colour in words." }),
    hueDegrees: number(0, 360, 30, "degrees", "OKLab hue of its middle, as shot."),
    saturation: number(0, 1, 0.2, "ratio", "OKLab chroma over lightness of its middle, as shot."),
    lightness: number(0, 2, 0.5, "OKLab L", "Lightness of its middle, as shot."),
    reach: number(0.4, 2.5, 1, "ratio", "How far it spreads among its neighbours."),
    stops: number(-3, 3, 0, "stops", "Lighter (+) or darker (−)."),
    pinned: Type.Boolean({ default: false, description: "Nothing but the hand moves it." }),
  },
  "A family of colours that is moved as one.",
);

export const FILM_NAMES = [
  "panchromatic",
  "orthochromatic",
  "blue-sensitive",
  "extended red",
  "near infrared",
  "own",
] as const;

/** Ways in which colours between families are shared. */
export const PASSAGES = ["mixture", "nearness"] as const;
/** How even colours have to be to have a say in what light their material gets. */
export const EVENNESS = ["natural", "strict"] as const;
/** What becomes of moved light where a file's colours are noise. */
export const NOISY_COLOURS = ["held", "followed"] as const;

/** By what light counts as clipped: the channels of the capture, or the colours made of them. */
export const CLIPPED_BY = ["channels", "colours"] as const;

export const FILTER_NAMES = ["none", "light yellow", "deep yellow", "orange", "red", "green", "blue", "own"] as const;

export const FILM_LIGHTS = ["daylight", "shade", "tungsten"] as const;

const ownCurve = (description: string) =>
  Type.Union(
    [
      group(
        {
          name: Type.String({ minLength: 1, maxLength: 60, description: "What it is called." }),
          points: Type.Array(
            Type.Tuple([Type.Number({ minimum: 100, maximum: 3000 }), Type.Number({ minimum: 0, maximum: 1 })]),
            { minItems: 2, maxItems: 128, description: "Wavelength in nm, rising, and value." },
          ),
        },
        description,
      ),
      Type.Null(),
    ],
    { default: null, description },
  );

export const filmSchema = group(
  {
    film: choice(FILM_NAMES, "panchromatic", "Which light the film sees."),
    filter: choice(FILTER_NAMES, "none", "Filter before the lens."),
    light: choice(FILM_LIGHTS, "daylight", "Light on the scene."),
    ownFilm: ownCurve("A film of the user's own: relative sensitivity, 1 at its highest."),
    ownFilter: ownCurve("A filter of the user's own: transmission."),
  },
  "Film and filter, computed from spectra.",
);

const weightFields = {
  by: choice(["weights", "film"], "weights", "Three weights, or film and filter."),
  red: number(-2, 3, PLAIN_RED, "weight", "How much red light counts."),
  green: number(-2, 3, PLAIN_GREEN, "weight", "How much green light counts."),
  blue: number(-2, 3, PLAIN_BLUE, "weight", "How much blue light counts."),
  film: filmSchema,
};

export const weighAreaSchema = group(
  {
    id: stableId("Stays with the area."),
    name: Type.String({ minLength: 1, maxLength: 40, description: "What the user calls it." }),
    on: switchedOn(),
    invert: Type.Boolean({ default: false, description: "Everything outside the shape." }),
    shape: shapeUnion,
    ...weightFields,
  },
  "An area with a conversion of its own; the families' stops act in it too.",
);

export const weighSchema = group(
  {
    ...weightFields,
    lockSum: Type.Boolean({ default: true, description: "Keep the sum while one weight moves." }),
    families: Type.Array(familySchema, {
      maxItems: MOST_FAMILIES,
      noun: "colour families",
      default: [],
      description: "Families of the picture's colours, which trim whatever the weights or the film give.",
    }),
    softness: fraction(0.5, "How softly one family passes into the next."),
    passage: choice(
      PASSAGES,
      "mixture",
      "Whose colours between two families are: by the light of each in their mixture, or by how near they lie (as until version 11).",
    ),
    evenness: choice(
      EVENNESS,
      "natural",
      "Which pixels say what light a material gets: those as even as natural things are, or only very even ones (as until version 12).",
    ),
    noisyColours: choice(
      NOISY_COLOURS,
      "held",
      "Where colours of a file without a sensor's noise model are noise: moved light is held to its surroundings, or follows them (as until version 13).",
    ),
    clippedBy: choice(
      CLIPPED_BY,
      "channels",
      "What counts as clipped: what fills a channel of the capture, which then has the light of what is about to be full, or colours (as until version 14).",
    ),
    areas: Type.Array(weighAreaSchema, {
      maxItems: 16,
      noun: "areas",
      default: [],
      description: "Areas weighed otherwise, each laid over those before; what none claims is weighed as above.",
    }),
  },
  "Weigh: grey = red·R + green·G + blue·B in linear Rec.2020, or what a film sees; then stops for each family. The defaults are plain luminance.",
);

export type Weigh = Static<typeof weighSchema>;
export type WeighArea = Static<typeof weighAreaSchema>;
export type Family = Static<typeof familySchema>;
export type FilmChoice = Static<typeof filmSchema>;
export type FilmName = (typeof FILM_NAMES)[number];
export type FilterName = (typeof FILTER_NAMES)[number];
export type FilmLight = (typeof FILM_LIGHTS)[number];
