import { Type, type Static, type TSchema } from "@sinclair/typebox";
import { REC2020 } from "../colour/rgb-space.ts";
import { KELVIN_RANGE } from "../colour/temperature.ts";

/** Version of the recipe's shape; raised when an older recipe has to be migrated. */
export const RECIPE_VERSION = 5;
/** The white point at which sensor white prints as paper white: log2(1 / 0.18) stops above Zone V. */
export const SENSOR_WHITE_STOPS = Math.log2(1 / 0.18);
/** The black point that leaves the darkest light alone. */
export const DEEPEST_BLACK_STOPS = -12;

/** Plain luminance, to four places. */
const [PLAIN_RED, PLAIN_GREEN, PLAIN_BLUE] = REC2020.luminance.map((weight) => Math.round(weight * 1e4) / 1e4);

const closed = { additionalProperties: false };
const number = (minimum: number, maximum: number, value: number, unit: string, description: string) =>
  Type.Number({ minimum, maximum, default: value, unit, description });
const choice = <T extends string>(values: readonly T[], value: T, description: string) =>
  Type.Unsafe<T>({ type: "string", enum: [...values], default: value, description });
const group = <T extends Record<string, TSchema>>(properties: T, description: string) =>
  Type.Object(properties, { ...closed, description });

const stableId = (description: string) =>
  Type.String({ minLength: 1, maxLength: 40, pattern: "^[A-Za-z0-9_-]+$", description });
const fraction = (value: number, description: string) => number(0, 1, value, "fraction", description);

export const cropSchema = group(
  {
    centreX: number(-1, 1, 0, "long edges", "Centre, right of the negative's centre."),
    centreY: number(-1, 1, 0, "long edges", "Centre, below the negative's centre."),
    width: number(0.01, 2, 1, "long edges", "Width."),
    height: number(0.01, 2, 1, "long edges", "Height."),
  },
  "Rectangle kept, in the straightened frame, in lengths of the negative's long edge.",
);

export const whiteBalanceSchema = group(
  {
    mode: choice(["as shot", "set"], "as shot", "The camera's own balance, or the light given here."),
    kelvin: number(KELVIN_RANGE.lowest, KELVIN_RANGE.highest, 5500, "K", "Temperature of the light taken for white."),
    tint: number(-60, 60, 0, "thousandths", "Off the locus; + for greenish light, which makes the picture magenta."),
    follow: number(0, 1, 1, "fraction", "How far to go from the temperature as shot to this one; the tint is kept."),
  },
  "White balance: the light that is taken for white. It changes the greys.",
);

export const lensSchema = group(
  {
    fallOffStops: number(
      -1,
      4,
      0,
      "stops",
      "Light that the lens loses in the corners, given back; 0 keeps the fall-off.",
    ),
    distortion: number(-0.3, 0.3, 0, "fraction", "Bending taken out: + straightens a barrel, − a pincushion."),
    keystoneVertical: number(
      -0.6,
      0.6,
      0,
      "per half diagonal",
      "Uprights that lean together at the top (+) made parallel.",
    ),
    keystoneHorizontal: number(
      -0.6,
      0.6,
      0,
      "per half diagonal",
      "Levels that run together at the right (+) made parallel.",
    ),
  },
  "Lens: fall-off, bending and converging lines.",
);

const place = Type.Tuple([Type.Number({ minimum: -0.1, maximum: 1.1 }), Type.Number({ minimum: -0.1, maximum: 1.1 })]);

export const cleanSpotSchema = group(
  {
    id: stableId("Stays with the spot."),
    kind: choice(["heal", "clone"], "heal", "Heal takes the texture of the source and the light around; clone copies."),
    on: Type.Boolean({ default: true, description: "Switched on." }),
    points: Type.Array(place, {
      minItems: 1,
      maxItems: 400,
      description: "One place, or a stroke: x, y in long edges from the negative's top left.",
    }),
    radius: number(0.0005, 0.2, 0.008, "long edges", "Radius."),
    softness: fraction(0.4, "Share of the radius over which it fades out."),
    sourceX: number(-1.2, 1.2, 0.03, "long edges", "How far right of the place its source lies."),
    sourceY: number(-1.2, 1.2, 0, "long edges", "How far below the place its source lies."),
  },
  "One place that is mended from another.",
);

export const groundSchema = group(
  {
    exposureEv: number(-5, 5, 0, "stops", "Exposure; +1 doubles the light."),
    whiteBalance: whiteBalanceSchema,
    angleDegrees: number(-45, 45, 0, "degrees", "Straightening; positive turns the picture clockwise."),
    quarterTurns: Type.Integer({ minimum: 0, maximum: 3, default: 0, description: "Quarter turns clockwise." }),
    crop: Type.Union([cropSchema, Type.Null()], {
      default: null,
      description: "Crop; null keeps all that is straight.",
    }),
    lens: lensSchema,
    calm: number(0, 1, 0, "fraction", "How far the grain of the noise is calmed; 0 leaves it."),
    clean: Type.Array(cleanSpotSchema, { maxItems: 400, default: [], description: "Places mended, first to last." }),
  },
  "Ground: light, lens, noise, clean places and geometry.",
);

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

export const localContrastSchema = group(
  {
    low: number(-1, 2, 0, "gain", "Local contrast of what is darker than a stop below Zone V; −1 removes it."),
    mid: number(-1, 2, 0, "gain", "Local contrast of the middle."),
    high: number(-1, 2, 0, "gain", "Local contrast of what is lighter than a stop above Zone V."),
  },
  "Gain of the detail about an edge-keeping base, by the tone of the base.",
);

export const shapeSchema = group(
  {
    blackPoint: number(DEEPEST_BLACK_STOPS, 0, DEEPEST_BLACK_STOPS, "stops", "Light that prints black, from Zone V."),
    whitePoint: number(0.25, 8, SENSOR_WHITE_STOPS, "stops", "Light that prints white, from Zone V."),
    midPoint: number(-2, 2, 0, "stops", "Lifts (+) or lowers (−) middle grey, ends fixed."),
    grade: number(0, 5, 2, "grade", "Contrast about middle grey; 2 is normal."),
    characteristic: choice(["straight", "film"], "straight", "Straight, or film-like with toe and shoulder."),
    toe: fraction(0.35, "Softness of the light end of a film-like curve."),
    localContrast: localContrastSchema,
    shoulder: fraction(0.45, "Softness of the dark end of a film-like curve."),
    curve: Type.Array(Type.Tuple([Type.Number({ minimum: 0, maximum: 1 }), Type.Number({ minimum: 0, maximum: 1 })]), {
      minItems: 2,
      maxItems: 16,
      default: [
        [0, 0],
        [1, 1],
      ],
      description: "Free curve: points (print lightness in, print lightness out), L*/100, x rising; monotone cubic.",
    }),
  },
  "Shape: the tone curve from light to print.",
);

export const ellipseSchema = group(
  {
    kind: Type.Literal("ellipse"),
    x: number(-1, 2, 0.5, "long edges", "Centre from the negative's left."),
    y: number(-1, 2, 0.35, "long edges", "Centre from the negative's top."),
    radiusX: number(0.002, 3, 0.2, "long edges", "Half axis before turning."),
    radiusY: number(0.002, 3, 0.15, "long edges", "Half axis before turning."),
    angleDegrees: number(-360, 360, 0, "degrees", "Turned clockwise."),
    softness: fraction(0.9, "Share of the half axes over which it fades out."),
  },
  "An ellipse of light.",
);

export const strokeSchema = group(
  {
    radius: number(0.001, 1, 0.06, "long edges", "Radius to where the stroke ends."),
    softness: fraction(1, "Share of the radius over which it fades out."),
    flow: number(0.005, 1, 0.05, "fraction", "Share of the move that one stroke lays down."),
    erase: Type.Boolean({ default: false, description: "Takes away instead of laying down." }),
    points: Type.Array(
      Type.Tuple([
        Type.Number({ minimum: -1, maximum: 2 }),
        Type.Number({ minimum: -1, maximum: 2 }),
        Type.Number({ minimum: 0, maximum: 1 }),
      ]),
      {
        minItems: 1,
        maxItems: 2000,
        description: "x, y in long edges from the negative's top left; pen pressure 0–1.",
      },
    ),
  },
  "One brush stroke.",
);

export const brushSchema = group(
  { kind: Type.Literal("brush"), strokes: Type.Array(strokeSchema, { maxItems: 500, default: [] }) },
  "Brush strokes that build up.",
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
    on: Type.Boolean({ default: true, description: "Switched on." }),
    invert: Type.Boolean({ default: false, description: "Everything outside the shape." }),
    shape: Type.Union([ellipseSchema, brushSchema]),
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
      default: [],
      description: "Families of the picture's colours, which trim whatever the weights or the film give.",
    }),
    softness: fraction(0.5, "How softly one family passes into the next."),
    areas: Type.Array(weighAreaSchema, {
      maxItems: 16,
      default: [],
      description: "Areas weighed otherwise, each laid over those before; what none claims is weighed as above.",
    }),
  },
  "Weigh: grey = red·R + green·G + blue·B in linear Rec.2020, or what a film sees; then stops for each family. The defaults are plain luminance.",
);

export const lightMoveSchema = group(
  {
    id: stableId("Stays with the move."),
    name: Type.String({ maxLength: 80, description: "What the user calls it." }),
    on: Type.Boolean({ default: true, description: "Switched on." }),
    stops: number(-4, 4, 0, "stops", "Lift (+) or burn (−) where the shape is full."),
    amountPercent: number(0, 200, 100, "percent", "Scales the whole move."),
    invert: Type.Boolean({ default: false, description: "Acts outside the shape." }),
    shape: Type.Union([ellipseSchema, brushSchema]),
  },
  "One light move.",
);

export const TONERS = ["none", "sepia", "selenium", "copper", "coffee", "blue"] as const;
export const GRAIN_FORMATS = ["half frame", "small", "medium", "large"] as const;

export const finishSchema = group(
  {
    grain: group(
      {
        granularity: number(0, 60, 0, "1000·σ(D)", "RMS granularity at D 1.0 through a 48 µm aperture; 0 is off."),
        crystalUm: number(0.5, 20, 6, "µm", "Size of the silver clumps on film."),
        format: choice(GRAIN_FORMATS, "small", "Film format: long edge 24, 36, 56 or 127 mm."),
        seed: Type.Integer({ minimum: 0, maximum: 2147483647, default: 1, description: "Which piece of film." }),
      },
      "Grain of the film.",
    ),
    toning: group(
      {
        toner: choice(TONERS, "none", "Toner whose hue is simulated."),
        strength: fraction(0.5, "Depth of the tone."),
        balance: number(-1, 1, 0, "fraction", "−1 tones the darks only, +1 the lights only, 0 all."),
      },
      "Toning by density at constant lightness.",
    ),
    edgeBurn: group(
      {
        stops: number(-2, 1, 0, "stops", "Burn (−) or lift (+) in the corners."),
        start: fraction(0.5, "Where it begins between centre (0) and corner (1)."),
        roundness: fraction(0.6, "0 follows the edges, 1 is round."),
      },
      "Burned-in edges, from the cropped frame.",
    ),
  },
  "Finish: grain, tone and edges.",
);

export const recipeSchema = Type.Object(
  {
    version: Type.Literal(RECIPE_VERSION, { default: RECIPE_VERSION, description: "Version of this document." }),
    ground: groundSchema,
    weigh: weighSchema,
    shape: shapeSchema,
    light: group(
      { moves: Type.Array(lightMoveSchema, { maxItems: 64, default: [], description: "In order, first to last." }) },
      "Light: dodging and burning.",
    ),
    finish: finishSchema,
  },
  { ...closed, $id: "yelm-recipe", title: "Yelm recipe", description: "Everything a print is." },
);

export type Recipe = Static<typeof recipeSchema>;
export type Crop = Static<typeof cropSchema>;
export type LightMove = Static<typeof lightMoveSchema>;
export type EllipseShape = Static<typeof ellipseSchema>;
export type BrushShape = Static<typeof brushSchema>;
export type CleanSpot = Static<typeof cleanSpotSchema>;
export type Lens = Static<typeof lensSchema>;
export type WeighArea = Static<typeof weighAreaSchema>;
export type Family = Static<typeof familySchema>;
export type FilmChoice = Static<typeof filmSchema>;
export type FilmName = (typeof FILM_NAMES)[number];
export type FilterName = (typeof FILTER_NAMES)[number];
export type FilmLight = (typeof FILM_LIGHTS)[number];
export type Stroke = Static<typeof strokeSchema>;
export type Toner = (typeof TONERS)[number];
export type GrainFormat = (typeof GRAIN_FORMATS)[number];
/** The parts of a recipe that can be copied, merged and cached by themselves. */
export type RecipePart = "ground" | "weigh" | "shape" | "light" | "finish";
export const RECIPE_PARTS: readonly RecipePart[] = ["ground", "weigh", "shape", "light", "finish"];
